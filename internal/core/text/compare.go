package text

import (
	"strings"

	"golang.org/x/net/html"

	"vineladder/internal/core/common"
)

// A Part is a stretch of two versions of a text: paragraphs that both have, or those of each where they differ.
type Part struct {
	Same     []string
	Was, Is  []string // where they differ; one can be empty
	Suggests Side     // which side changed what stood before both, if only one did
}

// Differs says whether the versions differ there.
func (p Part) Differs() bool { return len(p.Same) == 0 }

// A Side is which of two versions is taken where they differ.
type Side string

// The sides; both stand one after the other.
const (
	SideWas  Side = "was"
	SideIs   Side = "is"
	SideBoth Side = "both"
)

// Compare lays two kept texts side by side, paragraph by paragraph; a list, a table or a notice is one. base is what
// stood before both, where that is known: it says which side changed a part.
func Compare(base, was, is string) []Part {
	a, b := paragraphs(was), paragraphs(is)
	stood := map[string]bool{}
	for _, paragraph := range paragraphs(base) {
		stood[paragraph] = true
	}
	var parts []Part
	i, k := 0, 0
	for _, pair := range append(common.Lines(a, b), [2]int{len(a), len(b)}) {
		if i < pair[0] || k < pair[1] {
			for _, part := range pairs(a[i:pair[0]], b[k:pair[1]]) {
				if base != "" {
					part.Suggests = suggested(stood, part)
				}
				parts = append(parts, part)
			}
		}
		if pair[0] < len(a) {
			if last := len(parts) - 1; last >= 0 && !parts[last].Differs() {
				parts[last].Same = append(parts[last].Same, a[pair[0]])
			} else {
				parts = append(parts, Part{Same: []string{a[pair[0]]}})
			}
		}
		i, k = pair[0]+1, pair[1]+1
	}
	return parts
}

// pairs takes a stretch that differs apart where both have as many paragraphs: then each became the one beside it.
func pairs(was, is []string) []Part {
	if len(was) != len(is) {
		return []Part{{Was: was, Is: is}}
	}
	all := make([]Part, len(was))
	for i := range was {
		all[i] = Part{Was: was[i : i+1], Is: is[i : i+1]}
	}
	return all
}

// suggested gives the side that changed a part, if the other has what stood before; "" where both did.
func suggested(stood map[string]bool, part Part) Side {
	was, is := allStood(stood, part.Was), allStood(stood, part.Is)
	switch {
	case was && !is:
		return SideIs
	case is && !was:
		return SideWas
	case was && is && len(part.Is) == 0: // one took it away
		return SideIs
	case was && is && len(part.Was) == 0:
		return SideWas
	}
	return ""
}

func allStood(stood map[string]bool, paragraphs []string) bool {
	for _, paragraph := range paragraphs {
		if !stood[paragraph] {
			return false
		}
	}
	return true
}

// Join makes one text of two, with the side that is taken of each part in which they differ, counted from 0.
func Join(parts []Part, taken func(differing int) Side) string {
	var out strings.Builder
	n := 0
	for _, part := range parts {
		if !part.Differs() {
			out.WriteString(strings.Join(part.Same, ""))
			continue
		}
		side := taken(n)
		if side != SideIs {
			out.WriteString(strings.Join(part.Was, ""))
		}
		if side != SideWas {
			out.WriteString(strings.Join(part.Is, ""))
		}
		n++
	}
	return out.String()
}

// paragraphs takes a kept text apart, so that its parts joined are the text. Words outside of any are one of their own.
func paragraphs(clean string) []string {
	var all []string
	open := false // the last one is of words without an element of their own
	for node := parsed(clean).FirstChild; node != nil; node = node.NextSibling {
		loose := node.Type == html.TextNode || within[node.DataAtom]
		words := writtenNode(node)
		if loose && open {
			all[len(all)-1] += words
		} else {
			all = append(all, words)
		}
		open = loose
	}
	return all
}

func writtenNode(node *html.Node) string {
	var out strings.Builder
	if err := html.Render(&out, node); err != nil { // a builder gives none
		return ""
	}
	return out.String()
}
