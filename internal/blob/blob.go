// Package blob keeps the bytes of files, named by their hash and never changed: in a directory, or in a store that
// speaks the protocol of S3, which several instances can share. It takes only what is on its list of types, looks at
// what the bytes really are, and keeps pictures without what cameras and programs note in them.
package blob

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	gocloud "gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	_ "gocloud.dev/blob/s3blob" // addresses that begin with s3://
	"gocloud.dev/gcerrors"

	"vineladder/internal/core/site"
)

// A Store keeps bytes. It is safe for concurrent use.
type Store struct {
	opened *gocloud.Bucket
	dir    string // "": it is no directory
	sync.Mutex
}

// Open opens a store: a directory, which is made when there is something to keep, or an address as in
// "s3://bucket?region=eu-north-1&endpoint=https://store.example". Keys come from the environment, as S3 programs read
// them.
func Open(ctx context.Context, at string) (*Store, error) {
	if strings.Contains(at, "://") {
		bucket, err := gocloud.OpenBucket(ctx, at)
		if err != nil {
			return nil, fmt.Errorf("open the store of files: %w", err)
		}
		return &Store{opened: bucket}, nil
	}
	if there, err := os.Stat(filepath.Dir(at)); err == nil && !there.IsDir() {
		return nil, fmt.Errorf("open the directory of files: %s is no directory", filepath.Dir(at))
	}
	return &Store{dir: at}, nil
}

// bucket gives the bytes themselves; nil where nothing was kept yet and nothing is to be.
func (s *Store) bucket(toKeep bool) (*gocloud.Bucket, error) {
	s.Lock()
	defer s.Unlock()
	if _, err := os.Stat(s.dir); s.opened != nil || !toKeep && err != nil {
		return s.opened, nil
	}
	// Bytes are written beside their place and put there whole: a file is all there or not at all.
	opened, err := fileblob.OpenBucket(s.dir, &fileblob.Options{
		NoTempDir: true, CreateDir: true, Metadata: fileblob.MetadataDontWrite, DirFileMode: 0o755,
	})
	if err != nil {
		return nil, fmt.Errorf("open the directory of files: %w", err)
	}
	s.opened = opened
	return opened, nil
}

// InDir is where the bytes lie in a directory of files.
func InDir(dir string) string { return filepath.Join(dir, "bytes") }

// Close ends the use of a store.
func (s *Store) Close() error {
	if s.opened == nil {
		return nil
	}
	return s.opened.Close()
}

// ErrGone is bytes that are not there.
var ErrGone = errors.New("the bytes of this file are not in the store")

// Reader reads the bytes of a hash, in a width that was made of the picture or, with 0, as they are. Who reads closes
// it.
func (s *Store) Reader(ctx context.Context, hash string, width int) (io.ReadSeekCloser, error) {
	bucket, err := s.bucket(false)
	if bucket == nil {
		return nil, errors.Join(ErrGone, err)
	}
	r, err := bucket.NewReader(ctx, key(hash, width), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrGone
	}
	if err != nil {
		return nil, fmt.Errorf("read a file: %w", err)
	}
	return r, nil
}

// key is the name of bytes in the store.
func key(hash string, width int) string {
	if width > 0 {
		return fmt.Sprintf("%s-%d", hash, width)
	}
	return hash
}

// put keeps a file under a name, unless it is there.
func (s *Store) put(ctx context.Context, name, from string) error {
	bucket, err := s.bucket(true)
	if err != nil {
		return err
	}
	there, err := bucket.Exists(ctx, name)
	if err != nil || there {
		return wrap(err)
	}
	file, err := os.Open(from)
	if err != nil {
		return wrap(err)
	}
	defer file.Close()
	return wrap(bucket.Upload(ctx, name, file, &gocloud.WriterOptions{ContentType: "application/octet-stream"}))
}

func wrap(err error) error {
	if err != nil {
		return fmt.Errorf("keep a file: %w", err)
	}
	return nil
}

// Names gives the names of all that is kept, hashes and widths of pictures, in order.
func (s *Store) Names(ctx context.Context) ([]string, error) {
	return s.Before(ctx, time.Now().AddDate(100, 0, 0))
}

// Before gives the names of all that was kept before a moment.
func (s *Store) Before(ctx context.Context, at time.Time) ([]string, error) {
	bucket, err := s.bucket(false)
	if bucket == nil {
		return nil, err
	}
	var names []string
	for list := bucket.List(nil); ; {
		one, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return names, nil
		}
		if err != nil {
			return nil, fmt.Errorf("list the files: %w", err)
		}
		if one.ModTime.Before(at) {
			names = append(names, one.Key)
		}
	}
}

// RemoveRaw takes away what is kept under a name.
func (s *Store) RemoveRaw(ctx context.Context, name string) error {
	bucket, err := s.bucket(false)
	if bucket == nil {
		return err
	}
	return wrap(bucket.Delete(ctx, name))
}

// Raw reads what is kept under a name that Names gave, and says how long it is.
func (s *Store) Raw(ctx context.Context, name string) (io.ReadCloser, int64, error) {
	bucket, err := s.bucket(false)
	if bucket == nil {
		return nil, 0, errors.Join(ErrGone, err)
	}
	r, err := bucket.NewReader(ctx, name, nil)
	if err != nil {
		return nil, 0, fmt.Errorf("read a file: %w", err)
	}
	return r, r.Size(), nil
}

// PutRaw keeps what a backup has under a name.
func (s *Store) PutRaw(ctx context.Context, name string, from io.Reader) error {
	bucket, err := s.bucket(true)
	if err != nil {
		return err
	}
	return wrap(bucket.Upload(ctx, name, from, &gocloud.WriterOptions{ContentType: "application/octet-stream"}))
}

// IsName says whether bytes can have a name in the store.
func IsName(name string) bool {
	hash, width, is := strings.Cut(name, "-")
	if len(hash) != 64 || strings.Trim(hash, "0123456789abcdef") != "" {
		return false
	}
	return !is || slices.ContainsFunc(site.PictureWidths, func(w int) bool { return fmt.Sprint(w) == width })
}

// Remove takes bytes away, with the widths that were made of them.
func (s *Store) Remove(ctx context.Context, of site.Bytes) error {
	bucket, err := s.bucket(false)
	if bucket == nil {
		return err
	}
	for _, width := range append([]int{0}, of.Widths()...) {
		if err := bucket.Delete(ctx, key(of.Hash, width)); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
			return fmt.Errorf("remove a file: %w", err)
		}
	}
	return nil
}
