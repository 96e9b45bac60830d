// Package colour knows pairs of colours, for text and for what is behind it, and whether they can be told apart.
package colour

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Enough is the least contrast of text that WCAG 2.2 asks for (1.4.3).
const Enough = 4.5

// A Pair is a colour of text and one behind it, each as "#rrggbb".
type Pair struct{ Text, Back string }

// ParsePair reads "#rrggbb on #rrggbb"; ok is false if it is not written so.
func ParsePair(written string) (Pair, bool) {
	text, back, _ := strings.Cut(strings.ToLower(written), " on ")
	_, one := channels(text)
	_, two := channels(back)
	return Pair{text, back}, one && two
}

// String writes a pair as ParsePair reads it.
func (p Pair) String() string { return p.Text + " on " + p.Back }

// Name is a word for the pair that can stand in a class or an address: "1e2b27-f7f5ef".
func (p Pair) Name() string {
	return strings.TrimPrefix(p.Text, "#") + "-" + strings.TrimPrefix(p.Back, "#")
}

// Named reads what Name wrote.
func Named(name string) (Pair, bool) {
	text, back, _ := strings.Cut(name, "-")
	return ParsePair("#" + text + " on #" + back)
}

// Contrast is the contrast ratio of a pair, from 1 to 21: WCAG 2.2, "contrast ratio", (L1 + 0.05) / (L2 + 0.05) of the
// relative luminances, the lighter one first. A colour that can't be read counts as black.
func (p Pair) Contrast() float64 {
	a, b := luminance(p.Text), luminance(p.Back)
	return (max(a, b) + 0.05) / (min(a, b) + 0.05)
}

// Ratio writes the contrast as "4.54", cut and not rounded: 4.499 is not enough.
func (p Pair) Ratio() string { return fmt.Sprintf("%.2f", math.Floor(p.Contrast()*100)/100) }

// luminance is WCAG 2.2's relative luminance of an sRGB colour.
func luminance(colour string) float64 {
	c, _ := channels(colour)
	var linear [3]float64
	for i, channel := range c {
		share := float64(channel) / 255
		if share <= 0.04045 {
			linear[i] = share / 12.92
		} else {
			linear[i] = math.Pow((share+0.055)/1.055, 2.4)
		}
	}
	return 0.2126*linear[0] + 0.7152*linear[1] + 0.0722*linear[2]
}

func channels(colour string) (c [3]uint8, ok bool) {
	if len(colour) != 7 || colour[0] != '#' {
		return c, false
	}
	n, err := strconv.ParseUint(colour[1:], 16, 32)
	return [3]uint8{uint8(n >> 16), uint8(n >> 8), uint8(n)}, err == nil
}
