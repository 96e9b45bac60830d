package public

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/look"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/site"
)

// programPath is where menus for programs are.
const programPath = "/api/menus/"

// An apiMenu is a menu as programs read it, resolved for who asks.
type apiMenu struct {
	Key   string    `json:"key"`
	Name  string    `json:"name"`
	Lines []apiLine `json:"lines"`
	More  bool      `json:"more,omitempty"` // lines were left out: there are more than fit
}

type apiLine struct {
	Label   string    `json:"label"`
	URL     string    `json:"url,omitempty"` // absolute, but for headings and sign-out
	Hint    string    `json:"hint,omitempty"`
	Heading bool      `json:"heading,omitempty"`
	Account string    `json:"account,omitempty"` // sign-in or sign-out
	NewTab  bool      `json:"new_tab,omitempty"`
	Badge   string    `json:"badge,omitempty"`
	Icon    string    `json:"icon,omitempty"`
	Pages   *int      `json:"pages,omitempty"` // of a topic, where the menu counts them
	Lines   []apiLine `json:"lines,omitempty"`
}

// menuForPrograms answers with a menu that is marked for programs, as the visitor who asks would see it. “levels” says
// how many levels; a menu that is not marked is not there.
func (r *Renderer) menuForPrograms(q Request) (Response, error) {
	key, isJSON := strings.CutSuffix(q.Path[len(programPath):], ".json")
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	m := q.Site.MenuByKey(key)
	levels, err := strconv.Atoi(query.Get("levels"))
	switch {
	case !isJSON || m == nil || !m.Programs || grant.ClosedTo(q.Site, q.Lens.Roles):
		return program(
			q,
			http.StatusNotFound,
			map[string]string{"error": "There is no menu for programs at this address."},
		)
	case query.Get("levels") == "":
		levels = look.ProgramLevels
	case err != nil || levels < 1 || levels > look.ProgramLevelLimit:
		return program(
			q,
			http.StatusBadRequest,
			map[string]string{"error": fmt.Sprintf("“levels” is a number from 1 to %d.", look.ProgramLevelLimit)},
		)
	}
	if q.Kept != nil {
		if found, known := q.Kept.programs.Load(programKey{m.ID, levels}); known {
			return found.(Response), nil
		}
	}
	lines, more := look.Programs(q.Site, m, menu.NewView(q.Site, m, q.Lens), levels)
	made, err := program(q, http.StatusOK, apiMenu{Key: m.Key, Name: m.Name, Lines: r.apiLines(lines), More: more})
	if err == nil && q.Kept != nil && q.Kept.room(len(made.Body)) {
		q.Kept.programs.Store(programKey{m.ID, levels}, made)
	}
	return made, err
}

// A programKey is what a menu for programs depends on for one lens.
type programKey struct {
	menu   site.MenuID
	levels int
}

func program(q Request, status int, with any) (Response, error) {
	var body bytes.Buffer
	out := json.NewEncoder(&body)
	out.SetEscapeHTML(false)
	if err := out.Encode(with); err != nil {
		return Response{}, fmt.Errorf("write a menu for programs: %w", err)
	}
	answer := Response{Status: status, Type: jsonWords, Cache: cacheAsk, Body: body.Bytes()}
	if status == http.StatusOK {
		sum := sha256.Sum256(answer.Body)
		answer.Tag = `"` + hex.EncodeToString(sum[:12]) + `"`
	}
	if q.Lens.SignedIn {
		answer.Cache = cacheProgram
	}
	return answer, nil
}

// accountPaths are where account links lead programs.
var accountPaths = map[site.AccountLink]string{
	site.AccountSignIn:   "/sign-in",
	site.AccountRegister: "/register",
	site.AccountDetails:  "/my-details",
}

func (r *Renderer) apiLines(lines []look.Line) []apiLine {
	made := make([]apiLine, len(lines))
	for i := range lines {
		l := &lines[i]
		made[i] = apiLine{
			Label:   l.Label,
			URL:     l.Href,
			Hint:    l.Hint,
			Heading: l.Heading,
			Account: string(l.Does),
			NewTab:  l.NewTab,
			Badge:   l.Badge.Text,
			Icon:    l.Icon,
		}
		if l.Counted {
			made[i].Pages = &l.Count
		}
		if path := cmp.Or(accountPaths[l.Does], l.Href); strings.HasPrefix(path, "/") {
			made[i].URL = r.origin + path
		}
		if len(l.Lines) > 0 {
			made[i].Lines = r.apiLines(l.Lines)
		}
	}
	return made
}
