// Package count writes numbers as they stand in sentences: counts with their noun, places in an order. It knows the
// language of the screens, English, and nothing of the site.
package count

import "strconv"

// Number writes a number with its thousands apart: 2,399.
func Number(n int) string {
	digits := strconv.Itoa(n)
	first := 0
	if n < 0 {
		first = 1
	}
	for at := len(digits) - 3; at > first; at -= 3 {
		digits = digits[:at] + "," + digits[at:]
	}
	return digits
}

// Of writes a number with its noun: “1 page”, “2,399 pages”.
func Of(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return Number(n) + " " + many
}

// Cardinal writes a number, up to ten in words.
func Cardinal(n int) string {
	small := []string{"none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"}
	if n >= 0 && n < len(small) {
		return small[n]
	}
	return Number(n)
}

// Pages counts pages.
func Pages(n int) string { return Of(n, "page", "pages") }

// Ordinal writes a place in an order, up to ten in words: “second”, “14th”.
func Ordinal(n int) string {
	small := []string{"", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"}
	if n > 0 && n < len(small) {
		return small[n]
	}
	suffix := "th"
	if n%100 < 11 || n%100 > 13 {
		switch n % 10 {
		case 1:
			suffix = "st"
		case 2:
			suffix = "nd"
		case 3:
			suffix = "rd"
		}
	}
	return Number(n) + suffix
}

// Bytes writes an amount of bytes, in the unit in which it reads best: “812 bytes”, “12 KB”, “3.4 MB”.
func Bytes(n int64) string {
	switch {
	case n < 1000:
		return Of(int(n), "byte", "bytes")
	case n < 1_000_000:
		return Number(int((n+500)/1000)) + " KB"
	case n < 10_000_000:
		return strconv.FormatFloat(float64(n)/1e6, 'f', 1, 64) + " MB"
	}
	return Number(int((n+500_000)/1_000_000)) + " MB"
}
