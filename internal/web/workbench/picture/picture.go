package picture

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/icicle"
	"vineladder/internal/core/measure"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// The site picture is drawn in a space of this size; a box narrower than pictureLeast is merged with its neighbours.
const (
	pictureWidth = 1120.0
	pictureRow   = 46
	pictureDepth = 9
	pictureLeast = 5.0
)

// Begins says that nothing stands in the tree yet but what was there from the beginning.
func (v pictureView) Begins() bool { return desk.Screen{Desk: v.Desk}.Begins() }

// pictureView is the site picture: the tree as boxes, shaded by a question, with the same in a table.
type pictureView struct {
	*desk.Desk
	Area    string
	Name    string
	Top     *site.Page
	Path    []*site.Page
	Shade   string
	Shades  []shade
	Boxes   []pictureBox
	Legend  []legendLine
	Height  int
	Width   int
	AsTable bool
}

// A shade is a question by which the picture can be coloured.
type shade struct{ Key, Words string }

var shades = []shade{
	{"shape", "How it can be found"},
	{"status", "Live or offline"},
	{"listed", "Listed in menus"},
	{"audience", "Who sees it"},
	{"clicks", "Clicks from the home page"},
	{"age", "Time since the last change"},
	{"draft", "Where this draft edits"},
}

type legendLine struct {
	Number int
	Words  string
	Pages  int // of the branch that is looked into
}

type pictureBox struct {
	icicle.Box
	Y, H   int
	Label  string
	Says   string // label, number of pages, and the answer to the question
	Class  int    // number in the legend
	Fitted string // as much of the label as has room; "" for none
	Where  string // its address
	Answer string
	Kids   bool
}

func (s *Area) picture(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	top, _ := strconv.ParseInt(r.FormValue("top"), 10, 64)
	view := pictureView{
		Desk: d, Area: "picture", Name: d.Site.Settings().Name, Shade: r.FormValue("shade"), Shades: shades,
		Width: int(pictureWidth), AsTable: r.FormValue("as-table") == "yes",
	}
	if view.Top = d.Site.Page(site.PageID(top)); view.Top == nil || !d.Site.InTree(view.Top.ID) {
		view.Top = d.Site.Page(d.Site.Home())
	}
	view.Path = d.Site.Path(view.Top.ID)
	view.Shades = slices.Concat(shades, topicShades(d.Site), askShades(d.Site), blockShades(d))
	answer, legend := shading(d, &view.Shade, s.Now())
	view.Legend = legend
	d.Site.Walk(view.Top.ID, func(p *site.Page) bool { legend[answer(p)-1].Pages++; return true })
	for _, box := range icicle.Layout(d.Site, view.Top.ID, pictureWidth, pictureLeast, pictureDepth) {
		view.add(d.Site, box, answer)
	}
	view.Height = (pictureDepth + 1) * pictureRow
	if n := len(view.Boxes); n > 0 {
		view.Height = 0
		for _, box := range view.Boxes {
			view.Height = max(view.Height, box.Y+pictureRow)
		}
	}
	s.Render(w, r, "picture", view)
	return nil
}

// topicShadeLimit bounds the topics by which the picture can be shaded, list by list the top ones; the page of a topic
// leads to its own shade.
const topicShadeLimit = 40

const (
	topicShade = "topic:"
	askShade   = "ask:"
)

// topicShades are the questions which pages bear a topic of a list, and one of its top topics.
func topicShades(s *site.Site) (made []shade) {
	for _, list := range s.TopicLists() {
		made = append(made, shade{fmt.Sprint(topicShade, list), "Topics of “" + s.Page(list).Label + "”"})
		for _, id := range s.Children(list) {
			if len(made) < topicShadeLimit {
				made = append(made, shade{fmt.Sprint(topicShade, id), "About “" + s.Page(id).Label + "”"})
			}
		}
	}
	return made
}

// askShades are the questions that the site has by itself: types, and what its lists ask.
func askShades(s *site.Site) (made []shade) {
	for _, q := range ask.Questions(s) {
		if q.Group != "" {
			made = append(made, shade{askShade + q.Key, q.Group + " “" + q.Words + "”"})
		}
	}
	return made
}

