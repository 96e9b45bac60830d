package post_test

import (
	"context"
	"io"
	"net"
	"strings"
	"testing"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/post"
)

// A postbox is a mail server of the tests' own (github.com/emersion/go-smtp).
type postbox struct{ letters chan string }

func (p postbox) NewSession(*smtp.Conn) (smtp.Session, error) { return &delivery{box: p}, nil }

type delivery struct {
	box postbox
	to  string
}

func (*delivery) Mail(string, *smtp.MailOptions) error { return nil }

func (d *delivery) Rcpt(to string, _ *smtp.RcptOptions) error {
	if strings.HasPrefix(to, "nobody@") {
		return &smtp.SMTPError{Code: 550, Message: "no such person"}
	}
	d.to = to
	return nil
}

func (d *delivery) Data(r io.Reader) error {
	text, err := io.ReadAll(r)
	d.box.letters <- d.to + "\n" + string(text)
	return err
}

func (*delivery) Reset() {}

func (*delivery) Logout() error { return nil }

func TestALetterArrives(t *testing.T) {
	box := postbox{make(chan string, 1)}
	server := smtp.NewServer(box)
	at, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go server.Serve(at)
	t.Cleanup(func() { server.Close() })

	to, err := post.Parse("smtp+plain://"+at.Addr().String(), "Skerrow Isles <site@skerrow.example>")
	require.NoError(t, err)
	require.NoError(t, to.Send(context.Background(), "elin@skerrow.example", "Your account", "Choose one:\n\nØyra\n"))
	letter := <-box.letters
	for _, want := range []string{"elin@skerrow.example\n", "Subject: Your account", "From: ", "site@skerrow.example"} {
		assert.True(t, strings.Contains(letter, want), want)
	}
	err = to.Send(context.Background(), "nobody@skerrow.example", "x", "y")
	assert.ErrorContains(t, err, "no such person")
	server.Close()
	assert.ErrorContains(t, to.Send(context.Background(), "elin@skerrow.example", "x", "y"), "hand the letter over")
}

func TestWhereLettersAreHandedOver(t *testing.T) {
	for at, want := range map[string]string{
		"":                          "a mail server is given as",
		"ftp://mail.example":        "no way to hand letters over",
		"smtp+plain://mail.example": "for a mail server on this machine",
		"smtp://mail.example:x":     "a mail server is given as",
	} {
		_, err := post.Parse(at, "site@skerrow.example")
		assert.ErrorContains(t, err, want, at)
	}
	_, err := post.Parse("smtps://mail.example", "nobody at all")
	assert.ErrorContains(t, err, "who letters come from")
}
