package blob_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/blob"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// stores opens one of each sort: a directory, and a server that speaks the protocol of S3.
func stores(t *testing.T) map[string]*blob.Store {
	dir := filepath.Join(t.TempDir(), "made", "anew")
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("pier"))
	server := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(server.Close)
	t.Setenv("AWS_ACCESS_KEY_ID", "made-up")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "made-up")
	all := map[string]*blob.Store{}
	for name, at := range map[string]string{
		"directory": dir,
		"S3":        "s3://pier?region=eu-north-1&use_path_style=true&disable_https=true&endpoint=" + server.URL,
	} {
		store, err := blob.Open(t.Context(), at)
		require.NoError(t, err)
		t.Cleanup(func() { assert.NoError(t, store.Close()) })
		all[name] = store
	}
	return all
}

func picture(width, height int) *image.RGBA {
	made := image.NewRGBA(image.Rect(0, 0, width, height))
	for x := range width {
		for y := range height {
			made.Set(x, y, color.RGBA{uint8(x), uint8(y), 90, 255})
		}
	}
	return made
}

func pngOf(t *testing.T, of image.Image) []byte {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, of))
	return out.Bytes()
}

func TestBytesAreKeptAndReadBack(t *testing.T) {
	for name, store := range stores(t) {
		t.Run(name, func(t *testing.T) {
			words := strings.Repeat("Tides and fares.\n", 1000)
			holds, err := store.Keep(t.Context(), "Tides.TXT", strings.NewReader(words))
			require.NoError(t, err)
			assert.Equal(t, site.Bytes{Hash: holds.Hash, Type: "text/plain", Size: int64(len(words))}, holds)
			again, err := store.Keep(t.Context(), "other.txt", strings.NewReader(words))
			require.NoError(t, err)
			assert.Equal(t, holds, again, "the same bytes are kept once")

			r, err := store.Reader(t.Context(), holds.Hash, 0)
			require.NoError(t, err)
			_, err = r.Seek(6, io.SeekStart)
			require.NoError(t, err)
			part := make([]byte, 9)
			_, err = io.ReadFull(r, part)
			require.NoError(t, err)
			assert.Equal(t, "and fares", string(part))
			require.NoError(t, r.Close())

			names, err := store.Names(t.Context())
			require.NoError(t, err)
			assert.Equal(t, []string{holds.Hash}, names)
			require.NoError(t, store.Remove(t.Context(), holds))
			require.NoError(t, store.Remove(t.Context(), holds), "it is gone already")
			_, err = store.Reader(t.Context(), holds.Hash, 0)
			assert.ErrorIs(t, err, blob.ErrGone)
		})
	}
}

// Pictures are written anew: upright, in the widths that screens need, and without what a camera notes (the text that
// stands in a PNG's tEXt chunk here; PNG Specification, third edition, 11.3.3).
func TestPicturesAreKeptWithoutWhatIsNotedInThem(t *testing.T) {
	for name, store := range stores(t) {
		t.Run(name, func(t *testing.T) {
			plain := pngOf(t, picture(1000, 500))
			noted := slicesInsert(plain, 33, chunk("tEXt", "Location\x00somebody's home"))
			require.Contains(t, string(noted), "somebody's home")
			holds, err := store.Keep(t.Context(), "pier.png", bytes.NewReader(noted))
			require.NoError(t, err)
			assert.Equal(t, []int{1000, 500}, []int{holds.Width, holds.Height})
			for _, width := range []int{0, 480, 960} {
				r, err := store.Reader(t.Context(), holds.Hash, width)
				require.NoError(t, err, width)
				all, err := io.ReadAll(r)
				require.NoError(t, errors.Join(err, r.Close()))
				assert.NotContains(t, string(all), "somebody's home")
				size, err := png.DecodeConfig(bytes.NewReader(all))
				require.NoError(t, err)
				assert.Equal(t, max(width, 1000*(1-min(width, 1))), size.Width)
			}
			_, err = store.Reader(t.Context(), holds.Hash, 1600)
			assert.ErrorIs(t, err, blob.ErrGone, "none is made larger than it is")
		})
	}
}

func chunk(kind, words string) []byte {
	var out bytes.Buffer
	_ = binary.Write(&out, binary.BigEndian, uint32(len(words)))
	out.WriteString(kind + words)
	_ = binary.Write(&out, binary.BigEndian, crc32.ChecksumIEEE([]byte(kind+words)))
	return out.Bytes()
}

func slicesInsert(in []byte, at int, more []byte) []byte {
	return append(append(append([]byte{}, in[:at]...), more...), in[at:]...)
}

