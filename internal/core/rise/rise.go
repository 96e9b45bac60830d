// Package rise finds what stays in order when a list is arranged anew.
package rise

import "sort"

// Moved gives what stands in both lists and must have moved to make the second of the first: all that is outside a
// longest run that keeps its order.
func Moved[T comparable](before, after []T) []T {
	place := make(map[T]int, len(before))
	for at, thing := range before {
		place[thing] = at
	}
	var order []int
	var stays, moved []T
	for _, thing := range after {
		if at, stood := place[thing]; stood {
			order, stays = append(order, at), append(stays, thing)
		}
	}
	for _, at := range Outside(order) {
		moved = append(moved, stays[at])
	}
	return moved
}

// Outside gives the indexes that a longest increasing run of distinct numbers leaves out, ascending. With numbers the
// old places of things in their new order, these are the fewest that must have moved.
func Outside(numbers []int) []int {
	var ends []int // ends[k]: index of the smallest last number of a rise of length k+1
	back := make([]int, len(numbers))
	for i, n := range numbers {
		at := sort.Search(len(ends), func(k int) bool { return numbers[ends[k]] > n })
		back[i] = -1
		if at > 0 {
			back[i] = ends[at-1]
		}
		if at == len(ends) {
			ends = append(ends, i)
		} else {
			ends[at] = i
		}
	}
	inside := make([]bool, len(numbers))
	if len(ends) > 0 {
		for i := ends[len(ends)-1]; i >= 0; i = back[i] {
			inside[i] = true
		}
	}
	var outside []int
	for i, in := range inside {
		if !in {
			outside = append(outside, i)
		}
	}
	return outside
}
