package access

import (
	"fmt"
	"slices"
	"unicode/utf8"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
)

// The chart of roles is drawn in boxes of this size, in pixels.
const (
	boxHeight = 30
	boxGap    = 14
	rowGap    = 34
	letter    = 7.4 // width of a letter, on average
	boxPad    = 22
	chartEdge = 4

	chartWidest = 720.0
)

// A chart is the roles as boxes, each above those that it includes, with lines between.
type chart struct {
	Width, Height float64
	Boxes         []chartBox
	Lines         []chartLine
}

// View is the window through which all of the chart is seen.
func (c chart) View() string {
	return fmt.Sprintf("-2 -2 %.0f %.0f", c.Width+chartEdge, c.Height+chartEdge)
}

type chartBox struct {
	X, Y, W, H float64
	Name, Link string
	On         bool
}

// Middle and Base are where the name stands.
func (b chartBox) Middle() float64 { return b.X + b.W/2 }
func (b chartBox) Base() float64   { return b.Y + b.H/2 + 5 }

type chartLine struct {
	X1, Y1, X2, Y2 float64
	On             bool // it leads to the chosen role, or from it
}

// drawn lays the chart out.
func drawn(s *site.Site, chosen string, link func(string) string) chart {
	made, at := chart{}, map[string]chartBox{}
	rows := rowsOf(s)
	widths := make([]float64, len(rows))
	for i, row := range rows {
		widths[i] = widthOf(s, row)
		made.Width = max(made.Width, widths[i])
	}
	for i, row := range rows {
		x := (made.Width - widths[i]) / 2
		for _, key := range row {
			name := s.RoleName(key)
			b := chartBox{
				X: x, Y: float64(i) * (boxHeight + rowGap), W: boxWidth(name), H: boxHeight, Name: name, Link: link(key),
				On: key == chosen,
			}
			made.Boxes, at[key] = append(made.Boxes, b), b
			x += b.W + boxGap
		}
	}
	made.Height = float64(len(rows))*(boxHeight+rowGap) - rowGap
	for _, role := range s.Roles() {
		for _, included := range role.Includes {
			from, to := at[role.Key], at[included]
			of := role.Key == chosen || included == chosen
			made.Lines = append(made.Lines, chartLine{from.Middle(), from.Y + from.H, to.Middle(), to.Y, of})
		}
	}
	return made
}

// rowsOf gives the layers of the chart, those that are too wide in several rows.
func rowsOf(s *site.Site) [][]string {
	var rows [][]string
	for _, layer := range grant.Chart(s) {
		var row []string
		for _, key := range layer {
			if len(row) > 0 && widthOf(s, append(slices.Clip(row), key)) > chartWidest {
				rows, row = append(rows, row), nil
			}
			row = append(row, key)
		}
		rows = append(rows, row)
	}
	return rows
}

func widthOf(s *site.Site, row []string) float64 {
	width := -float64(boxGap)
	for _, key := range row {
		width += boxWidth(s.RoleName(key)) + boxGap
	}
	return width
}

func boxWidth(name string) float64 { return letter*float64(utf8.RuneCountInString(name)) + boxPad }
