package look

import (
	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
)

// Facts is what a page shows of the details of its type, as a visitor gets it.
type Facts []detail.Fact

// FactsOf gives the facts of a page to who reaches some pages.
func FactsOf(s *site.Site, p *site.Page, reached func(site.PageID) bool) Facts {
	return detail.Facts(s, p, site.Detail.OnPage, reached)
}

// Rebase puts a base before the addresses of pages, as a preview has it.
func (f Facts) Rebase(base string) {
	for i := range f {
		for k := range f[i].Values {
			switch v := &f[i].Values[k]; {
			case v.Page != 0 && v.File != nil:
				based := *v.File
				v.File = based.Below(base)
			case v.Page != 0:
				v.Href = base + v.Href
			}
		}
	}
}

// Texts gives the hashes of the kept texts that stand in facts.
func (f Facts) Texts() []string {
	var hashes []string
	for _, fact := range f {
		for _, v := range fact.Values {
			if v.Rich != "" {
				hashes = append(hashes, v.Rich)
			}
		}
	}
	return hashes
}

// Words says all facts, a line each; text gives the words of a kept text.
func (f Facts) Words(text func(hash string) []string) []string {
	var words []string
	for _, fact := range f {
		for _, v := range fact.Values {
			line := fact.Label + ": "
			switch {
			case v.Rich != "":
				for _, row := range text(v.Rich) {
					words = append(words, line+row)
				}
				continue
			case v.File != nil:
				line += "picture " + v.File.Src
				if v.Words != "" {
					line += ", “" + v.Words + "”"
				}
			case v.Href != "":
				line += Link{v.Words, v.Href}.words()
			default:
				line += v.Words
			}
			words = append(words, line)
		}
	}
	return words
}
