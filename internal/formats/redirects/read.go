package redirects

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// faultLimit bounds the faults of a table that are told at once.
const faultLimit = 20

// Read gives the operations that have old addresses lead to pages, from a table (CSV, RFC 4180) with the columns from
// and to: what other columns say is not read. origin is the public site; what begins with it is an address of its own.
// Each becomes a short address of the page. The error names each line that can't be.
func Read(r io.Reader, s *site.Site, origin string, now time.Time) ([]edit.Op, error) {
	in := csv.NewReader(r)
	in.FieldsPerRecord = -1
	header, err := in.Read()
	if err != nil {
		return nil, fmt.Errorf("line 1: the table can't be read: %w", err)
	}
	header[0] = strings.TrimPrefix(header[0], "\ufeff")
	from, to := slices.Index(header, "from"), slices.Index(header, "to")
	if from < 0 || to < 0 {
		return nil, errors.New("line 1: the table needs the columns “from” and “to”")
	}
	t := table{site: s, origin: origin, now: now, more: map[site.PageID][]string{}, taken: map[string]int{}}
	for len(t.faults) < faultLimit {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, errors.Join(append(t.faults, fmt.Errorf("the table can't be read: %w", err))...)
		}
		line, _ := in.FieldPos(0)
		switch {
		case len(cells) <= max(from, to):
			t.fault(line, "it has no “from” and “to”")
		default:
			t.take(line, cells[from], cells[to])
		}
	}
	return t.ops(), errors.Join(t.faults...)
}

// A table is one that is read.
type table struct {
	site   *site.Site
	origin string
	now    time.Time
	pages  []site.PageID // in the order of the table
	more   map[site.PageID][]string
	taken  map[string]int // by which line
	faults []error
}

func (t *table) fault(line int, format string, args ...any) {
	t.faults = append(t.faults, fmt.Errorf("line %d: %s", line, fmt.Sprintf(format, args...)))
}

// take reads one line.
func (t *table) take(line int, from, to string) {
	old, err := t.own(from)
	if err == nil {
		err = address.CheckFixed(old)
	}
	if err != nil {
		t.fault(line, "“%s” can't be an old address: %v", from, err)
		return
	}
	aim, err := t.own(to)
	leads := address.Resolve(t.site, aim, t.now)
	if err != nil || leads.Page == 0 || leads.Gone {
		t.fault(line, "there is no page at “%s”", to)
		return
	}
	stands := address.Resolve(t.site, old, t.now)
	switch other := t.taken[old]; {
	case other != 0:
		t.fault(line, "“%s” stands in line %d already", from, other)
	case stands.Page == leads.Page && !stands.Gone: // it leads there
	case stands.Page != 0 && !stands.Gone && address.Of(t.site, stands.Page) == old:
		t.fault(line, "“%s” is the address of “%s”", old, t.site.Page(stands.Page).Label)
	default:
		if t.more[leads.Page] == nil {
			t.pages = append(t.pages, leads.Page)
		}
		t.more[leads.Page] = append(t.more[leads.Page], old)
	}
	t.taken[old] = line
}

// own gives the path of an address of the site's own, as typed or whole.
func (t *table) own(typed string) (string, error) {
	at, err := url.Parse(strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(typed), t.origin)))
	if err != nil {
		return "", errors.New("it is no address")
	}
	if at.RawQuery != "" {
		return "", errors.New("it has a question mark; what follows one says nothing of the page here")
	}
	return address.Normal("/" + strings.TrimPrefix(at.EscapedPath(), "/"))
}

func (t *table) ops() []edit.Op {
	var ops []edit.Op
	for _, id := range t.pages {
		p := t.site.Page(id)
		all := slices.Concat(p.ShortAddresses, t.more[id])
		slices.Sort(all)
		ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{{
			Field: edit.FieldShortAddresses,
			Old:   edit.Value(p, edit.FieldShortAddresses),
			New:   strings.Join(slices.Compact(all), "\n"),
		}}})
	}
	return ops
}