// topicShading tells which pages bear a topic, or a narrower one; of a list, any of its topics.
func topicShading(s *site.Site, topic *site.Page) (func(*site.Page) int, []legendLine) {
	of := func(p *site.Page) int {
		class := 3
		for _, borne := range s.TopicsOf(p) {
			switch {
			case borne == topic.ID:
				return 1
			case s.IsWithin(borne, topic.ID):
				class = 2
			}
		}
		return class
	}
	if topic.IsTopicList() {
		return func(p *site.Page) int { return of(p) - 1 }, legend("Bears a topic of it", "Bears none")
	}
	return of, legend("Bears “"+topic.Label+"”", "Bears a narrower topic", "Bears neither")
}

// blockShades are the questions where each block shows.
func blockShades(d *desk.Desk) []shade {
	var made []shade
	for i := range d.Site.Blocks() {
		if b := &d.Site.Blocks()[i]; len(d.Site.PlacementsOf(b.ID)) > 0 {
			made = append(made, shade{fmt.Sprintf("block:%d", b.ID), "Where “" + b.Name + "” shows"})
		}
	}
	return made
}

// Into is the address of the picture of a branch.
func (v pictureView) Into(id site.PageID) string {
	return v.Link("/picture", "top", strconv.FormatInt(int64(id), 10)) + "&shade=" + v.Shade
}

// Keep gives what of the address the form keeps.
func (v pictureView) Keep() map[string]string {
	kept := map[string]string{"draft": strconv.FormatInt(v.Draft.ID, 10), "state": v.State}
	if v.As != "" {
		kept["as"] = v.As
	}
	if v.At != "" {
		kept["at"] = v.At
	}
	return kept
}

func (v *pictureView) add(s *site.Site, box icicle.Box, answer func(*site.Page) int) {
	p := s.Page(box.Page)
	made := pictureBox{
		Box:   box,
		Y:     box.Level * pictureRow,
		H:     pictureRow - 2,
		Label: p.Label,
		Kids:  len(s.Children(p.ID)) > 0,
	}
	if box.More > 0 {
		made.Label = count.Number(box.More) + " more"
		made.Answer = "several pages"
		if made.Class = common(s, box, answer); made.Class > 0 {
			made.Answer = "all " + v.Legend[made.Class-1].Words
		}
		made.Says = fmt.Sprintf(
			"%s beside each other, from “%s” on, %s in all",
			count.Pages(box.More),
			p.Label,
			count.Pages(box.Pages),
		)
	} else {
		made.Class = answer(p)
		made.Answer = v.Legend[made.Class-1].Words
		made.Says = fmt.Sprintf("%s, %s: %s", p.Label, count.Pages(box.Pages), made.Answer)
	}
	made.Fitted, made.Where = fitted(made.Label, box.W-10), desk.AddressOf(s, p.ID)
	v.Boxes = append(v.Boxes, made)
}

// widths of characters at the size of labels, in units of the drawing: narrow ones, wide ones, all others. They are a
// little more than they take, so that nothing is cut.
const narrowWidth, wideWidth, otherWidth = 4.4, 12.5, 8.0

func widthOf(r rune) float64 {
	switch {
	case strings.ContainsRune("iljtfr.,:;'’!|()[] ", r):
		return narrowWidth
	case strings.ContainsRune("mwMWÆæœŒ@%", r), r > 0x2e80: // scripts of square characters
		return wideWidth
	}
	return otherWidth
}

// fitted is as much of a label as has room in a width: all of it, whole words with an ellipsis, at least four
// characters of the first word, or nothing.
func fitted(label string, width float64) string {
	var used float64
	runes := []rune(label)
	at := 0
	for at < len(runes) && used+widthOf(runes[at]) <= width {
		used += widthOf(runes[at])
		at++
	}
	if at == len(runes) {
		return label
	}
	for at > 0 && used+wideWidth > width {
		at--
		used -= widthOf(runes[at])
	}
	cut := strings.TrimRight(string(runes[:at]), " ")
	if space := strings.LastIndex(cut, " "); space >= 4 && runes[at] != ' ' {
		cut = strings.TrimRight(cut[:space], " ,–-")
	}
	if len([]rune(cut)) < 4 {
		return ""
	}
	return cut + "…"
}

// commonLimit bounds the pages of a merged run that are looked at; longer runs are shaded as mixed.
const commonLimit = 2000

// common gives the answer that all pages of a merged run share; 0 if they differ.
func common(s *site.Site, box icicle.Box, answer func(*site.Page) int) int {
	if box.More > commonLimit {
		return 0
	}
	class := 0
	for _, id := range s.Children(s.Page(box.Page).Parent)[box.At : box.At+box.More] {
		switch a := answer(s.Page(id)); class {
		case 0, a:
			class = a
		default:
			return 0
		}
	}
	return class
}

