package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image/color"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"

	"github.com/fogleman/gg"
	"github.com/go-pdf/fpdf"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

// A paper is a file of the demo: where it stands, what it is called and shows, and what makes its bytes.
type paper struct {
	in, label, name, shows string
	bytes                  func() ([]byte, error)
}

// Folders of the demo's files, in their order. Papers that belong to a page stand below it.
const (
	inCharts  = "Charts and sketches"
	inTables  = "Timetables to print"
	inReports = "Reports and forms"
)

// papers are the files, two of which nothing uses, and one of which has no description.
func papers() []paper {
	var all []paper
	for i, harbour := range []string{"Skerrow", "Great Hallin", "Øyra", "Åsgarth", "St Brannoc", "Vesterhav"} {
		all = append(all, paper{
			inCharts, "Chart of " + harbour, "chart-" + strings.ToLower(plainName(harbour)) + ".png",
			"A drawn chart of " + harbour + ": the island, its pier, and depths in metres.",
			func() ([]byte, error) { return chart(harbour, uint64(i)) },
		})
	}
	for i, ferry := range []string{"Tern", "Kittiwake", "Selkie"} {
		all = append(all, paper{
			inCharts, "The " + ferry, strings.ToLower(ferry) + ".png",
			"A drawing of the ferry " + ferry + " from her side.",
			func() ([]byte, error) { return ferryOf(ferry, i) },
		})
	}
	all = append(all, paper{
		inCharts, "Old pier", "old-pier.png", "", func() ([]byte, error) { return chart("Old pier", 77) },
	})
	for _, season := range []string{"Summer", "Winter"} {
		all = append(all, table(inTables, season+" timetable", "boats", [][]string{
			{
				"From",
				"To",
				"First",
				"Last",
			},
			{"Skerrow", "Great Hallin", "06:40", "21:10"},
			{"Skerrow", "Øyra", "07:15", "19:30"},
			{"Great Hallin", "Vesterhav", "08:00", "18:05"},
		}))
	}
	all = append(
		all,
		table(inTables, "Fares at a glance", "what a crossing costs", [][]string{
			{
				"Who",
				"Single",
				"Return",
			}, {"Adult", "6.40", "11.20"}, {"Child", "3.20", "5.60"}, {"Car", "24.00", "42.00"},
		}),
		words(inReports, "Report for 2025", "The Board's year in twelve pages, of which this is the first."),
		words(inReports, "Report for 2024", "The Board's year, with the accounts."),
		words(
			inReports,
			"Mooring form",
			"Name of the vessel, length, draught, and the months for which a mooring is asked.",
		),
		words(inReports, "Freight form", "What is to go, how heavy it is, and where it stands."),
		words(inReports, "Harbour rules", "Speed, anchoring, fires and dogs."),
		words(inReports, "Map of pier offices", "Where to find somebody, and when."),
		words(inReports, "Poster of 2019", "The regatta of 2019. Nothing links to it any more."),
		words("Freight rates", "Freight rates", "By weight and by route, from January."),
		words("Expenses", "Claim for expenses", "For the staff: what was spent, and the receipts."),
		words("Papers for December", "Agenda for December", "For members of the Board."),
		words("Papers for December", "Accounts to approve", "For members of the Board."),
	)
	return all
}

// Papers adds the demo's files to a site that Load built: their folders, the files, and their uses on pages.
func Papers(ctx context.Context, st *store.Store, bytes *blob.Store, publicHosts ...string) error {
	p := &papering{ctx: ctx, st: st, site: st.Published().Site, made: map[string]site.PageID{}}
	if err := p.folders(); err != nil {
		return err
	}
	for _, one := range papers() {
		if err := p.put(bytes, one); err != nil {
			return fmt.Errorf("the file “%s”: %w", one.label, err)
		}
	}
	if err := p.publish("brought the files in"); err != nil {
		return err
	}
	if err := p.use(text.NewCleaner(publicHosts...)); err != nil {
		return err
	}
	if err := p.search(); err != nil {
		return err
	}
	return p.publish("put charts and papers on the pages, and let visitors search")
}

