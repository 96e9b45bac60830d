package demo

import "vineladder/internal/standin"

// The organisation's own sign-in of the demo: a stand-in on this machine, at which one chooses who one is.
const (
	OrganisationClient = "vine-ladder"
	OrganisationSecret = "a secret of the demo"
	// Office is the group whose members are staff here.
	Office = "harbour-office"
)

// Organisation gives the people for whom it vouches.
func Organisation() []standin.Person {
	return []standin.Person{
		{Subject: "1001", Login: "astrid", Name: "Astrid Moen", Email: "astrid@skerrow.example", Groups: []string{Office}},
		{Subject: "1002", Login: "bjarne", Name: "Bjarne Voll", Email: "bjarne@skerrow.example", Groups: []string{"canteen"}},
	}
}
