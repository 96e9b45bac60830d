package target

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// HitsMost bounds the lines of what a page lists, and LeastMost the pages that a topic needs for a line.
const (
	HitsMost  = 50
	LeastMost = 1_000_000
)

// branch makes a run: the listed pages in one, to a depth, or the first ones that it lists. It is written as root,
// levels and place of the root, and then what is not as usual: “hits=5”, “least=2”, “by=count”, “count”, “of=12”.
func branch() Type {
	t := typeOf[site.ItemBranch]("branch", "Pages inside")
	t.Set = true
	t.Write = func(shows site.Shows) string { return writeBranch(shows.(site.ItemBranch)) }
	t.Read = func(s *site.Site, text string) (site.Shows, error) {
		parts := strings.Split(text, ":")
		if len(parts) < 3 {
			return nil, typed.Refuse("An item of pages inside one names that page, the levels, and how it shows itself.")
		}
		id, err := known(s, parts[0])
		if err != nil {
			return nil, err
		}
		to := site.ItemBranch{Root: id}
		to.Depth, err = strconv.Atoi(parts[1])
		if err != nil || to.Depth < 0 {
			return nil, typed.Refuse("The number of levels is a number; 0 is all of them.")
		}
		if to.Self, err = typed.OneOf(parts[2], site.SelfNot, site.SelfAbove, site.SelfBeside); err != nil {
			return nil, err
		}
		if err := readGrowth(&to, parts[3:]); err != nil {
			return nil, err
		}
		if to.Hits > 0 {
			to.Depth = 1
		}
		return to, checkGrowth(s, to)
	}
	t.Reached = func(s *site.Site, panel *reach.Panel, shows site.Shows) reach.Mask {
		return panel.At(s, shows.(site.ItemBranch).Root).Reachable()
	}
	return t
}

func writeBranch(to site.ItemBranch) string {
	text := fmt.Sprintf("%d:%d:%s", to.Root, to.Depth, to.Self)
	if to.Hits > 0 {
		text += fmt.Sprintf(":hits=%d", to.Hits)
	}
	if to.Least > 0 {
		text += fmt.Sprintf(":least=%d", to.Least)
	}
	if to.By != site.GrownByPlace {
		text += ":by=" + string(to.By)
	}
	if to.Count {
		text += ":count"
	}
	if to.Of != 0 {
		text += fmt.Sprintf(":of=%d", to.Of)
	}
	return text
}

// readGrowth reads what is not as usual. A number that is empty or 0 is as usual.
func readGrowth(to *site.ItemBranch, parts []string) (err error) {
	for _, part := range parts {
		key, value, _ := strings.Cut(part, "=")
		switch key {
		case "hits":
			to.Hits, err = within(value, HitsMost, "The number of lines")
		case "least":
			to.Least, err = within(value, LeastMost, "The least number of pages")
		case "by":
			to.By, err = typed.OneOf(value, site.GrownByPlace, site.GrownByLabel, site.GrownByCount)
		case "count":
			to.Count = true
		case "of":
			number, fault := strconv.ParseInt(cmp.Or(value, "0"), 10, 64)
			if to.Of = site.PageID(number); fault != nil {
				err = typed.Refuse("“%s” is no page.", value)
			}
		default:
			err = typed.Refuse("An item of pages inside one has no setting “%s”.", key)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func within(text string, most int, what string) (int, error) {
	n, err := strconv.Atoi(cmp.Or(text, "0"))
	if err != nil || n < 0 || n > most {
		return 0, typed.Refuse("%s is a number from 0 to %s.", what, count.Number(most))
	}
	return n, nil
}

// checkGrowth refuses what the root can't have: only topics have counts, and only what a page lists has hits.
func checkGrowth(s *site.Site, to site.ItemBranch) error {
	root, counts := s.Page(to.Root), to.Least > 0 || to.Count || to.By == site.GrownByCount
	if to.Of != 0 {
		return checkNarrowing(s, to)
	}
	switch {
	case counts && !root.Gathers():
		return typed.Refuse("“%s” is no topic list and no topic, so its lines have no counts.", root.Label)
	case to.Hits > 0 && root.Gathers():
		return typed.Refuse("“%s” lists no pages by itself; let the item show the topics inside it.", root.Label)
	case to.Hits > 0 && to.By != site.GrownByPlace:
		return typed.Refuse("What a page lists stands in the order of its list.")
	}
	return nil
}

// checkNarrowing refuses lines that lead to a list which visitors can't narrow to the topics of the lines.
func checkNarrowing(s *site.Site, to site.ItemBranch) error {
	root, of := s.Page(to.Root), s.Page(to.Of)
	switch {
	case of == nil || of.Purged:
		return &typed.Missing{Page: to.Of, Sentence: "The page to whose list the lines should lead is not there any more."}
	case !root.Gathers():
		return typed.Refuse("“%s” is no topic list and no topic, to which a list could be narrowed.", root.Label)
	case to.Self != site.SelfNot || to.Hits > 0:
		return typed.Refuse("Lines that lead to a list that is narrowed stand without the line of “%s”.", root.Label)
	case !slices.Contains(listing.NarrowedBy(s, s.TopicList(root.ID).ID), of.ID):
		return typed.Refuse("Visitors can't narrow what “%s” lists to the topics of “%s”.", of.Label, root.Label)
	}
	return nil
}
