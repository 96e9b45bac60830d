package grid

import (
	"slices"
	"strings"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/typed"
)

// apart stands between several values in one cell.
const apart = "; "

// fold takes away in what typed words may differ: case, accents, blanks at the ends.
func fold(text string) string { return ask.Folded(strings.TrimSpace(text)) }

// options gives values and their words, told in turn.
func options(pairs ...string) (all []Option) {
	for i := 0; i+1 < len(pairs); i += 2 {
		all = append(all, Option{pairs[i], pairs[i+1]})
	}
	return all
}

// wordsOf says a value; one that is no option stands for itself.
func wordsOf(of []Option, value string) string {
	for _, o := range of {
		if o.Value == value {
			return o.Words
		}
	}
	return value
}

// valueOf reads one of the options, by its words or its value. An empty cell is the option of nothing, where there is
// one.
func valueOf(of []Option, text string) (string, error) {
	bare := strings.TrimSpace(text)
	var meant []string
	for _, o := range of {
		if bare == "" && o.Value == "" || bare != "" && (fold(o.Words) == fold(bare) || o.Value == bare) {
			meant = append(meant, o.Value)
		}
	}
	switch {
	case len(meant) == 1:
		return meant[0], nil
	case len(meant) > 1 && slices.Contains(meant, bare):
		return bare, nil
	case len(meant) > 1:
		return "", typed.Refuse("“%s” can be several: write %s.", bare, strings.Join(meant, " or "))
	case bare == "":
		return "", typed.Refuse("It can't be empty: %s.", offered(of))
	}
	return "", typed.Refuse("“%s” is no choice here: %s.", bare, offered(of))
}

// offered names some of the options.
func offered(of []Option) string {
	const few = 8
	var words []string
	for _, o := range of {
		if o.Words != "" {
			words = append(words, "“"+o.Words+"”")
		}
	}
	if len(words) > few {
		words = append(words[:few], "…")
	}
	return strings.Join(words, ", ")
}

// several reads options with semicolons or line ends between them, each once, in their own order.
func several(of []Option, text string) ([]string, error) {
	chosen := map[string]bool{}
	for one := range strings.FieldsFuncSeq(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		if strings.TrimSpace(one) == "" {
			continue
		}
		value, err := valueOf(of, one)
		if err != nil {
			return nil, err
		}
		chosen[value] = true
	}
	var values []string
	for _, o := range of {
		if chosen[o.Value] {
			values = append(values, o.Value)
		}
	}
	return values, nil
}
