package organisation

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// However the camera was held, the red corner of what it saw at the top left comes to the top left.
func TestPicturesAreTurnedUpright(t *testing.T) {
	t.Parallel()
	red, blue := color.RGBA{255, 0, 0, 255}, color.RGBA{0, 0, 255, 255}
	// Where the top left of the scene stands in the file, by the tag's value (Exif 2.3, table of tag 0x0112).
	corner := map[int]image.Point{1: {0, 0}, 2: {3, 0}, 3: {3, 1}, 4: {0, 1}, 5: {0, 0}, 6: {0, 1}, 7: {3, 1}, 8: {3, 0}}
	for held, at := range corner {
		src := image.NewRGBA(image.Rect(0, 0, 4, 2))
		for x := range 4 {
			for y := range 2 {
				src.Set(x, y, blue)
			}
		}
		src.Set(at.X, at.Y, red)
		out := turned(src, held)
		want := image.Pt(4, 2)
		if held >= 5 {
			want = image.Pt(2, 4)
		}
		assert.Equal(t, want, out.Bounds().Size(), "held %d", held)
		assert.Equal(t, red, out.At(0, 0), "held %d", held)
	}
	large := turned(image.NewGray(image.Rect(0, 0, 6000, 3000)), 6)
	assert.Equal(t, image.Pt(1200, 2400), large.Bounds().Size())
}

// A small file that unpacks to much is refused before it is opened.
func TestSmallFilesWithLargePicturesAreRefused(t *testing.T) {
	t.Parallel()
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewPaletted(image.Rect(0, 0, 9000, 9000), color.Palette{color.Black, color.White})))
	require.Less(t, out.Len(), 400_000)
	_, err := redraw(t.Context(), out.Bytes(), "image/png")
	assert.ErrorContains(t, err, "9000 by 9000 pixels, which is more than can be opened here")
	out.Reset()
	require.NoError(t, jpeg.Encode(&out, image.NewYCbCr(image.Rect(0, 0, 4000, 3000), image.YCbCrSubsampleRatio420), nil))
	assert.False(t, progressive(out.Bytes()))
	drawn, err := redraw(t.Context(), out.Bytes(), "image/jpeg")
	require.NoError(t, err, "a phone's picture is taken")
	config, err := jpeg.DecodeConfig(bytes.NewReader(drawn))
	require.NoError(t, err)
	assert.Equal(t, [2]int{2400, 1800}, [2]int{config.Width, config.Height})
	assert.True(t, progressive([]byte("\xff\xd8\xff\xc2\x00\x11\x08\x00\x10\x00\x10")))
	assert.True(t, progressive([]byte("\xff\xd8\x00")), "what is not understood is taken for the dearer kind")
}