func legend(words ...string) []legendLine {
	lines := make([]legendLine, len(words))
	for i, w := range words {
		lines[i] = legendLine{Number: i + 1, Words: w}
	}
	return lines
}

// shading gives the function that answers the question for a page, as a number in the legend. An unknown question is
// the first.
func shading(d *desk.Desk, key *string, now time.Time) (func(*site.Page) int, []legendLine) {
	if b := d.Site.Block(desk.Number[site.BlockID](strings.TrimPrefix(*key, "block:"))); b != nil &&
		strings.HasPrefix(*key, "block:") {
		on := map[site.PageID]bool{}
		region.Cover(d.Site, b, reach.NewPanel(d.Lens), func(p *site.Page, _ reach.Mask) { on[p.ID] = true })
		return func(p *site.Page) int {
			if on[p.ID] {
				return 1
			}
			return 2
		}, legend("“"+b.Name+"” shows", "It does not")
	}
	if number, is := strings.CutPrefix(*key, topicShade); is {
		if p := d.Site.Page(desk.Number[site.PageID](number)); p != nil && p.Gathers() && d.Site.InTree(p.ID) {
			return topicShading(d.Site, p)
		}
	}
	if question, is := strings.CutPrefix(*key, askShade); is {
		asked := d.Filter
		asked.Question = question
		answers := ask.Answers(d.Site, asked, d.Lens)
		return func(p *site.Page) int {
			if answers(p) {
				return 1
			}
			return 2
		}, legend("It is so", "It is not")
	}
	switch *key {
	case "status":
		return func(p *site.Page) int {
			switch why := reach.WhyOffline(d.Site, p.ID, d.Lens.At); {
			case why.Cause == nil:
				return 1
			case why.Window:
				return 4
			case why.Cause == p:
				return 2
			}
			return 3
		}, legend("Online", "Offline, set here", "Offline with a page above", "Outside its window")
	case "listed":
		return func(p *site.Page) int {
			switch cause := menu.WhyUnlisted(d.Site, p.ID); cause {
			case nil:
				return 1
			case p:
				return 2
			}
			return 3
		}, legend("Listed", "Not listed, set here", "Not listed with a page above")
	case "audience":
		return func(p *site.Page) int {
			source := reach.Source(d.Site, p.ID)
			switch source.Audience {
			case site.AudienceInherited, site.AudienceEveryone:
				return 1
			case site.AudienceSignedIn:
				return 2
			}
			return 3
		}, legend("Everyone", "Who is signed in", "Some roles")
	case "clicks":
		clicks := measure.Clicks(d.Site, d.Lens)
		return func(p *site.Page) int {
			switch n, ok := clicks[p.ID]; {
			case !ok:
				return 5
			case n <= 1:
				return 1
			case n == 2:
				return 2
			case n == 3:
				return 3
			}
			return 4
		}, legend("At most one click", "Two clicks", "Three clicks", "Four or more", "Not by clicking")
	case "age":
		return func(p *site.Page) int {
			switch age := now.Sub(p.Changed); {
			case p.Changed.IsZero() || age < 30*24*time.Hour:
				return 1
			case age < 365*24*time.Hour:
				return 2
			case age < 3*365*24*time.Hour:
				return 3
			}
			return 4
		}, legend("In the last 30 days", "In the last year", "In the last three years", "Longer ago")
	case "draft":
		return draftShading(d)
	}
	*key = "shape"
	return func(p *site.Page) int {
		shape, _ := ask.ShapeOf(d.Site, p.ID, d.Lens.At)
		return map[ask.Shape]int{ask.ShapeFull: 1, ask.ShapeHalf: 2, ask.ShapeStub: 3, ask.ShapeClock: 4}[shape]
	}, legend("Online and listed", "Not listed", "Not online", "At another time")
}

// draftShading tells where the draft edits pages, and above which branches it does.
func draftShading(d *desk.Desk) (func(*site.Page) int, []legendLine) {
	changed, above := d.ChangedPages(), map[site.PageID]bool{}
	for id := range changed {
		for p := d.Site.Page(d.Site.Page(id).Parent); p != nil && !above[p.ID]; p = d.Site.Page(p.Parent) {
			above[p.ID] = true
		}
	}
	return func(p *site.Page) int {
		switch {
		case changed[p.ID]:
			return 3
		case above[p.ID]:
			return 2
		}
		return 1
	}, legend("As it is public now", "With changes below", "Changed in this draft")
}