// search makes the page on which visitors search, and leads the account menu to it.
func (p *papering) search() error {
	pages, err := p.st.NewPageIDs(p.ctx, 1)
	if err != nil {
		return err
	}
	items, err := p.st.NewEntryIDs(p.ctx, 1)
	if err != nil {
		return err
	}
	menu := p.site.MenuByKey("account")
	if menu == nil {
		return errors.New("there is no menu “Account”")
	}
	number := strconv.FormatInt(int64(pages[0]), 10)
	p.ops = append(
		p.ops,
		edit.OpMake{Page: pages[0], Place: edit.Place{Parent: p.site.Home()}, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, New: "Search"},
			{Field: edit.FieldStatus, New: string(site.StatusLive)},
			{Field: edit.FieldListed, New: "no"},
		}},
		edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldSearchPage, New: number}}},
		edit.OpPutEntries{
			Gap:     edit.Gap{Menu: menu.ID, Before: menu.Entries[0].ID},
			Entries: []edit.EntryForm{{ID: items[0], Fields: fields("shows", "page:"+number)}},
		},
	)
	return nil
}

// A papering gathers the operations that bring files in.
type papering struct {
	ctx  context.Context
	st   *store.Store
	site *site.Site
	made map[string]site.PageID // files and folders by label
	ops  []edit.Op
}

func (p *papering) publish(words string) error {
	made, err := p.st.PublishDirect(p.ctx, store.Account{Name: "the demo"}, words, p.ops)
	if err != nil {
		return err
	}
	p.site, p.ops = made.Site, nil
	return nil
}

func (p *papering) folders() error {
	ids, err := p.st.NewPageIDs(p.ctx, 4)
	if err != nil {
		return err
	}
	root, at := edit.FilesPlace(p.site, ids[0])
	p.ops = append(p.ops, root...)
	for i, label := range []string{inCharts, inTables, inReports} {
		p.ops = append(p.ops, edit.MakeFolder(ids[i+1], at, label))
		p.made[label] = ids[i+1]
	}
	return nil
}

func (p *papering) put(bytesOf *blob.Store, one paper) error {
	content, err := one.bytes()
	if err != nil {
		return err
	}
	holds, err := bytesOf.Keep(p.ctx, one.name, bytes.NewReader(content))
	if err != nil {
		return err
	}
	ids, err := p.st.NewPageIDs(p.ctx, 1)
	if err != nil {
		return err
	}
	parent := p.made[one.in]
	if parent == 0 {
		parent = find(p.site, one.in)
	}
	file := edit.MakeFile(ids[0], edit.Place{Parent: parent}, one.label, one.name, holds)
	if one.shows != "" {
		file.Fields = append(file.Fields, edit.FieldChange{Field: edit.FieldSummary, New: one.shows})
	}
	p.ops, p.made[one.name] = append(p.ops, file), ids[0]
	return nil
}

