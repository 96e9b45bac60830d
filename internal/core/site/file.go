package site

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Kinds of page that have to do with files (rules 12.3). A file is a page that answers with its bytes, and stands in a
// folder or below the page that it belongs to; so it has a place, an audience, an address and a history as any page.
const (
	KindFile   = "file"
	KindFolder = "folder"
)

// FilesPath begins the address of every file.
const FilesPath = "/files/"

// FileKinds are those kinds as a site has them that says nothing else of them.
func FileKinds() []Kind {
	return []Kind{{Key: KindFolder, Name: "Folder"}, {Key: KindFile, Name: "File"}}
}

// OwnKinds are the kinds that the program itself knows: their pages are made where they belong, and never become
// others.
func OwnKinds() []Kind { return append(TopicKinds(), FileKinds()...) }

// IsOwnKind says whether pages of a kind are made where they belong only.
func IsOwnKind(key string) bool {
	return key == KindTopic || key == KindTopicList || key == KindFile || key == KindFolder
}

// IsFile says whether the page is a file.
func (p *Page) IsFile() bool { return p.Kind == KindFile }

// IsFolder says whether the page is a folder, which visitors can't open.
func (p *Page) IsFolder() bool { return p.Kind == KindFolder }

// FileName gives the name of a file as it stands in its address.
func (p *Page) FileName() string { return strings.TrimPrefix(p.OwnAddress, FilesPath) }

// Files gives the files and folders of the tree, ascending by number.
func (s *Site) Files() []PageID {
	return slices.DeleteFunc(slices.Clone(s.files), func(id PageID) bool { return !s.InTree(id) })
}

// Bytes say what a file holds.
type Bytes struct {
	Hash          string // SHA-256 of the bytes, in hexadecimal digits
	Type          string // media type, without parameters
	Size          int64  // in bytes
	Width, Height int    // in pixels, of a picture; else 0
}

// String writes bytes down as the field of a page has them, as in "9f86… image/png 5120 640x480".
func (b Bytes) String() string {
	if b.Hash == "" {
		return ""
	}
	text := fmt.Sprintf("%s %s %d", b.Hash, b.Type, b.Size)
	if b.Width > 0 {
		text += fmt.Sprintf(" %dx%d", b.Width, b.Height)
	}
	return text
}

// IsPicture says whether browsers show the bytes as a picture.
func (b Bytes) IsPicture() bool { return b.Width > 0 }

// fileRef begins the reference to a file by its page. Names of files have no slash.
const fileRef = "page/"

// FileRef writes the reference by which blocks and details show a file, as in "page/12".
func FileRef(id PageID) string { return fileRef + strconv.FormatInt(int64(id), 10) }

// ReadFileRef reads what FileRef wrote; ok is false for the name of a file from before files were pages.
func ReadFileRef(ref string) (id PageID, ok bool) {
	number, is := strings.CutPrefix(ref, fileRef)
	n, err := strconv.ParseInt(number, 10, 64)
	return PageID(n), is && err == nil
}

// PictureWidths are those in which pictures are made besides their own, in pixels, for screens that need no more.
var PictureWidths = []int{480, 960, 1600}

// Widths gives the widths that there are of a picture besides its own, ascending.
func (b Bytes) Widths() []int {
	var less []int
	for _, width := range PictureWidths {
		if width < b.Width {
			less = append(less, width)
		}
	}
	return less
}

// versionLength is how much of the hash tells versions of one file apart.
const versionLength = 12

// Version is a short name of the bytes, for addresses.
func (b Bytes) Version() string { return b.Hash[:min(len(b.Hash), versionLength)] }

// hashLength is that of a SHA-256 in hexadecimal digits.
const hashLength = 64

// ReadBytes reads what String wrote.
func ReadBytes(text string) (b Bytes, ok bool) {
	words := strings.Fields(text)
	if len(words) < 3 || len(words) > 4 || len(words[0]) != hashLength ||
		strings.Trim(words[0], "0123456789abcdef") != "" {
		return b, false
	}
	b.Hash, b.Type = words[0], words[1]
	size, err := strconv.ParseInt(words[2], 10, 64)
	if b.Size = size; err != nil || size < 1 || !strings.Contains(b.Type, "/") {
		return Bytes{}, false
	}
	if len(words) == 4 {
		if _, err := fmt.Sscanf(words[3], "%dx%d", &b.Width, &b.Height); err != nil || b.Width < 1 || b.Height < 1 {
			return Bytes{}, false
		}
	}
	return b, b.String() == text
}

// BytesOf gives what a file holds; the zero Bytes for a page that is none.
func (p *Page) BytesOf() Bytes {
	b, _ := ReadBytes(p.Bytes)
	return b
}
