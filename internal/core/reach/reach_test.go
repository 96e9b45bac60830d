package reach_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func TestWhatAVisitorGets(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Sailings
    Fares | status=offline
      Students
  Staff handbook | audience=staff
    Rotas
    Open part | audience=everyone
  Operators' room | audience=operators conceal=yes
    Berths
  Winter | live_from=2026-11-24T12:00:00Z live_until=2026-11-24T13:00:00Z`)
	out := reach.Visitor{}
	in := reach.Visitor{SignedIn: true}
	master := reach.Visitor{SignedIn: true, Roles: s.Holds([]string{"masters"})}
	for _, c := range []struct {
		page    string
		visitor reach.Visitor
		after   time.Duration
		want    reach.Answer
	}{
		{"Sailings", out, 0, reach.Sees},
		{"Fares", master, 0, reach.NotThere},
		{"Students", master, 0, reach.NotThere}, // an offline page takes its branch offline
		{"Rotas", out, 0, reach.SignIn},
		{"Rotas", in, 0, reach.NoAccess},
		{"Rotas", master, 0, reach.Sees}, // harbour masters include staff
		{"Open part", out, 0, reach.Sees},
		{"Berths", out, 0, reach.NotThere}, // concealed
		{"Berths", in, 0, reach.NotThere},
		{"Winter", out, 0, reach.Sees}, // the first moment belongs to the window
		{"Winter", out, -time.Nanosecond, reach.NotThere},
		{"Winter", out, time.Hour, reach.NotThere}, // the last one does not
	} {
		lens := reach.Lens{Visitor: c.visitor, At: testkit.Now.Add(c.after)}
		assert.Equal(t, c.want, reach.Ask(s, testkit.Find(t, s, c.page), lens), "%s for %+v", c.page, c.visitor)
	}
	why := reach.WhyOffline(s, testkit.Find(t, s, "Students"), testkit.Now)
	assert.Equal(t, "Fares", why.Cause.Label, "the reason names the page that causes it")
	assert.Equal(t, "Staff handbook", reach.Source(s, testkit.Find(t, s, "Rotas")).Label)
}

// The panel's masks against the rules asked page by page and lens by lens (rules 4.1 to 4.3).
func TestPanelAgreesWithAskingOneByOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 40)
		lenses := testkit.Lenses()
		panel := reach.NewPanel(lenses...)
		s.Walk(s.Home(), func(p *site.Page) bool {
			state := panel.At(s, p.ID)
			for i, lens := range lenses {
				online, admitted := naive(s, p, lens)
				if state.Online.Has(i) != online || state.Admitted.Has(i) != admitted {
					t.Fatalf("%s for lens %d: %+v, want online %v, admitted %v", p.Label, i, state, online, admitted)
				}
				from, until, ok := reach.OnlineFrom(s, p.ID)
				in := ok && !lens.At.Before(from) && (until.IsZero() || lens.At.Before(until))
				if in != online {
					t.Fatalf("interval of %s: %v to %v, online %v", p.Label, from, until, online)
				}
			}
			return true
		})
	})
}

func naive(s *site.Site, p *site.Page, lens reach.Lens) (online, admitted bool) {
	online = p.Status == site.StatusLive && !lens.At.Before(p.LiveFrom) &&
		(p.LiveUntil.IsZero() || lens.At.Before(p.LiveUntil))
	admitted = p.Audience == site.AudienceEveryone || p.Audience == site.AudienceSignedIn && lens.SignedIn
	for _, role := range p.Audience.Roles() {
		for _, held := range lens.Roles {
			admitted = admitted || role == held
		}
	}
	if p.Parent != 0 {
		above, inherited := naive(s, s.Page(p.Parent), lens)
		online = online && above
		if p.Audience == site.AudienceInherited {
			admitted = inherited
		}
	} else if p.Audience == site.AudienceInherited {
		admitted = true
	}
	return online, admitted
}