// use puts pictures and links into the texts of pages, and files into their details.
func (p *papering) use(cleaner *text.Cleaner) error {
	figure := func(name string) string {
		of := p.site.Page(p.made[name])
		return fmt.Sprintf(`<figure><img src="page:%d" alt="%s"/><figcaption>%s</figcaption></figure>`,
			of.ID, of.Summary, of.Label)
	}
	link := func(before, name, after string) string {
		return fmt.Sprintf(
			`<p>%s<a href="page:%d">%s</a>%s</p>`,
			before,
			p.made[name],
			p.site.Page(p.made[name]).Label,
			after,
		)
	}
	added := map[string]string{
		"Great Hallin": figure("chart-great-hallin.png"),
		"Øyra":         figure("chart-oyra.png"),
		"Vesterhav":    figure("chart-vesterhav.png"),
		"Our ferries":  figure("tern.png") + figure("kittiwake.png") + figure("selkie.png"),
		"Timetables": link(
			"To print: ",
			"summer-timetable.pdf",
			".",
		) + link(
			"In winter: ",
			"winter-timetable.pdf",
			".",
		),
		"Fares":             link("On one sheet: ", "fares-at-a-glance.pdf", "."),
		"Swinging moorings": link("Ask for one with the ", "mooring-form.pdf", "."),
		"Seasonal berths":   link("Ask for one with the ", "mooring-form.pdf", "."),
		"Booking freight":   link("Fill in the ", "freight-form.pdf", ", or telephone."),
		"Freight rates":     link("All of them: ", "freight-rates.pdf", "."),
		"Expenses":          link("Fill in the ", "claim-for-expenses.pdf", "."),
		"Harbour rules":     link("To print: ", "harbour-rules.pdf", "."),
		"Pier offices":      link("The ", "map-of-pier-offices.pdf", " shows the way."),
	}
	for label, html := range added {
		page := p.site.Page(find(p.site, label))
		if page == nil {
			return fmt.Errorf("there is no page “%s”", label)
		}
		stands, err := p.st.Text(p.ctx, page.Text)
		if err != nil {
			return err
		}
		hashes, err := p.st.SaveTexts(p.ctx, cleaner.Clean(p.site, stands+html, clock.Now()))
		if err != nil {
			return err
		}
		p.ops = append(p.ops, edit.OpEdit{Page: page.ID, Fields: []edit.FieldChange{
			{Field: edit.FieldText, Old: page.Text, New: hashes[0]},
		}})
	}
	for _, year := range []string{"2025", "2024"} {
		label, name := "Report for "+year, "report-for-"+year+".pdf"
		page := find(p.site, label)
		p.ops = append(p.ops, edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: "document.file", New: site.FileRef(p.made[name])},
		}})
	}
	return nil
}

func plainName(label string) string {
	return strings.NewReplacer(" ", "-", "Ø", "o", "Å", "a", "ø", "o", "å", "a").Replace(label)
}

// words is a paper of one page with a title and a sentence.
func words(in, label, sentence string) paper {
	return paper{in, label, strings.ToLower(plainName(label)) + ".pdf", sentence, func() ([]byte, error) {
		return printed(label, func(page *fpdf.Fpdf, latin func(string) string) {
			page.MultiCell(0, 8, latin(sentence), "", "L", false)
		})
	}}
}

// table is a paper of one page with a table.
func table(in, label, of string, rows [][]string) paper {
	return paper{
		in,
		label,
		strings.ToLower(plainName(label)) + ".pdf",
		"A table to print: " + of + ".",
		func() ([]byte, error) {
			return printed(label, func(page *fpdf.Fpdf, latin func(string) string) {
				for _, row := range rows {
					for _, cell := range row {
						page.CellFormat(42, 9, latin(cell), "1", 0, "L", false, 0, "")
					}
					page.Ln(-1)
				}
			})
		},
	}
}

// printed is a page with the Board's name, a title and what fill writes; the same bytes each time.
func printed(title string, fill func(*fpdf.Fpdf, func(string) string)) ([]byte, error) {
	page := fpdf.New("P", "mm", "A4", "")
	latin := page.UnicodeTranslatorFromDescriptor("")
	page.SetCreationDate(time.Date(2026, 1, 5, 9, 0, 0, 0, time.UTC))
	page.SetModificationDate(time.Date(2026, 1, 5, 9, 0, 0, 0, time.UTC))
	page.SetCatalogSort(true)
	page.SetTitle(title, true)
	page.AddPage()
	page.SetFont("Helvetica", "", 11)
	page.CellFormat(0, 8, "Skerrow Isles Harbour Board", "B", 1, "L", false, 0, "")
	page.Ln(6)
	page.SetFont("Helvetica", "B", 22)
	page.CellFormat(0, 14, latin(title), "", 1, "L", false, 0, "")
	page.SetFont("Helvetica", "", 12)
	fill(page, latin)
	var out bytes.Buffer
	err := page.Output(&out)
	return out.Bytes(), err
}

