package grant

import (
	"cmp"
	"slices"

	"vineladder/internal/core/site"
)

// Chart puts the roles of a Site in layers, so that each stands below all that include it: the first has those that
// nobody includes. Within a layer a role stands near those that include it.
func Chart(s *site.Site) [][]string {
	depth := map[string]int{}
	var sink func(key string, at int)
	sink = func(key string, at int) {
		if role := s.Role(key); role != nil && at >= depth[key] {
			depth[key] = at
			for _, included := range role.Includes {
				sink(included, at+1)
			}
		}
	}
	for _, role := range s.Roles() {
		sink(role.Key, 0)
	}
	var layers [][]string
	for _, role := range s.Roles() {
		for len(layers) <= depth[role.Key] {
			layers = append(layers, nil)
		}
		layers[depth[role.Key]] = append(layers[depth[role.Key]], role.Key)
	}
	place := map[string]float64{}
	for at, layer := range layers {
		if at > 0 {
			weight := func(key string) float64 { return meanOfIncluders(s, key, place) }
			slices.SortStableFunc(layer, func(a, b string) int { return cmp.Compare(weight(a), weight(b)) })
		}
		for i, key := range layer {
			place[key] = (float64(i) + 0.5) / float64(len(layer))
		}
	}
	return layers
}

// meanOfIncluders is where those stand on average that include a role.
func meanOfIncluders(s *site.Site, key string, place map[string]float64) float64 {
	sum, n := 0.0, 0
	for _, role := range s.Roles() {
		if slices.Contains(role.Includes, key) {
			sum, n = sum+place[role.Key], n+1
		}
	}
	return sum / float64(max(n, 1))
}
