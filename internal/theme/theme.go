// Package theme reads what the theme declares: its regions, its layouts with their grids, and its pairs of colours. All
// of it stands in layouts.json; a layout that is added there appears (rules 6.6).
package theme

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"vineladder/internal/core/colour"
	"vineladder/internal/core/site"
)

//go:embed layouts.json
var declared []byte

// Of the program: the theme that ships with it.
var Of = sync.OnceValues(func() (*site.Theme, error) { return Parse(declared) })

var (
	key   = regexp.MustCompile(`^[a-z][a-z0-9-]*$`)
	track = regexp.MustCompile(`^[a-z0-9.()%, -]+$`)
)

// Parse reads a theme's file. The error names the layout and what is wrong with it.
func Parse(file []byte) (*site.Theme, error) {
	theme := &site.Theme{}
	if err := json.Unmarshal(file, theme); err != nil {
		return nil, fmt.Errorf("read the theme: %w", err)
	}
	for _, r := range theme.Regions {
		if !key.MatchString(r.Key) {
			return nil, fmt.Errorf("region “%s”: a key has small letters, digits and hyphens", r.Key)
		}
	}
	for i := range theme.Layouts {
		if err := check(theme, &theme.Layouts[i]); err != nil {
			return nil, fmt.Errorf("layout “%s”: %w", theme.Layouts[i].Key, err)
		}
	}
	for _, p := range theme.Pairs {
		if pair, ok := colour.ParsePair(p.Text + " on " + p.Back); !ok || pair.Contrast() < colour.Enough {
			return nil, fmt.Errorf("pair “%s”: it must be two colours as #rrggbb with a contrast of 4.5 or more", p.Key)
		}
	}
	return theme, nil
}

// check holds a layout to its grid: every region a rectangle, the same regions wide and narrow, the content among them.
func check(theme *site.Theme, l *site.Layout) error {
	if !key.MatchString(l.Key) || l.Name == "" || len(l.Wide) == 0 {
		return fmt.Errorf("it needs a key, a name and a grid")
	}
	for _, width := range l.Columns {
		if !track.MatchString(width) {
			return fmt.Errorf("“%s” is not the width of a column", width)
		}
	}
	seen := map[string][4]int{} // top, left, bottom, right
	cells := map[string]int{}
	for y, row := range l.Wide {
		if len(row) != len(l.Columns) {
			return fmt.Errorf("row %d has %d cells for %d columns", y+1, len(row), len(l.Columns))
		}
		for x, region := range row {
			if theme.Region(region) == nil {
				return fmt.Errorf("there is no region “%s”", region)
			}
			box, known := seen[region]
			if !known {
				box = [4]int{y, x, y, x}
			}
			seen[region] = [4]int{min(box[0], y), min(box[1], x), max(box[2], y), max(box[3], x)}
			cells[region]++
		}
	}
	for region, box := range seen {
		if cells[region] != (box[2]-box[0]+1)*(box[3]-box[1]+1) {
			return fmt.Errorf("the region “%s” is not one rectangle", region)
		}
		if !slices.Contains(l.Phone, region) {
			return fmt.Errorf("the region “%s” is missing on narrow screens", region)
		}
	}
	if len(l.Phone) != len(seen) {
		return fmt.Errorf("it has other regions on narrow screens than on wide ones")
	}
	if cells[site.ContentRegion] == 0 {
		return fmt.Errorf("it has no region “%s”", site.ContentRegion)
	}
	return nil
}

// Style gives the style sheet of the theme's grids and pairs of colours.
func Style(theme *site.Theme) string {
	var css strings.Builder
	for _, l := range theme.Layouts {
		fmt.Fprintf(
			&css,
			".layout-%s{grid-template-rows:%s;grid-template-areas:%s}\n",
			l.Key,
			rows(len(l.Phone)),
			areas(column(l.Phone)),
		)
		fmt.Fprintf(
			&css,
			"@media (min-width:64rem){.layout-%s{grid-template-columns:%s;grid-template-rows:%s;grid-template-areas:%s}}\n",
			l.Key,
			strings.Join(l.Columns, " "),
			rows(len(l.Wide)),
			areas(l.Wide),
		)
	}
	for _, l := range theme.Layouts {
		fmt.Fprintf(
			&css,
			".mini-%s{grid-template-columns:%s;grid-template-areas:%s}\n",
			l.Key,
			strings.Join(slices.Repeat([]string{"minmax(0,1fr)"}, len(l.Columns)), " "),
			areas(l.Wide),
		)
		fmt.Fprintf(
			&css,
			".map-%s{grid-template-columns:%s;grid-template-areas:%s}\n"+
				".map-%s.narrow{grid-template-columns:1fr;grid-template-areas:%s}\n",
			l.Key,
			mapColumns(l.Columns),
			areas(l.Wide),
			l.Key,
			areas(column(l.Phone)),
		)
	}
	for _, r := range theme.Regions {
		fmt.Fprintf(&css, ".region-%s{grid-area:%s}\n", r.Key, r.Key)
	}
	for _, p := range theme.Pairs {
		fmt.Fprintf(&css, ".pair-%s{color:%s;background:%s}\n", p.Key, p.Text, p.Back)
	}
	return css.String()
}

// mapColumns are the columns of a layout on its map: what gives way to others stays wide enough for a block's name.
func mapColumns(columns []string) string {
	wide := make([]string, len(columns))
	for i, c := range columns {
		wide[i] = "minmax(11rem,1fr)"
		if strings.Contains(c, "fr") {
			wide[i] = "minmax(12rem,1.5fr)"
		}
	}
	return strings.Join(wide, " ")
}

func column(regions []string) [][]string {
	rows := make([][]string, len(regions))
	for i, region := range regions {
		rows[i] = []string{region}
	}
	return rows
}

// rows are as high as what is in them, but for the last one above the foot, which takes what is left.
func rows(n int) string {
	if n < 2 {
		return "1fr"
	}
	return strings.Repeat("auto ", n-2) + "1fr auto"
}

func areas(rows [][]string) string {
	quoted := make([]string, len(rows))
	for i, row := range rows {
		quoted[i] = `"` + strings.Join(row, " ") + `"`
	}
	return strings.Join(quoted, "")
}
