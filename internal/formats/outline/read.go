package outline

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/net/html/charset"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Limits of what is read: entries of one document, and how deep they may stand inside each other.
const (
	EntryLimit = 20_000
	DepthLimit = 50
)

// Read reads menus from OPML 2.0 or from JSON as WriteJSON writes it; which of them is seen from its first character.
// The error says what can't be read.
func Read(document []byte) ([]Menu, error) {
	document = bytes.TrimPrefix(bytes.TrimSpace(document), []byte("\ufeff"))
	var menus []Menu
	if len(document) > 0 && document[0] == '<' {
		m, err := readOPML(document)
		if err != nil {
			return nil, err
		}
		menus = []Menu{m}
	} else if err := json.Unmarshal(document, &menus); err != nil {
		return nil, fmt.Errorf("this is neither OPML nor a list of menus as JSON: %w", err)
	} else {
		begins := beginnings(document)
		for i := range menus {
			begins = number(menus[i].Entries, begins)
		}
	}
	n := 0
	for _, m := range menus {
		if err := count(m.Entries, 1, &n); err != nil {
			return nil, err
		}
	}
	return menus, nil
}

// beginnings gives the lines in which the entries of a JSON document begin, in its order.
func beginnings(document []byte) []int {
	in := json.NewDecoder(bytes.NewReader(document))
	var lines []int
	var below func(isEntry bool)
	line, counted := 1, 0
	below = func(isEntry bool) {
		token, err := in.Token()
		opened, opens := token.(json.Delim)
		if err != nil || !opens {
			return
		}
		if isEntry && opened == '{' {
			line += bytes.Count(document[counted:in.InputOffset()], []byte("\n"))
			counted = int(in.InputOffset())
			lines = append(lines, line)
		}
		inside := isEntry && opened == '['
		for in.More() {
			if opened == '{' {
				name, _ := in.Token()
				inside = name == "entries"
			}
			below(inside)
		}
		_, _ = in.Token() // what closes it: the document was read before
	}
	below(false)
	return lines
}

// number tells entries in which lines they begin, and gives the lines that are left.
func number(entries []Entry, begins []int) []int {
	for i := range entries {
		if len(begins) == 0 { // names in other letters than ours: then they have none
			return nil
		}
		entries[i].line = begins[0]
		begins = number(entries[i].Entries, begins[1:])
	}
	return begins
}

func count(entries []Entry, depth int, n *int) error {
	if *n += len(entries); *n > EntryLimit {
		return fmt.Errorf("it has more than %d entries", EntryLimit)
	}
	if depth > DepthLimit {
		return fmt.Errorf("entries stand inside each other more than %d deep", DepthLimit)
	}
	for _, e := range entries {
		if err := count(e.Entries, depth+1, n); err != nil {
			return err
		}
	}
	return nil
}

func readOPML(document []byte) (Menu, error) {
	var read opml
	in := xml.NewDecoder(bytes.NewReader(document))
	in.CharsetReader = charset.NewReaderLabel
	if err := in.Decode(&read); err != nil {
		return Menu{}, fmt.Errorf("this is not OPML: %w", err)
	}
	if !strings.HasPrefix(read.Version, "1") && !strings.HasPrefix(read.Version, "2") {
		return Menu{}, fmt.Errorf("OPML of the version “%s” is not known; there are 1 and 2", read.Version)
	}
	name := strings.TrimSpace(read.Title)
	if name == "" {
		name = "Imported menu"
	}
	return Menu{Key: read.Key, Name: name, Entries: fromXML(read.Body), isOPML: true}, nil
}

func fromXML(outlines []xmlEntry) []Entry {
	var all []Entry
	for _, o := range outlines {
		made := Entry{Fields: map[edit.Field]string{}, Entries: fromXML(o.Entries), line: o.line}
		for _, a := range o.Attributes {
			name := a.Name.Local
			switch {
			case name == "text":
				made.Label = strings.Join(strings.Fields(a.Value), " ")
			case name == "isComment" && a.Value == "true":
				made.Fields[edit.FieldOn] = "no"
			case name == "url", name == "htmlUrl" && made.URL == "", name == "xmlUrl" && made.URL == "":
				made.URL = a.Value
			case name == "under":
				made.Under = a.Value
			default:
				for _, field := range edit.EntryFields() {
					if own := attributeOf[field]; name == own || own == "" && name == string(field) {
						made.Fields[field] = a.Value
					}
				}
			}
		}
		all = append(all, made)
	}
	return all
}

// Count gives the number of entries, those below others among them.
func (m Menu) Count() int {
	n := 0
	_ = count(m.Entries, 1, &n) // limits were checked when it was read
	return n
}

// Forms turns the entries into what an operation takes, with the numbers that it may use: parents before those below
// them. origin is the public site's own: addresses that begin with it lead to its pages. All that does not fit is said
// at once.
func (m Menu) Forms(s *site.Site, origin string, ids []site.EntryID, now time.Time) ([]edit.EntryForm, error) {
	r := &resolving{
		site:   s,
		origin: strings.TrimSuffix(origin, "/"),
		ids:    ids,
		now:    now,
		keys:   map[string]site.PageID{},
	}
	s.Walk(s.Home(), func(p *site.Page) bool { r.keys[p.Key] = p.ID; return true })
	r.below(m.Entries, edit.EntryForm{}, nil)
	return r.forms, errors.Join(r.faults...)
}

type resolving struct {
	site   *site.Site
	origin string
	ids    []site.EntryID
	keys   map[string]site.PageID
	now    time.Time
	forms  []edit.EntryForm
	faults []error
}

