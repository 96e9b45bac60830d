package edit

import (
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// FieldBytes is what a file holds, as site.Bytes writes it.
const FieldBytes Field = "bytes"

// fileName is what a file can be called in its address.
var fileName = regexp.MustCompile(`^[a-z0-9]+(?:-[a-z0-9]+)*(?:\.[a-z0-9]+(?:-[a-z0-9]+)*)?$`)

// fileNameLimit is the length of the longest such name.
const fileNameLimit = 120

// IsFileName says whether a file can have a name as it stands in its address: small letters, digits and hyphens, and an
// extension.
func IsFileName(name string) bool { return len(name) <= fileNameLimit && fileName.MatchString(name) }

// isFileAddress says whether an address is one that a file can have, and only a file.
func isFileAddress(path string) bool {
	name, under := strings.CutPrefix(path, site.FilesPath)
	return under && IsFileName(name)
}

// bytesForm is how what a file holds is written.
func bytesForm() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			if _, is := site.ReadBytes(text); text != "" && !is {
				return "", refuse("This file was not kept; choose it again.")
			}
			return text, nil
		},
	}
}

// checkFile refuses what a page can't be beside its parent where files are concerned (rules 12.3): folders hold files
// and folders, files hold nothing, and only files have bytes and an address of a file.
func (st *state) checkFile(p *site.Page) error {
	above := st.Peek().Page(p.Parent)
	switch {
	case above != nil && above.IsFile():
		return refuse("“%s” is a file; nothing can stand in it.", above.Label)
	case above != nil && above.IsFolder() && !p.IsFile() && !p.IsFolder():
		return refuse("“%s” is a folder; only files and folders can stand in it.", above.Label)
	case (p.IsFile() || p.IsFolder()) && p.Parent == 0:
		return refuse("The home page can't be a file or a folder.")
	case p.IsFile() && p.Bytes == "" && !p.Purged:
		return refuse("“%s” has no contents: choose a file.", p.Label)
	case p.IsFile() != isFileAddress(p.OwnAddress):
		return refuse("Addresses that start with “%s” belong to files, and each file has one.", site.FilesPath)
	case !p.IsFile() && p.Bytes != "":
		return refuse("“%s” is no file.", p.Label)
	case (p.IsFile() || p.IsFolder()) && (p.Text != "" || p.Listing != ""):
		return refuse("“%s” is no page that visitors read; it has no text and lists nothing.", p.Label)
	case p.IsFolder() && p.OwnAddress != "":
		return refuse("“%s” is a folder; visitors don't open it, so it has no address.", p.Label)
	}
	return nil
}

// checkSort refuses what a page of its type can't be where it stands.
func (st *state) checkSort(p *site.Page) error {
	if err := st.checkTopics(p); err != nil {
		return err
	}
	return st.checkFile(p)
}

// keepsSort refuses that a page becomes of a sort that is made where it belongs, or ceases to be, and that a file gets
// another name: its address was given once.
func keepsSort(was, is *site.Page) error {
	switch {
	case was.IsFile() && is.IsFile() && was.OwnAddress != is.OwnAddress:
		return refuse("The address of “%s” was given once and stays.", was.Label)
	case was.Kind == is.Kind || !site.IsOwnKind(was.Kind) && !site.IsOwnKind(is.Kind):
		return nil
	case was.IsFile() || was.IsFolder() || is.IsFile() || is.IsFolder():
		return refuse("“%s” can't become a file or folder, nor cease to be one: files are uploaded.", was.Label)
	}
	return refuse("“%s” can't become a topic, nor cease to be one: topics are made in their list.", was.Label)
}

// FilesPlace gives the place of a file that belongs to no page: last in the first folder right below the home page,
// “Files”, which the operations make if there is none. id is what it will have.
func FilesPlace(s *site.Site, id site.PageID) ([]Op, Place) {
	for _, kid := range s.Children(s.Home()) {
		if s.Page(kid).IsFolder() {
			return nil, Place{Parent: kid}
		}
	}
	return []Op{MakeFolder(id, Place{Parent: s.Home()}, "Files")}, Place{Parent: id}
}

// MakeFolder gives the operation that makes a folder: live, so that its files can be, and in no menu.
func MakeFolder(id site.PageID, at Place, label string) OpMake {
	return OpMake{Page: id, Place: at, Fields: []FieldChange{
		{Field: FieldLabel, New: label},
		{Field: FieldKind, New: site.KindFolder},
		{Field: FieldStatus, New: string(site.StatusLive)},
		{Field: FieldListed, New: "no"},
	}}
}

// MakeFile gives the operation that makes a file of a name that nothing else has: live, so that it can be linked, and
// in no menu.
func MakeFile(id site.PageID, at Place, label, name string, holds site.Bytes) OpMake {
	return OpMake{Page: id, Place: at, Fields: []FieldChange{
		{Field: FieldLabel, New: label},
		{Field: FieldKind, New: site.KindFile},
		{Field: FieldOwnAddress, New: site.FilesPath + name},
		{Field: FieldBytes, New: holds.String()},
		{Field: FieldStatus, New: string(site.StatusLive)},
		{Field: FieldListed, New: "no"},
	}}
}

// FreeFileName gives a name that no file of some sites has or had, nor anything besides.
func FreeFileName(wanted string, besides func(name string) bool, sites ...*site.Site) string {
	taken := func(name string) bool {
		at := func(f site.FixedAddress) bool { return f.Address == site.FilesPath+name }
		has := func(s *site.Site) bool { return slices.ContainsFunc(s.Fixed(), at) }
		return slices.ContainsFunc(sites, has) || besides(name)
	}
	extension := path.Ext(wanted)
	free := wanted
	for n := 2; taken(free); n++ {
		free = strings.TrimSuffix(wanted, extension) + "-" + strconv.Itoa(n) + extension
	}
	return free
}
