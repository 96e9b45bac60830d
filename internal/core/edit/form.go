package edit

import (
	"cmp"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// line is the form of one line of text; what names it in a refusal, limit counts characters.
func line(what string, limit int) Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read:  func(_ *site.Site, text string) (string, error) { return typed.Line(text, what, limit) },
	}
}

// plain is the form of text that is kept as it is.
func plain() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read:  func(_ *site.Site, text string) (string, error) { return text, nil },
	}
}

// flag is the form of “yes” and “no”.
func flag() Form[bool] {
	return Form[bool]{
		Write: typed.Yes,
		Read:  func(_ *site.Site, text string) (bool, error) { return typed.ParseYes(text) },
	}
}

// flagOff is the form of what is kept as true where it says “no”.
func flagOff() Form[bool] {
	return Form[bool]{
		Write: func(off bool) string { return typed.Yes(!off) },
		Read: func(_ *site.Site, text string) (bool, error) {
			on, err := typed.ParseYes(text)
			return !on, err
		},
	}
}

// instant is the form of a moment, or none: RFC 3339 in UTC.
func instant() Form[time.Time] {
	return Form[time.Time]{
		Write: typed.Moment,
		Read:  func(_ *site.Site, text string) (time.Time, error) { return typed.ParseMoment(text) },
	}
}

// listed is the form of what a page lists, or nothing.
func listed() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(s *site.Site, text string) (string, error) {
			if text == "" {
				return "", nil
			}
			q, err := listing.Read(s, text)
			if err != nil {
				return "", err
			}
			if q.Like != 0 {
				return "", refuse(
					"A page lists by a question of its own; only a block shows again what a page lists.",
				)
			}
			return listing.Text(q), nil
		},
	}
}

// audienceOfPage is the form of who sees a page.
func audienceOfPage() Form[site.Audience] {
	return Form[site.Audience]{Write: func(value site.Audience) string { return string(value) }, Read: ParseAudience}
}

// audience is the form of who may see an item or a block.
func audience() Form[site.Audience] {
	form := audienceOfPage()
	form.Read = func(s *site.Site, text string) (site.Audience, error) {
		if site.Audience(text) == site.AudienceEditors {
			return "", refuse("Only pages can be for those who may edit them.")
		}
		return ParseAudience(s, text)
	}
	return form
}

// signIn is how the names look with which people sign in.
var signIn = regexp.MustCompile(`^[a-z0-9][a-z0-9._@+-]{0,99}$`)

// owner is the form of who looks after a page. Whether there is such a person is for who knows the accounts.
func owner() Form[site.Owner] {
	return Form[site.Owner]{
		Write: func(value site.Owner) string { return string(value) },
		Read: func(s *site.Site, text string) (site.Owner, error) {
			made := site.Owner(text)
			if key, is := made.Role(); is && s.Role(key) == nil {
				return "", refuse("There is no role “%s”.", key)
			} else if is || text == "" {
				return made, nil
			}
			if login, is := made.Person(); is && signIn.MatchString(login) {
				return made, nil
			}
			return "", refuse(
				"“%s” is nobody who can look after a page: say role:… or person:… with a sign-in name.",
				text,
			)
		},
	}
}

// choice is the form of one of a few words; the first is meant where nothing is said.
func choice[Value ~string](allowed ...Value) Form[Value] {
	return Form[Value]{
		Write: func(value Value) string { return string(value) },
		Read:  func(_ *site.Site, text string) (Value, error) { return typed.OneOf(text, allowed...) },
	}
}

// layout is the form of a layout's key, or none. One that the theme does not have is refused.
func layout() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(s *site.Site, text string) (string, error) {
			if text != "" && s.Layout(text) == nil {
				return "", refuse("The theme has no layout “%s”.", text)
			}
			return text, nil
		},
	}
}

// pageNumber is the form of a page by its number, or none. found refuses pages that can't be meant.
func pageNumber(found func(*site.Site, site.PageID) error) Form[site.PageID] {
	return Form[site.PageID]{
		Write: func(value site.PageID) string {
			if value == 0 {
				return ""
			}
			return strconv.FormatInt(int64(value), 10)
		},
		Read: func(s *site.Site, text string) (site.PageID, error) {
			if text == "" {
				return 0, nil
			}
			id, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				id = 0
			}
			return site.PageID(id), found(s, site.PageID(id))
		},
	}
}

// whole is the form of a whole number within bounds; sentence refuses others.
func whole(least, most int, sentence string) Form[int] {
	return Form[int]{
		Write: strconv.Itoa,
		Read: func(_ *site.Site, text string) (int, error) {
			n, err := strconv.Atoi(text)
			if err != nil || n < least || n > most {
				return 0, refuse("%s", sentence)
			}
			return n, nil
		},
	}
}

// words is the form of a few keys, joined by "|".
func words() Form[[]string] {
	return Form[[]string]{
		Write: func(value []string) string { return strings.Join(value, "|") },
		Read: func(_ *site.Site, text string) ([]string, error) {
			if text == "" {
				return nil, nil
			}
			return strings.FieldsFunc(text, func(r rune) bool { return r == '|' }), nil
		},
	}
}

// day is the form of a date, or none: 2026-11-24.
func day() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			if text == "" {
				return "", nil
			}
			at, wrong := time.Parse(time.DateOnly, text)
			if wrong != nil {
				return "", refuse("“%s” is not a date; write it as 2026-11-24.", text)
			}
			return text, typed.CheckYear(at)
		},
	}
}

// or has a form take text for another one where it is empty.
func (f Form[Value]) or(unsaid string) Form[Value] {
	return Form[Value]{
		Write: f.Write,
		Read:  func(s *site.Site, text string) (Value, error) { return f.Read(s, cmp.Or(text, unsaid)) },
	}
}

// ParseAudience reads an audience and sorts its roles; a role that the site does not have is refused.
func ParseAudience(s *site.Site, value string) (site.Audience, error) {
	audience := site.Audience(value)
	roles := audience.Roles()
	for _, key := range roles {
		if s.Role(key) == nil {
			return "", refuse("There is no role “%s”.", key)
		}
	}
	if roles == nil {
		return audience, nil
	}
	slices.Sort(roles)
	return site.Audience(strings.Join(slices.Compact(roles), "|")), nil
}

// unsaid has a form write one value where a thing has none.
func (f Form[Value]) unsaid(as Value) Form[Value] {
	return Form[Value]{Read: f.Read, Write: func(value Value) string {
		if written := f.Write(value); written != "" {
			return written
		}
		return f.Write(as)
	}}
}