func TestOtherPicturesAreKeptToo(t *testing.T) {
	store := stores(t)["directory"]
	var moving, photograph bytes.Buffer
	require.NoError(t, gif.Encode(&moving, picture(20, 10), nil))
	require.NoError(t, jpeg.Encode(&photograph, picture(30, 10), nil))
	holds, err := store.Keep(t.Context(), "Flag.gif", &moving)
	require.NoError(t, err)
	assert.Equal(t, "image/png", holds.Type)
	assert.Equal(t, "flag.png", blob.Name("Flag.gif", holds))
	holds, err = store.Keep(t.Context(), "Øyra pier.JPEG", &photograph)
	require.NoError(t, err)
	assert.Equal(t, "oyra-pier.jpeg", blob.Name("Øyra pier.JPEG", holds))
	for _, name := range []string{
		"a.png", `C:\x\Rates until 2024.PDF`, "../../etc/passwd.txt", ".txt", "???.txt", strings.Repeat("long ", 90) + ".pdf",
		"a_b__c.txt", "--a--.txt",
	} {
		assert.True(
			t,
			edit.IsFileName(blob.Name(name, site.Bytes{})),
			"%s gives %s",
			name,
			blob.Name(name, site.Bytes{}),
		)
	}
}

// huge is a PNG that says that it has so many pixels, in a few bytes.
func huge(width, height uint32) []byte {
	var size bytes.Buffer
	_ = binary.Write(&size, binary.BigEndian, []uint32{width, height})
	head := size.String() + "\x08\x02\x00\x00\x00"
	return slicesInsert([]byte("\x89PNG\r\n\x1a\n"), 8, chunk("IHDR", head))
}

type cut struct{ io.Reader }

func (c cut) Read(p []byte) (int, error) {
	n, err := c.Reader.Read(p)
	if errors.Is(err, io.EOF) {
		err = io.ErrUnexpectedEOF
	}
	return n, err
}

func TestWhatIsNotTaken(t *testing.T) {
	for store, kept := range stores(t) {
		for name, one := range map[string]struct {
			from io.Reader
			says string
		}{
			"pier.png":    {bytes.NewReader(huge(40_000, 40_000)), "40,000 by 40,000 pixels"},
			"broken.png":  {bytes.NewReader(huge(40, 40)), "can't be read"},
			"drawing.svg": {strings.NewReader(`<svg onload="alert(1)"/>`), "can run scripts"},
			"rates.pdf":   {strings.NewReader("<html><script>alert(1)</script></html>"), "not what its name says"},
			"page.html":   {strings.NewReader("<p>x"), "are not taken"},
			"none":        {strings.NewReader("x"), "are not taken"},
			"empty.txt":   {strings.NewReader(""), "is empty"},
			"cut.txt":     {cut{strings.NewReader("half of")}, "was cut off"},
			"large.txt":   {io.LimitReader(endless{}, blob.Limit+5), "at most"},
			"program.zip": {strings.NewReader("MZ\x90\x00"), "not what its name says"},
		} {
			_, err := kept.Keep(t.Context(), name, one.from)
			var refusal *blob.Refusal
			require.ErrorAs(t, err, &refusal, "%s in %s", name, store)
			assert.Contains(t, refusal.Sentence, one.says, name)
		}
		names, err := kept.Names(t.Context())
		require.NoError(t, err)
		assert.Empty(t, names, "nothing of it is kept")
	}
}

type endless struct{}

func (endless) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = 'a'
	}
	return len(p), nil
}

// A store that does not take bytes says so, and nothing half is there.
func TestAStoreThatFails(t *testing.T) {
	t.Setenv("AWS_ACCESS_KEY_ID", "made-up")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "made-up")
	t.Setenv("AWS_MAX_ATTEMPTS", "1")
	away, err := blob.Open(t.Context(), "s3://pier?region=eu-north-1&use_path_style=true&endpoint=http://127.0.0.1:9")
	require.NoError(t, err)
	_, err = away.Keep(t.Context(), "tides.txt", strings.NewReader("tides"))
	assert.ErrorContains(t, err, "keep a file")
	dir := t.TempDir()
	blocked := filepath.Join(dir, "blocked")
	require.NoError(t, os.WriteFile(blocked, nil, 0o600))
	_, err = blob.Open(context.Background(), filepath.Join(blocked, "bytes"))
	assert.Error(t, err)
	for _, bad := range []string{"", "abc", strings.Repeat("a", 64) + "-7", "../" + strings.Repeat("a", 61)} {
		assert.False(t, blob.IsName(bad), bad)
	}
	assert.True(t, blob.IsName(fmt.Sprintf("%064x-480", 7)))
}
