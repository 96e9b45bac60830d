package problems

import (
	"net/http"
	"slices"
	"strconv"
	"time"

	"vineladder/internal/core/check"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// linesLimit bounds the problems that are sent at once; there is a way to narrow them.
const linesLimit = 200

// A view is the problems of a site, or those of them that were asked for.
type view struct {
	desk.Screen
	Asked    asked
	Groups   []group
	Branches []branch
	Above    []branch // of the branch that was asked for
	Lines    []desk.ProblemLine
	Count    int // of those asked for; Lines has the first
	Total    int
	Came     int // by the draft
	Went     int
	Excused  int
	Meant    []meantLine
	Why      string // of the check that was asked for
	Counting bool
	Until    string // usual day on which to ask again
	Locked   bool
}

// asked is which problems a person wants to see.
type asked struct {
	Check  string
	Branch site.PageID
	Show   string // "": those that there are; "new", "mended" by the draft; "meant"
}

// A group is the checks of one weight that found something.
type group struct {
	Weight check.Weight
	Words  string
	Checks []checkLine
}

type checkLine struct {
	Key, Name string
	Count     int
	On        bool
}

// A branch is a page with the number of problems in it.
type branch struct {
	Page  *site.Page
	Count int
}

type meantLine struct {
	desk.MeantProblem
	ID   string
	Link string
	Day  string
}

var weightWords = map[check.Weight]string{
	check.Wrong: "Visitors run into it", check.Doubt: "Seldom meant so", check.Advice: "Could be better",
}

func askedOf(r *http.Request) asked {
	return asked{r.FormValue("check"), desk.Number[site.PageID](r.FormValue("branch")), r.FormValue("show")}
}

// takes says whether a problem is one that was asked for.
func (a asked) takes(s *site.Site, p check.Problem) bool {
	return (a.Check == "" || p.Check == a.Check) && (a.Branch == 0 || p.Page != 0 && s.IsWithin(p.Page, a.Branch))
}

func (s *Area) show(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	v := view{Screen: desk.Screen{Desk: d}, Asked: askedOf(r), Locked: d.State == "now"}
	var err error
	if v.Screen, err = s.Screen(r, d, "problems"); err != nil {
		return err
	}
	found, err := s.Problems(r, d)
	if err != nil {
		return err
	}
	if !d.Site.InTree(v.Asked.Branch) {
		v.Asked.Branch = 0
	}
	v.Total, v.Came, v.Went = len(found.All), len(found.New), len(found.Mended)
	v.Counting, v.Excused = found.Counting, len(found.Meant)
	v.Until = d.Now.In(d.Site.Settings().Zone).AddDate(0, 6, 0).Format(time.DateOnly)
	shown := found.All
	switch v.Asked.Show {
	case "new":
		shown = found.New
	case "mended":
		shown = found.Mended
	case "meant":
		shown = nil
		v.meant(found.Meant)
	}
	v.sort(shown)
	v.fill(s, shown)
	name := "problems"
	if r.Header.Get("X-Part") != "" {
		name = "problems-parts"
	}
	s.Render(w, r, name, &v)
	return nil
}

// sort counts problems by check, and by the branches inside the one that was asked for.
func (v *view) sort(shown []check.Problem) {
	counts, below := map[string]int{}, map[site.PageID]int{}
	for _, p := range shown {
		if v.Asked.Branch == 0 || v.Asked.takes(v.Site, check.Problem{Check: v.Asked.Check, Page: p.Page}) {
			counts[p.Check]++
		}
		if p.Page == 0 || v.Asked.Check != "" && p.Check != v.Asked.Check {
			continue
		}
		for _, above := range v.Site.Path(p.Page) {
			below[above.ID]++
		}
	}
	for _, weight := range check.Weights() {
		made := group{Weight: weight, Words: weightWords[weight]}
		for _, c := range check.All() {
			if c.Weight == weight && (counts[c.Key] > 0 || c.Key == v.Asked.Check) {
				made.Checks = append(made.Checks, checkLine{c.Key, c.Name, counts[c.Key], c.Key == v.Asked.Check})
			}
		}
		if len(made.Checks) > 0 {
			v.Groups = append(v.Groups, made)
		}
	}
	if n := counts[check.Failed]; n > 0 {
		failed := checkLine{check.Failed, "Checks that could not be done", n, v.Asked.Check == check.Failed}
		v.Groups = append(
			v.Groups,
			group{Weight: check.Wrong, Words: "Tell whoever runs the program", Checks: []checkLine{failed}},
		)
	}
	top := v.Asked.Branch
	if top == 0 {
		top = v.Site.Home()
	}
	for _, kid := range v.Site.Children(top) {
		if below[kid] > 0 {
			v.Branches = append(v.Branches, branch{v.Site.Page(kid), below[kid]})
		}
	}
	slices.SortStableFunc(v.Branches, func(a, b branch) int { return b.Count - a.Count })
	if v.Asked.Branch != 0 {
		for _, p := range v.Site.Path(v.Asked.Branch) {
			v.Above = append(v.Above, branch{p, below[p.ID]})
		}
	}
}

// fill lists the first of the problems that were asked for.
func (v *view) fill(s *Area, shown []check.Problem) {
	var some []check.Problem
	for _, p := range shown {
		if v.Asked.takes(v.Site, p) {
			some = append(some, p)
		}
	}
	v.Count = len(some)
	v.Lines = v.Desk.Lines(s.Server, some[:min(len(some), linesLimit)])
	for i := range v.Lines {
		if v.Asked.Show == "mended" {
			v.Lines[i].Fix = ""
		}
	}
	if c := check.Of(v.Asked.Check); c != nil {
		v.Why = c.Why
	}
}

func (v *view) meant(all []desk.MeantProblem) {
	for _, p := range all {
		if v.Asked.takes(v.Site, p.Problem) {
			v.Meant = append(v.Meant, meantLine{
				p, desk.ProblemID(p.Problem), v.ThingLink(p.On), p.By.Until.Format("2 January 2006"),
			})
		}
	}
}

// Narrow gives the address of the area with one thing asked otherwise.
func (v *view) Narrow(key, value string) string {
	ask := map[string]string{"check": v.Asked.Check, "show": v.Asked.Show, "branch": ""}
	if v.Asked.Branch != 0 {
		ask["branch"] = strconv.FormatInt(int64(v.Asked.Branch), 10)
	}
	ask[key] = value
	return v.LinkWith("/problems", ask)
}
