package detail

import (
	"net/mail"
	"regexp"
	"strings"

	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// web is an address elsewhere.
func web() Type {
	t := typeOf(site.DetailWeb, "Web address")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		clean, err := typed.Line(text, quoted(d), Limit)
		if err != nil {
			return "", err
		}
		if !strings.HasPrefix(clean, "https://") && !strings.HasPrefix(clean, "http://") {
			return "", typed.Refuse("“%s” is not a web address; write it as https://host/path.", clean)
		}
		return typed.Web(clean)
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		_, bare, _ := strings.Cut(value, "://")
		return []Shown{{Words: strings.TrimSuffix(bare, "/"), Href: value}}
	}
	return t
}

// mailTo is an address for e-mail (RFC 5322, addr-spec), which links as RFC 6068 has it.
func mailTo() Type {
	t := typeOf(site.DetailMail, "E-mail address")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		clean, err := typed.Line(text, quoted(d), Limit)
		if err != nil {
			return "", err
		}
		read, err := mail.ParseAddress(clean)
		if err != nil || read.Name != "" || read.Address != clean || strings.ContainsAny(clean, "\"()<> ") {
			return "", typed.Refuse("“%s” is not an e-mail address; write it as name@host.example.", clean)
		}
		return clean, nil
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		escaped := strings.NewReplacer("%", "%25", "?", "%3F", "&", "%26").Replace(value)
		return []Shown{{Words: value, Href: "mailto:" + escaped}}
	}
	return t
}

// telephone is a number as people write it: at most fifteen digits (ITU-T E.164), with blanks, hyphens, slashes, stops
// and brackets between them.
var telephone = regexp.MustCompile(`^\+?[0-9][0-9 ()/.-]*$`)

// phone is a telephone number, which links as RFC 3966 has it.
func phone() Type {
	t := typeOf(site.DetailPhone, "Telephone number")
	t.Order = nil
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		clean, err := typed.Line(text, quoted(d), Limit)
		if err != nil {
			return "", err
		}
		if n := len(digits(clean)); !telephone.MatchString(strings.TrimPrefix(clean, "(")) || n < 3 || n > 15 {
			const no = "“%s” is not a telephone number: it has 3 to 15 digits, and a + before those of a country."
			return "", typed.Refuse(no, clean)
		}
		return clean, nil
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		number := digits(value)
		if strings.HasPrefix(value, "+") {
			number = "+" + number
		}
		return []Shown{{Words: value, Href: "tel:" + number}}
	}
	return t
}

func digits(text string) string {
	return strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, text)
}

// file is a file to download.
func file() Type {
	t := typeOf(site.DetailFile, "File")
	t.Read = func(s *site.Site, _ site.Detail, text string) (string, error) { return typed.File(s, text) }
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		id, isPage := site.ReadFileRef(value)
		switch p := s.Page(id); {
		case !isPage:
			return []Shown{{Words: value, Href: site.FilesPath + value}}
		case p != nil && p.IsFile():
			return []Shown{{Words: p.Label, Href: p.OwnAddress, Page: id}}
		}
		return nil
	}
	return t
}

// image is a picture, its file and, in the next line, what it shows in words.
func image() Type {
	t := typeOf(site.DetailPicture, "Picture")
	t.Order = nil
	t.Read = func(s *site.Site, d site.Detail, text string) (string, error) {
		name, alternative, _ := strings.Cut(text, "\n")
		name, err := typed.File(s, strings.TrimSpace(name))
		if err != nil {
			return "", err
		}
		if alternative, err = typed.Line(alternative, quoted(d), Limit); err != nil || alternative == "" {
			return name, err
		}
		return name + "\n" + alternative, nil
	}
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		ref, alternative, _ := strings.Cut(value, "\n")
		shown, file, there := picture.At(s, ref, "", alternative)
		if !there {
			return nil
		}
		return []Shown{{Words: shown.Alt, File: &shown, Page: file}}
	}
	return t
}