func (r *resolving) below(entries []Entry, above edit.EntryForm, path []string) {
	for _, e := range entries {
		at := append(slices.Clip(path), e.Label)
		shows, err := r.shows(e)
		under, unplaced := r.under(e, above)
		lines, unset := r.lines(e)
		if err = errors.Join(err, unplaced, unset); err != nil {
			r.faults = append(r.faults, e.fault(at, err))
			continue
		}
		form := edit.EntryForm{ID: r.ids[0], Parent: above.ID, Under: under, Fields: map[edit.Field]string{}}
		r.ids = r.ids[1:]
		for field, value := range e.Fields {
			form.Fields[field] = value
		}
		form.Fields[edit.FieldShows] = shows
		if delete(form.Fields, edit.FieldLines); lines != "" {
			form.Fields[edit.FieldLines] = lines
		}
		if _, own := form.Fields[edit.FieldLabel]; !own && !r.labelled(shows, e.Label) {
			form.Fields[edit.FieldLabel] = e.Label
		}
		r.forms = append(r.forms, form)
		r.below(e.Entries, form, at)
	}
}

// under finds the page of the automatic line below which an entry stands; 0 where none of them are above it.
func (r *resolving) under(e Entry, above edit.EntryForm) (site.PageID, error) {
	switch grown := strings.HasPrefix(above.Fields[edit.FieldShows], "branch:"); {
	case !grown && e.Under == "":
		return 0, nil
	case !grown:
		return 0, errors.New("it stands below an automatic line, but what it stands in makes none")
	case e.Under == "":
		return 0, errors.New("it can't stand among lines that follow the tree, but below one of them, if it names that")
	case r.keys[e.Under] == 0:
		return 0, fmt.Errorf("there is no page with the key “%s”, below whose line it stands", e.Under)
	}
	return r.keys[e.Under], nil
}

// lines names the pages of single lines by their numbers.
func (r *resolving) lines(e Entry) (string, error) {
	named, ok := site.ParseValues(e.Fields[edit.FieldLines])
	if !ok {
		return "", errors.New("what is set of its single lines can't be read")
	}
	all := map[string]string{}
	for key, line := range named.All() {
		id := r.keys[key]
		if id == 0 {
			return "", fmt.Errorf("there is no page with the key “%s”, of whose line something is set", key)
		}
		all[site.LineKey(id)] = line
	}
	return string(site.ValuesOf(all)), nil
}

// fault says what is wrong with an entry, and where it stands.
func (e Entry) fault(at []string, err error) error {
	where := strings.Join(at, " › ")
	if e.line > 0 {
		where = fmt.Sprintf("line %d, %s", e.line, where)
	}
	return fmt.Errorf("%s: %w", where, err)
}

// labelled says whether the page that an entry shows gives it its label anyhow.
func (r *resolving) labelled(shows, label string) bool {
	parts := strings.Split(shows, ":")
	if len(parts) < 2 || parts[0] != "page" && parts[0] != "branch" {
		return false
	}
	id, err := strconv.ParseInt(parts[1], 10, 64)
	return err == nil && r.site.Page(site.PageID(id)).Label == label
}

// narrow gives the topic lists and topics to which a list is narrowed their numbers again.
func (r *resolving) narrow(named string) string {
	query, err := url.ParseQuery(named)
	if err != nil {
		return named
	}
	narrow := url.Values{}
	for key := range query {
		list, isTopic := strings.CutPrefix(key, topicPrefix)
		if isTopic && r.keys[list] != 0 {
			narrow.Set(fmt.Sprintf("t%d", r.keys[list]), fmt.Sprint(r.keys[query.Get(key)]))
		} else {
			narrow.Set(key, query.Get(key))
		}
	}
	return narrow.Encode()
}

// shows says what an entry shows: by the key of a page, else by its address; without one it is a heading.
func (r *resolving) shows(e Entry) (string, error) {
	sort, rest, _ := strings.Cut(e.Fields[edit.FieldShows], ":")
	if sort == "page" || sort == "branch" {
		key, more, _ := strings.Cut(rest, ":")
		key = keyFrom.Replace(key)
		if sort == "page" {
			more = r.narrow(more)
		} else {
			more = ofOthers.ReplaceAllStringFunc(more, func(part string) string {
				return fmt.Sprint(ofPrefix, r.keys[keyFrom.Replace(strings.TrimPrefix(part, ofPrefix))])
			})
		}
		if id := r.keys[key]; id != 0 {
			return strings.TrimSuffix(fmt.Sprintf("%s:%d:%s", sort, id, more), ":"), nil
		}
		if e.URL == "" {
			return "", fmt.Errorf("there is no page with the key “%s”", key)
		}
	} else if sort != "" {
		return e.Fields[edit.FieldShows], nil
	}
	if e.URL == "" {
		return "heading", nil
	}
	path, own := strings.CutPrefix(e.URL, r.origin)
	if own && r.origin != "" || strings.HasPrefix(e.URL, "/") {
		normal, err := address.Normal("/" + strings.TrimLeft(path, "/"))
		if err != nil {
			return "", err
		}
		found := address.Resolve(r.site, normal, r.now)
		if found.Page == 0 || found.Gone {
			return "", fmt.Errorf("there is no page at %s", normal)
		}
		return fmt.Sprintf("page:%d", found.Page), nil
	}
	elsewhere, err := typed.Web(e.URL)
	return "web:" + elsewhere, err
}
