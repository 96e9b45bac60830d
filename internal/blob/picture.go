package blob

import (
	"fmt"
	"image"
	_ "image/gif" // is read, its first frame, and kept as PNG
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // is read, and kept as PNG

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// pixelLimit bounds what a picture can unfold to; a small file can hold a picture that fills the memory.
const pixelLimit = 50_000_000

// quality is that of photographs that are written anew.
const quality = 88

// A version is a picture in one width; 0: its own.
type version struct {
	width int
	path  string
}

// drawn writes a picture anew, upright and without what was noted in it, in its own width and in smaller ones.
func drawn(dir, from string, holds *site.Bytes) ([]version, error) {
	file, err := os.Open(from)
	if err != nil {
		return nil, wrap(err)
	}
	defer file.Close()
	size, _, err := image.DecodeConfig(file)
	switch {
	case err != nil:
		return nil, refuse("This picture can't be read; open it in a drawing program and save it again.")
	case size.Width < 1 || size.Height < 1:
		return nil, refuse("This picture has no size.")
	case size.Width > pixelLimit/size.Height:
		return nil, refuse("This picture has %s by %s pixels; %s at most are taken. Make it smaller.",
			count.Number(size.Width), count.Number(size.Height), count.Number(pixelLimit))
	}
	if _, err := file.Seek(0, 0); err != nil {
		return nil, wrap(err)
	}
	picture, err := imaging.Decode(file, imaging.AutoOrientation(true))
	if err != nil {
		return nil, refuse("This picture can't be read; open it in a drawing program and save it again.")
	}
	if holds.Type == "image/webp" || holds.Type == "image/gif" {
		holds.Type = "image/png"
	}
	holds.Width, holds.Height = picture.Bounds().Dx(), picture.Bounds().Dy()
	own := filepath.Join(dir, "own")
	made := []version{{0, own}}
	if err := write(own, picture, holds.Type); err != nil {
		return nil, err
	}
	for _, width := range holds.Widths() {
		path := filepath.Join(dir, fmt.Sprint(width))
		if err := write(path, imaging.Resize(picture, width, 0, imaging.Lanczos), holds.Type); err != nil {
			return nil, err
		}
		made = append(made, version{width, path})
	}
	return made, nil
}

func write(path string, picture image.Image, kind string) error {
	to, err := os.Create(path)
	if err != nil {
		return wrap(err)
	}
	defer to.Close()
	if kind == "image/jpeg" {
		return wrap(jpeg.Encode(to, picture, &jpeg.Options{Quality: quality}))
	}
	return wrap((&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(to, picture))
}
