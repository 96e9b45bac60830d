package sheet

import (
	"html"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// textColumn is one that an import can have and no export has: the texts of pages, as HTML or as words.
var textColumn = column{"text", edit.FieldText}

// Texts brings texts into the shape in which they are kept, and keeps them: it gives the hash of each.
type Texts func(on *site.Site, raw []string) ([]string, error)

// write sets the texts that rows have. An empty cell leaves the text of its page as it is.
func (p *plan) write(texts ...Texts) error {
	var rows []*row
	var raw []string
	for _, row := range p.rows {
		if strings.TrimSpace(row.text) != "" {
			rows, raw = append(rows, row), append(raw, asHTML(row.text))
		}
	}
	if len(rows) == 0 {
		return nil
	}
	if len(texts) == 0 {
		return rows[0].fault("text", "texts can't be taken here")
	}
	hashes, err := texts[0](p.site, raw)
	if err != nil {
		return err
	}
	for i, row := range rows {
		stands := ""
		if page := p.page(row.key); page != nil {
			stands = page.Text
		}
		if stands != hashes[i] {
			p.ops = append(p.ops, edit.OpEdit{Page: p.ids[row.key], Fields: []edit.FieldChange{
				{Field: edit.FieldText, Old: stands, New: hashes[i]},
			}})
		}
	}
	return nil
}

// asHTML takes words without markup as paragraphs, which empty lines part.
func asHTML(cell string) string {
	if strings.Contains(cell, "<") {
		return cell
	}
	var out strings.Builder
	for paragraph := range strings.SplitSeq(strings.ReplaceAll(cell, "\r\n", "\n"), "\n\n") {
		if words := strings.TrimSpace(paragraph); words != "" {
			out.WriteString("<p>" + strings.ReplaceAll(html.EscapeString(words), "\n", "<br>") + "</p>")
		}
	}
	return out.String()
}
