package outline_test

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/outline"
)

func menuOf(t *testing.T) (*site.Site, *site.Menu) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares & offers")
	return s, &site.Menu{ID: 1, Key: "main", Name: "Main <menu>", Entries: []site.Entry{
		{ID: 1, Label: "Boats", Shows: site.Heading{}}, {ID: 2, Parent: 1, Shows: site.ToPage{Page: testkit.Find(t, s, "Fares & offers")}, Hint: "What it costs"},
		{ID: 3, Label: "Tides", Shows: site.ToWeb{Address: "https://tides.example/?a=1&b=2"}, Off: true},
		{ID: 4, Shows: site.ToBranch{Root: 1, Depth: 2, Self: site.SelfNot}, Audience: "staff"}}}
}

// Source: OPML 2.0, from memory: an opml element with a version, a head with a title and a date of RFC 822, a body of outlines, each
// with a text; a “link” has a url; isComment says that an outline does not count.
func TestOPML(t *testing.T) {
	s, m := menuOf(t)
	var out bytes.Buffer
	require.NoError(t, outline.WriteOPML(&out, s, m, "https://harbour.example", testkit.Now))
	var read struct {
		Version string `xml:"version,attr"`
		Title   string `xml:"head>title"`
		Created string `xml:"head>dateCreated"`
		Body    []struct {
			Text, Type, URL, IsComment string
			Attrs                      []xml.Attr `xml:",any,attr"`
			Kids                       []struct {
				Attrs []xml.Attr `xml:",any,attr"`
			} `xml:"outline"`
		} `xml:"body>outline"`
	}
	require.NoError(t, xml.Unmarshal(out.Bytes(), &read))
	assert.Equal(t, "2.0", read.Version)
	assert.Equal(t, "Main <menu>", read.Title)
	assert.Equal(t, "Tue, 24 Nov 2026 12:00:00 UTC", read.Created)
	attr := func(attrs []xml.Attr, name string) string {
		for _, a := range attrs {
			if a.Name.Local == name {
				return a.Value
			}
		}
		return ""
	}
	require.Len(t, read.Body, 3)
	assert.Equal(t, "Boats", attr(read.Body[0].Attrs, "text"))
	kid := read.Body[0].Kids[0].Attrs
	assert.Equal(t, []string{"Fares & offers", "link", "https://harbour.example/sailings/fares-and-offers", "What it costs"},
		[]string{attr(kid, "text"), attr(kid, "type"), attr(kid, "url"), attr(kid, "description")})
	assert.Equal(t, "https://tides.example/?a=1&b=2", attr(read.Body[1].Attrs, "url"))
	assert.Equal(t, "true", attr(read.Body[1].Attrs, "isComment"))
	assert.Equal(t, "branch:1:2:not", attr(read.Body[2].Attrs, "shows"))
}

func TestJSON(t *testing.T) {
	s, m := menuOf(t)
	var out bytes.Buffer
	require.NoError(t, outline.WriteJSON(&out, s, []site.Menu{*m}, ""))
	var read []struct {
		Key     string
		Entries []map[string]any
	}
	require.NoError(t, json.Unmarshal(out.Bytes(), &read))
	assert.Equal(t, "main", read[0].Key)
	assert.Equal(t, true, read[0].Entries[1]["off"])
	assert.Equal(t, "staff", read[0].Entries[2]["audience"])
	assert.Contains(t, out.String(), `"url": "/sailings/fares-and-offers"`)
}
