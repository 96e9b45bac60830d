package layouts

import (
	"html"
	"net/http"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// readNotice keeps what a notice says, and reads until when it stands.
func (s *Area) readNotice(r *http.Request, d *desk.Desk, i *mapIntent) error {
	words := strings.TrimSpace(r.FormValue("words"))
	if words == "" {
		return &edit.Refusal{Sentence: "A notice needs words."}
	}
	until, err := d.ReadMoment(r.FormValue("until"), true)
	if err != nil {
		return err
	}
	i.form = desk.With(r.FormValue, "until", until)
	hashes, err := s.KeepTexts(r.Context(), d, noticeHTML(words))
	if err != nil {
		return err
	}
	i.hash = hashes[0]
	return nil
}

// noticeHTML sets words as a notice: lines are paragraphs.
func noticeHTML(words string) string {
	var out strings.Builder
	for line := range strings.Lines(words) {
		if line = strings.TrimSpace(line); line != "" {
			out.WriteString("<p>" + html.EscapeString(line) + "</p>")
		}
	}
	return "<aside>" + out.String() + "</aside>"
}

// notice puts words first on every page, until a moment if one is said: a block of text like any other, which can be
// changed, moved and taken away as those are.
func (i *mapIntent) notice(s *site.Site) ([]edit.Op, string, error) {
	first, _, _ := strings.Cut(strings.TrimSpace(i.form("words")), "\n")
	name := "Notice: " + desk.Short(strings.TrimSpace(first))
	region, err := noticeRegion(s)
	if err != nil {
		return nil, "", err
	}
	var fields map[edit.Field]string
	if until := i.form("until"); until != "" {
		fields = map[edit.Field]string{edit.FieldLiveUntil: until}
	}
	return []edit.Op{
		edit.OpMakeBlock{
			Block:  i.newBlock,
			Fields: map[edit.Field]string{edit.FieldName: name, edit.FieldPiece: "text:" + i.hash},
		},
		edit.OpPutPlacement{
			Placement: i.newPlacement, Block: i.newBlock, Slot: desk.SlotAt(s, region, "1", 0), Fields: fields,
		},
	}, "put the notice “" + desk.Short(first) + "” on every page", nil
}

// noticeRegion is the one in which a notice stands: of those that all layouts have, the first below the header.
func noticeRegion(s *site.Site) (string, error) {
	theme := s.Theme()
	inAll := func(key string) bool {
		return !slices.ContainsFunc(theme.Layouts, func(l site.Layout) bool { return !l.Has(key) })
	}
	for _, wanted := range append([]string{"top"}, regionKeys(theme)...) {
		if inAll(wanted) && wanted != site.ContentRegion {
			return wanted, nil
		}
	}
	return "", &edit.Refusal{Sentence: "The layouts have no region in common in which a notice could stand."}
}

func regionKeys(theme *site.Theme) []string {
	var keys []string
	for _, region := range theme.Regions {
		keys = append(keys, region.Key)
	}
	return keys
}
