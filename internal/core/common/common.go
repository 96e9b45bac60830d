// Package common finds what two lists have in common, in order: that of which a comparison says that it stayed.
package common

import (
	"slices"

	"vineladder/internal/core/rise"
)

// limit bounds the product of the lengths of lists that are compared line by line. Of longer ones lines that
// stand once in each are compared.
const limit = 1_000_000

// Lines gives the indexes of a longest list that is in both, in order.
func Lines(a, b []string) [][2]int {
	from := 0
	var pairs [][2]int
	for from < len(a) && from < len(b) && a[from] == b[from] {
		pairs = append(pairs, [2]int{from, from})
		from++
	}
	ends := [2]int{len(a), len(b)}
	for ends[0] > from && ends[1] > from && a[ends[0]-1] == b[ends[1]-1] {
		ends[0], ends[1] = ends[0]-1, ends[1]-1
	}
	x, y := a[from:ends[0]], b[from:ends[1]]
	middle := Longest[string]
	if len(x)*len(y) > limit {
		middle = Once
	}
	for _, pair := range middle(x, y) {
		pairs = append(pairs, [2]int{pair[0] + from, pair[1] + from})
	}
	for i := range len(a) - ends[0] {
		pairs = append(pairs, [2]int{ends[0] + i, ends[1] + i})
	}
	return pairs
}

// Once gives a longest common list of what stands once in each.
func Once(a, b []string) [][2]int {
	place := map[string]int{}
	for i, s := range a {
		if _, twice := place[s]; twice {
			i = -1
		}
		place[s] = i
	}
	var pairs [][2]int
	var order []int
	for k, s := range b {
		if i, known := place[s]; known && i >= 0 {
			place[s] = -1
			pairs, order = append(pairs, [2]int{i, k}), append(order, i)
		}
	}
	for _, at := range slices.Backward(rise.Outside(order)) {
		pairs = slices.Delete(pairs, at, at+1)
	}
	return pairs
}

// Longest gives the indexes of a longest list that is in both, in order.
func Longest[T comparable](a, b []T) [][2]int {
	width := len(b) + 1
	length := make([]int32, (len(a)+1)*width)
	for i := len(a) - 1; i >= 0; i-- {
		for k := len(b) - 1; k >= 0; k-- {
			at := i*width + k
			if a[i] == b[k] {
				length[at] = length[at+width+1] + 1
			} else {
				length[at] = max(length[at+width], length[at+1])
			}
		}
	}
	var pairs [][2]int
	for i, k := 0, 0; i < len(a) && k < len(b); {
		switch at := i*width + k; {
		case a[i] == b[k]:
			pairs = append(pairs, [2]int{i, k})
			i, k = i+1, k+1
		case length[at+width] >= length[at+1]:
			i++
		default:
			k++
		}
	}
	return pairs
}
