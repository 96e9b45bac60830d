package site

import "strings"

// Ranks order siblings by plain byte order. A rank is a whole number of variable length, whose first letter says how
// many digits follow ("a" one, "b" two, …; "Z" one below zero, "Y" two, …), and then a fraction, so that a run can grow
// at either end without its ranks growing, and a gap can always be split. The idea is David Greenspan's fractional
// indexing (published as CC0); from memory.

const (
	rankDigits = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
	firstRank  = "a0"
	// RankLimit is the length over which a run of siblings is numbered anew (rules 2.7).
	RankLimit = 64
)

// RankBetween gives a rank after lower and before upper; an empty string is the open end. It expects lower < upper.
func RankBetween(lower, upper string) string {
	switch {
	case lower == "" && upper == "":
		return firstRank
	case upper == "":
		if next := stepUp(whole(lower)); next != "" {
			return next
		}
		return whole(lower) + middle(fraction(lower), "")
	case lower == "":
		if fraction(upper) != "" {
			return whole(upper)
		}
		if previous := stepDown(whole(upper)); previous != "" {
			return previous
		}
		return whole(upper) + middle("", fraction(upper))
	case whole(lower) == whole(upper):
		return whole(lower) + middle(fraction(lower), fraction(upper))
	}
	if next := stepUp(whole(lower)); next != "" && next < upper {
		return next
	}
	return whole(lower) + middle(fraction(lower), "")
}

// Ranks gives n ranks in order, for a run that is numbered anew.
func Ranks(n int) []string {
	ranks := make([]string, n)
	last := ""
	for i := range ranks {
		last = RankBetween(last, "")
		ranks[i] = last
	}
	return ranks
}

func wholeLength(rank string) int {
	if head := rank[0]; head >= 'a' {
		return int(head-'a') + 2
	} else {
		return int('Z'-head) + 2
	}
}

func whole(rank string) string    { return rank[:min(len(rank), wholeLength(rank))] }
func fraction(rank string) string { return rank[len(whole(rank)):] }

// middle gives a fraction strictly between two; upper "" is one. Fractions never end in the digit zero.
func middle(lower, upper string) string {
	shared := 0
	for upper != "" && shared < len(upper) && digitAt(lower, shared) == upper[shared] {
		shared++
	}
	if shared > 0 {
		return upper[:shared] + middle(lower[min(shared, len(lower)):], upper[shared:])
	}
	low := strings.IndexByte(rankDigits, digitAt(lower, 0))
	high := len(rankDigits)
	if upper != "" {
		high = strings.IndexByte(rankDigits, upper[0])
	}
	if high-low > 1 {
		return rankDigits[(low+high+1)/2 : (low+high+1)/2+1]
	}
	if len(upper) > 1 {
		return upper[:1]
	}
	return rankDigits[low:low+1] + middle(lower[min(1, len(lower)):], "")
}

func digitAt(digits string, i int) byte {
	if i < len(digits) {
		return digits[i]
	}
	return rankDigits[0]
}

// stepUp and stepDown count a whole part by one; "" where the numbers end.
func stepUp(whole string) string {
	digits := []byte(whole)
	for i := len(digits) - 1; i > 0; i-- {
		if d := strings.IndexByte(rankDigits, digits[i]) + 1; d < len(rankDigits) {
			digits[i] = rankDigits[d]
			return string(digits)
		}
		digits[i] = rankDigits[0]
	}
	switch head := digits[0]; {
	case head == 'z':
		return ""
	case head == 'Z':
		return firstRank
	case head > 'Z':
		return string(head+1) + string(digits[1:]) + rankDigits[:1]
	default:
		return string(head+1) + string(digits[1:len(digits)-1])
	}
}

func stepDown(whole string) string {
	top := rankDigits[len(rankDigits)-1]
	digits := []byte(whole)
	for i := len(digits) - 1; i > 0; i-- {
		if d := strings.IndexByte(rankDigits, digits[i]) - 1; d >= 0 {
			digits[i] = rankDigits[d]
			return string(digits)
		}
		digits[i] = top
	}
	switch head := digits[0]; {
	case head == 'A':
		return ""
	case head == 'a':
		return "Z" + string(top)
	case head > 'a':
		return string(head-1) + string(digits[1:len(digits)-1])
	default:
		return string(head-1) + string(digits[1:]) + string(top)
	}
}

// IsRank says whether words from outside are a rank.
func IsRank(text string) bool {
	if text == "" || len(text) > RankLimit || strings.Trim(text, rankDigits) != "" || text[0] < 'A' {
		return false
	}
	return len(text) >= wholeLength(text) && !strings.HasSuffix(fraction(text), rankDigits[:1])
}