var (
	sea   = color.RGBA{214, 229, 236, 255}
	deep  = color.RGBA{186, 210, 222, 255}
	land  = color.RGBA{226, 219, 190, 255}
	coast = color.RGBA{96, 88, 60, 255}
	ink   = color.RGBA{18, 65, 74, 255}
)

// chart draws an island in the sea, its pier, and the north; the same for a seed each time.
func chart(name string, seed uint64) ([]byte, error) {
	at := rand.New(rand.NewPCG(seed, 11))
	c := gg.NewContext(1280, 800)
	c.SetColor(sea)
	c.Clear()
	outline := func(grow float64, lay func()) {
		steps := 90
		wobble := rand.New(rand.NewPCG(seed, 5))
		a, b, d := wobble.Float64()*6, wobble.Float64()*6, wobble.Float64()*6
		for i := range steps {
			angle := 2 * math.Pi * float64(i) / float64(steps)
			r := 210 + grow + 50*math.Sin(2*angle+a) + 28*math.Sin(3*angle+b) + 12*math.Sin(7*angle+d)
			c.LineTo(640+1.5*r*math.Cos(angle), 400+r*math.Sin(angle))
		}
		c.ClosePath()
		lay()
	}
	for _, grow := range []float64{120, 60} {
		c.SetColor(deep)
		outline(grow, func() { c.SetLineWidth(3); c.Stroke() })
	}
	c.SetColor(land)
	outline(0, c.FillPreserve)
	c.SetColor(coast)
	c.SetLineWidth(4)
	c.Stroke()
	c.SetColor(ink)
	c.SetLineWidth(14)
	c.DrawLine(930, 430, 1080, 470)
	c.Stroke()
	for range 14 {
		c.DrawString(fmt.Sprint(3+at.IntN(40)), 60+at.Float64()*1160, 60+at.Float64()*90)
		c.DrawString(fmt.Sprint(3+at.IntN(40)), 60+at.Float64()*1160, 660+at.Float64()*90)
	}
	c.SetLineWidth(5)
	c.DrawLine(1180, 150, 1180, 60)
	c.DrawLine(1180, 60, 1165, 90)
	c.DrawLine(1180, 60, 1195, 90)
	c.Stroke()
	c.Push()
	c.Scale(4, 4)
	c.DrawStringAnchored(strings.ToUpper(plainName(name)), 160, 100, 0.5, 0.5)
	c.Pop()
	return encoded(c)
}

// ferryOf draws a ferry from her side.
func ferryOf(name string, decks int) ([]byte, error) {
	c := gg.NewContext(1200, 600)
	c.SetColor(color.White)
	c.Clear()
	c.SetColor(sea)
	c.DrawRectangle(0, 430, 1200, 170)
	c.Fill()
	c.SetColor(ink)
	for _, p := range [][2]float64{{140, 360}, {1080, 360}, {1000, 470}, {220, 470}} {
		c.LineTo(p[0], p[1])
	}
	c.ClosePath()
	c.Fill()
	c.SetColor(land)
	for deck := range decks + 1 {
		inset := float64(60 * deck)
		c.DrawRectangle(260+inset, 300-float64(60*deck), 640-2*inset, 60)
	}
	c.Fill()
	c.SetColor(ink)
	for deck := range decks + 1 {
		for x := 290 + float64(60*deck); x < 870-float64(60*deck); x += 60 {
			c.DrawCircle(x, 330-float64(60*deck), 12)
		}
	}
	c.Fill()
	c.SetColor(color.White)
	c.Push()
	c.Scale(4, 4)
	c.DrawStringAnchored(name, 150, 103, 0.5, 0.5)
	c.Pop()
	return encoded(c)
}

func encoded(c *gg.Context) ([]byte, error) {
	var out bytes.Buffer
	err := c.EncodePNG(&out)
	return out.Bytes(), err
}
