package site

import "slices"

// ContentRegion is the region that always holds the page's content (rules 6.5).
const ContentRegion = "content"

// A Theme is what the theme's file declares: regions, and the layouts that arrange them (rules 6.6).
type Theme struct {
	Regions []Region `json:"regions"`
	Layouts []Layout `json:"layouts"`
	Pairs   []Pair   `json:"pairs"`
	Icons   []string `json:"icons"` // for menu entries, by name in the shipped set
}

// A Pair is a pair of colours of the theme, for badges.
type Pair struct {
	Key  string `json:"key"`
	Name string `json:"name"`
	Text string `json:"text"` // #rrggbb
	Back string `json:"back"`
}

// Pair finds a pair of the theme; nil if there is none.
func (t *Theme) Pair(key string) *Pair {
	if i := slices.IndexFunc(t.Pairs, func(p Pair) bool { return p.Key == key }); i >= 0 {
		return &t.Pairs[i]
	}
	return nil
}

// A Region is a named area of layouts.
type Region struct {
	Key  string `json:"key"`
	Name string `json:"name"`
}

// A Layout is a named arrangement of regions on a grid.
type Layout struct {
	Key     string     `json:"key"`
	Name    string     `json:"name"`
	Columns []string   `json:"columns"` // widths of the grid's columns on wide screens, as CSS track sizes
	Wide    [][]string `json:"wide"`    // region keys by row and column; each region is one rectangle
	Phone   []string   `json:"phone"`   // region keys from top to bottom on narrow screens
}

// Has says whether a layout has a region.
func (l *Layout) Has(region string) bool { return slices.Contains(l.Phone, region) }

// Order gives the regions in the order in which they are read, on narrow screens or on wide ones: there row by row.
func (l *Layout) Order(narrow bool) []string {
	if narrow {
		return l.Phone
	}
	var keys []string
	for _, row := range l.Wide {
		for _, key := range row {
			if !slices.Contains(keys, key) {
				keys = append(keys, key)
			}
		}
	}
	return keys
}

// Layout finds a layout of the theme; nil if there is none.
func (s *Site) Layout(key string) *Layout {
	if i := slices.IndexFunc(s.theme.Layouts, func(l Layout) bool { return l.Key == key }); i >= 0 {
		return &s.theme.Layouts[i]
	}
	return nil
}

// Theme gives the layouts and regions that there are.
func (s *Site) Theme() *Theme { return s.theme }

// Region finds a region of the theme; nil if there is none.
func (t *Theme) Region(key string) *Region {
	if i := slices.IndexFunc(t.Regions, func(r Region) bool { return r.Key == key }); i >= 0 {
		return &t.Regions[i]
	}
	return nil
}

// SetTheme replaces the layouts and regions.
func (b *Builder) SetTheme(theme *Theme) { b.site.theme = theme }
