package target

import (
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// branch makes a run: the listed pages in one, to a depth, in the tree's order.
func branch() Type {
	t := typeOf[site.ItemBranch]("branch", "Pages inside")
	t.Set = true
	t.Write = func(shows site.Shows) string {
		to := shows.(site.ItemBranch)
		return fmt.Sprintf("%d:%d:%s", to.Root, to.Depth, to.Self)
	}
	t.Read = func(s *site.Site, text string) (site.Shows, error) {
		number, rest, _ := strings.Cut(text, ":")
		levels, self, _ := strings.Cut(rest, ":")
		id, err := known(s, number)
		if err != nil {
			return nil, err
		}
		depth, err := strconv.Atoi(levels)
		if err != nil || depth < 0 {
			return nil, typed.Refuse("The number of levels is a number; 0 is all of them.")
		}
		how, err := typed.OneOf(self, site.SelfNot, site.SelfAbove, site.SelfBeside)
		return site.ItemBranch{Root: id, Depth: depth, Self: how}, err
	}
	t.Reached = func(s *site.Site, panel *reach.Panel, shows site.Shows) reach.Mask {
		return panel.At(s, shows.(site.ItemBranch).Root).Reachable()
	}
	return t
}
