package organisation

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"time"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"

	"nextround/core/invalid"
)

// What a picture may take. It is drawn again no larger than longestSide, one at a time on a server.
const (
	longestSide    = 2400
	jpegQuality    = 88
	decodingBudget = 120 << 20
	pictureWait    = 20 * time.Second
)

var errPicturesBusy = errors.New("other pictures are being taken in at this moment; try again in a few seconds")

// drawing lets one picture be opened at a time: a small file can unpack to much.
var drawing = make(chan struct{}, 1)

// redraw draws a picture again, upright and no larger than is looked at, so that what a camera wrote into it is gone.
func redraw(ctx context.Context, content []byte, media string) ([]byte, error) {
	wait := time.NewTimer(pictureWait)
	defer wait.Stop()
	select {
	case drawing <- struct{}{}:
		defer func() { <-drawing }()
	case <-wait.C:
		return nil, Conflict{Reason: errPicturesBusy.Error()}
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	damaged := invalid.At("file", "is damaged and cannot be read as a picture")
	config, _, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil || config.Width < 1 || config.Height < 1 {
		return nil, damaged
	}
	if need := float64(config.Width) * float64(config.Height) * bytesPerPixel(content, config.ColorModel); need > decodingBudget {
		return nil, invalid.At("file", "is %d by %d pixels, which is more than can be opened here; save it smaller", config.Width, config.Height)
	}
	picture, _, err := image.Decode(bytes.NewReader(content))
	if err != nil {
		return nil, damaged
	}
	upright := turned(picture, orientation(content, media))
	var out bytes.Buffer
	if media == "image/png" {
		err = png.Encode(&out, upright)
	} else {
		err = jpeg.Encode(&out, upright, &jpeg.Options{Quality: jpegQuality})
	}
	if err != nil {
		return nil, fmt.Errorf("drawing the picture again: %w", err)
	}
	return out.Bytes(), nil
}

// bytesPerPixel is what the decoder holds for a pixel at the most: a progressive JPEG keeps its coefficients beside the picture, a
// PNG of 16 bits a channel has eight bytes, an interlaced one half as much again.
func bytesPerPixel(content []byte, model color.Model) float64 {
	switch {
	case bytes.HasPrefix(content, []byte("\xff\xd8")):
		if progressive(content) {
			return 16
		}
		if model == color.CMYKModel {
			return 8
		}
		return 3
	case model == color.GrayModel:
		return 1.5
	case model == color.NRGBA64Model, model == color.RGBA64Model, model == color.Gray16Model:
		return 12
	}
	return 6
}

// progressive finds the frame header of a JPEG (ITU-T T.81, table B.1) and says whether it is one of a progressive frame.
func progressive(content []byte) bool {
	for i := 2; i+4 <= len(content) && content[i] == 0xff; {
		marker := content[i+1]
		if marker == 0xff {
			i++
			continue
		}
		if marker == 0xda {
			return false
		}
		if marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc {
			return marker == 0xc2 || marker == 0xc6 || marker == 0xca || marker == 0xce
		}
		i += 2 + int(content[i+2])<<8 + int(content[i+3])
	}
	return true // not understood: the dearer guess
}

// orientation is how a camera was held (Exif 2.3, tag 0x0112): 1 is upright.
func orientation(content []byte, media string) int {
	if media != "image/jpeg" {
		return 1
	}
	held := 1
	_, _ = imagemeta.Decode(imagemeta.Options{
		R: bytes.NewReader(content), ImageFormat: imagemeta.JPEG, Sources: imagemeta.EXIF, Timeout: 2 * time.Second,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool { return t.Tag == "Orientation" },
		HandleTag: func(t imagemeta.TagInfo) error {
			switch v := t.Value.(type) {
			case uint16:
				held = int(v)
			case uint32:
				held = int(v)
			}
			return nil
		},
	})
	return held
}

// turned draws a picture upright and no larger than longestSide. Where (x, y) of the picture comes to, by how the camera was
// held: columns of the matrix are what one step to the right and one down in the picture are in the result.
func turned(src image.Image, held int) image.Image {
	w, h := float64(src.Bounds().Dx()), float64(src.Bounds().Dy())
	m, swapped := f64.Aff3{1, 0, 0, 0, 1, 0}, false
	switch held {
	case 2:
		m = f64.Aff3{-1, 0, w, 0, 1, 0}
	case 3:
		m = f64.Aff3{-1, 0, w, 0, -1, h}
	case 4:
		m = f64.Aff3{1, 0, 0, 0, -1, h}
	case 5:
		m, swapped = f64.Aff3{0, 1, 0, 1, 0, 0}, true
	case 6:
		m, swapped = f64.Aff3{0, -1, h, 1, 0, 0}, true
	case 7:
		m, swapped = f64.Aff3{0, -1, h, -1, 0, w}, true
	case 8:
		m, swapped = f64.Aff3{0, 1, 0, -1, 0, w}, true
	}
	if swapped {
		w, h = h, w
	}
	scale := math.Min(1, longestSide/math.Max(w, h))
	for i := range m {
		m[i] *= scale
	}
	out := image.NewRGBA(image.Rect(0, 0, max(1, int(math.Round(w*scale))), max(1, int(math.Round(h*scale)))))
	at := src.Bounds().Min
	m[2] -= m[0]*float64(at.X) + m[1]*float64(at.Y)
	m[5] -= m[3]*float64(at.X) + m[4]*float64(at.Y)
	if scale == 1 {
		draw.NearestNeighbor.Transform(out, m, src, src.Bounds(), draw.Src, nil)
	} else {
		draw.ApproxBiLinear.Transform(out, m, src, src.Bounds(), draw.Src, nil)
	}
	return out
}
