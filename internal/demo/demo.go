// Package demo builds the site of the Skerrow Isles Harbour Board, an invented public body: its pages, roles, menus and
// accounts. Pages are made by the same operations as any edit.
package demo

import (
	"bufio"
	"context"
	_ "embed"
	"errors"
	"fmt"
	"html"
	"regexp"
	"strings"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

//go:embed pages.txt
var pagesFile string

// An Account of the demo, with its password in plain sight.
type Account struct{ Login, Name, Password, Role, Does string }

// Accounts of the demo.
var Accounts = []Account{
	{"keeper", "Runa Tveit", "nine-islands-keeper", "site-keeper", "may do everything"},
	{
		"structure",
		"Idris Calder",
		"nine-islands-structure",
		"structure-editor",
		"may edit, order and publish, not set who sees",
	},
	{"staff", "Morag Linn", "nine-islands-staff", "staff", "sees the Staff handbook on the public site"},
	{"operator", "Tam Hollis", "nine-islands-operator", "operators", "sees the Operators' room on the public site"},
	{
		"freight",
		"Ola Brekke",
		"nine-islands-freight",
		"freight-editors",
		"may edit and order below Freight, and its menu, and nothing else",
	},
	{"approver", "Signe Holm", "nine-islands-approver", "approvers", "may publish what others edited"},
}

var roles = []site.Role{
	{
		Key: "site-keeper", Name: "Site keeper", Includes: []string{"staff", "operators", "board-members", "harbour-masters"},
		Grants: site.OnSite(site.Actions()...),
	},
	{
		Key: "structure-editor", Name: "Structure editor", Includes: []string{"staff"},
		Grants: site.OnSite(
			site.ActionEdit,
			site.ActionArrange,
			site.ActionPlace,
			site.ActionLink,
			site.ActionClassify,
			site.ActionPublish,
		),
	},
	{Key: "staff", Name: "Staff"},
	{Key: "operators", Name: "Operators"},
	{Key: "harbour-masters", Name: "Harbour masters", Includes: []string{"staff"}},
	{Key: "board-members", Name: "Board members", Includes: []string{"staff"}},
}

var kinds = []site.Kind{
	{Key: "page", Name: "Page"},
	{Key: "notice", Name: "Notice", DateName: "Valid from"},
	{Key: "harbour", Name: "Harbour"},
	{Key: "timetable", Name: "Timetable", DateName: "In force from"},
	{Key: "document", Name: "Document", DateName: "Published on"},
	{Key: "minutes", Name: "Minutes", DateName: "Date of meeting"},
	{Key: "vacancy", Name: "Vacancy", DateName: "Closing date"},
	{Key: site.KindTopicList, Name: "Topic list"},
	{Key: site.KindTopic, Name: "Topic"},
}

// Load builds the demo in an empty database. publicHosts are the hosts whose links are the site's own.
func Load(ctx context.Context, st *store.Store, publicHosts ...string) error {
	zone, known := site.LoadZone("Europe/London")
	if !known {
		return errors.New("the time zone Europe/London is not known on this machine")
	}
	err := st.Found(
		ctx,
		store.Foundation{
			Settings: site.Settings{Name: "Skerrow Isles Harbour Board", Language: "en-GB", Zone: zone},
			Roles:    roles,
			Kinds:    kinds,
		},
	)
	if err != nil {
		return err
	}
	if err := addAccounts(ctx, st); err != nil {
		return err
	}
	pages, err := parse(pagesFile)
	if err != nil {
		return err
	}
	ops, err := operations(ctx, st, pages, text.NewCleaner(publicHosts...))
	if err != nil {
		return err
	}
	by := store.Account{Name: "the demo"}
	published, err := st.PublishDirect(ctx, by, "built the demo site", ops)
	if err != nil {
		return err
	}
	if published, err = st.PublishDirect(ctx, by, "gave pages their topics", classify(published.Site)); err != nil {
		return err
	}
	if err := furnish(ctx, st, published.Site, publicHosts); err != nil {
		return err
	}
	return settle(ctx, st, by)
}

// A page of the demo's file.
type page struct {
	label  string
	level  int
	fields []edit.FieldChange
	lines  []string
}

var setting = regexp.MustCompile(`([\w.]+)=("[^"]*"|\S+)`)

// parse reads pages.txt: "- Label :: field=value" makes a page, two more blanks put it inside; other lines are its
// text.
func parse(source string) ([]page, error) {
	var pages []page
	lines := bufio.NewScanner(strings.NewReader(source))
	for n := 1; lines.Scan(); n++ {
		line := lines.Text()
		trimmed := strings.TrimLeft(line, " ")
		rest, isPage := strings.CutPrefix(trimmed, "- ")
		if !isPage {
			if len(pages) == 0 {
				return nil, fmt.Errorf("demo pages, line %d: text before the first page", n)
			}
			last := &pages[len(pages)-1]
			last.lines = append(last.lines, trimmed)
			continue
		}
		label, with, _ := strings.Cut(rest, " :: ")
		p := page{label: label, level: (len(line) - len(trimmed)) / 2}
		status := p.level > 0
		for _, m := range setting.FindAllStringSubmatch(with, -1) {
			value := strings.Trim(m[2], `"`)
			if edit.IsDetail(edit.Field(m[1])) { // several choices stand in one line
				value = strings.ReplaceAll(value, "|", "\n")
			}
			p.fields = append(p.fields, edit.FieldChange{Field: edit.Field(m[1]), New: value})
			status = status && m[1] != string(edit.FieldStatus)
		}
		if status {
			p.fields = append(p.fields, edit.FieldChange{Field: edit.FieldStatus, New: string(site.StatusLive)})
		}
		pages = append(pages, p)
	}
	return pages, lines.Err()
}

// operations makes the pages, and then their texts, since links in them need pages to point at.
func operations(ctx context.Context, st *store.Store, pages []page, cleaner *text.Cleaner) ([]edit.Op, error) {
	ids, err := st.NewPageIDs(ctx, len(pages))
	if err != nil {
		return nil, err
	}
	ops := makeDetails()
	above := make([]site.PageID, 16)
	for i, p := range pages {
		op := edit.OpMake{
			Page:   ids[i],
			Fields: append([]edit.FieldChange{{Field: edit.FieldLabel, New: p.label}}, p.fields...),
		}
		if p.level > 0 {
			op.Place.Parent = above[p.level-1]
		}
		above[p.level] = ids[i]
		ops = append(ops, op)
	}
	s, _, err := edit.ApplyAll(st.Published().Site, ops, clock.Now())
	if err != nil {
		return nil, fmt.Errorf("make the demo's pages: %w", err)
	}
	texts := make([]string, len(pages))
	for i, p := range pages {
		texts[i] = cleaner.Clean(s, markup(p.lines), clock.Now())
	}
	hashes, err := st.SaveTexts(ctx, texts...)
	if err != nil {
		return nil, err
	}
	for i, p := range pages {
		ops = append(ops, edit.OpEdit{Page: ids[i], Fields: []edit.FieldChange{
			{Field: edit.FieldText, New: hashes[i]}, {Field: edit.FieldSummary, New: summary(p.lines)},
		}})
	}
	return ops, nil
}

var link = regexp.MustCompile(`\[([^\]]+)\]\(([^)]+)\)`)

// markup turns the file's lines into HTML: "## " is a heading, "* " a list item, anything else a paragraph.
func markup(lines []string) string {
	var out strings.Builder
	inList := false
	for _, line := range lines {
		item, isItem := strings.CutPrefix(line, "* ")
		if isItem != inList {
			out.WriteString(map[bool]string{true: "<ul>", false: "</ul>"}[isItem])
			inList = isItem
		}
		heading, isHeading := strings.CutPrefix(line, "## ")
		switch {
		case isItem:
			out.WriteString("<li>" + inline(item) + "</li>")
		case isHeading:
			out.WriteString("<h2>" + inline(heading) + "</h2>")
		default:
			out.WriteString("<p>" + inline(line) + "</p>")
		}
	}
	if inList {
		out.WriteString("</ul>")
	}
	return out.String()
}

func inline(words string) string {
	return link.ReplaceAllString(html.EscapeString(words), `<a href="$2">$1</a>`)
}

// summary is the first paragraph, without links.
func summary(lines []string) string {
	for _, line := range lines {
		if !strings.HasPrefix(line, "* ") && !strings.HasPrefix(line, "## ") {
			return link.ReplaceAllString(line, "$1")
		}
	}
	return ""
}
