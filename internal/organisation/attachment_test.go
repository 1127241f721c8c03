package organisation_test

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

func TestAttachmentsAreCheckedAndStripped(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	raw := photo(t)
	require.Contains(t, string(raw), "secretspot")
	in := organisation.NewAttachment{Entity: "unit", EntityID: u.ID, Kind: "photo", Name: `..\..\end "plate".exe`, Content: raw}
	kept, err := h.Rooms.Organisation.AddAttachment(h.Ctx, h.Technician, in)
	require.NoError(t, err)
	assert.Equal(t, "end -plate-.jpg", kept.Name)
	assert.Equal(t, "image/jpeg", kept.MediaType)
	_, media, content, err := h.Rooms.Organisation.AttachmentContent(h.Ctx, h.Viewer, kept.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/jpeg", media)
	assert.NotContains(t, string(content), "secretspot", "what the camera wrote is gone")
	size, err := jpeg.DecodeConfig(bytes.NewReader(content))
	require.NoError(t, err)
	assert.Equal(t, 40, size.Width, "and the picture stands upright")
	_, err = h.Rooms.Organisation.AddAttachment(h.Ctx, h.Technician, in)
	var conflict organisation.Conflict
	assert.True(t, errors.As(err, &conflict), "the same file once")

	huge := image.NewPaletted(image.Rect(0, 0, 6000, 6000), color.Palette{color.Black, color.White})
	var wide bytes.Buffer
	require.NoError(t, png.Encode(&wide, huge))
	for name, c := range map[string]organisation.NewAttachment{
		"empty":          {Kind: "photo"},
		"text":           {Kind: "manual", Content: []byte("just words")},
		"web page":       {Kind: "photo", Content: []byte("<html><script>1</script>")},
		"half a picture": {Kind: "photo", Content: raw[:len(raw)/2]},
		"too many dots":  {Kind: "photo", Content: wide.Bytes()},
		"too large":      {Kind: "manual", Content: append([]byte("%PDF-1.4\n"), make([]byte, 13<<20)...)},
	} {
		c.Entity, c.EntityID, c.Name = "unit", u.ID, "x"
		_, err := h.Rooms.Organisation.AddAttachment(h.Ctx, h.Manager, c)
		assert.Contains(t, roomstest.Fields(t, err), "file", name)
	}
	_, err = h.Rooms.Organisation.AddAttachment(h.Ctx, h.Manager, organisation.NewAttachment{Entity: "unit", EntityID: u.ID, Kind: "photo", Name: "x", Content: []byte("%PDF-1.4\n")})
	assert.Contains(t, roomstest.Fields(t, err), "kind")
	_, err = h.Rooms.Organisation.AddAttachment(h.Ctx, h.Viewer, in)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	require.NoError(t, h.Rooms.Organisation.RemoveAttachment(h.Ctx, h.Manager, kept.ID))
	list, err := h.Rooms.Organisation.Attachments(h.Ctx, h.Viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Equal(t, "file removed", trail[0].Action)
}

// photo is a JPEG with EXIF data that turns it and tells where it was taken.
func photo(t *testing.T) []byte {
	t.Helper()
	picture := image.NewRGBA(image.Rect(0, 0, 60, 40))
	picture.Set(0, 0, color.White)
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, picture, nil))
	// Exif, big endian: orientation 6 (turned), then a make as plain text.
	exif := "Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x02" +
		"\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00" + "\x01\x0f\x00\x02\x00\x00\x00\x0a\x00\x00\x00\x26" + "\x00\x00\x00\x00" + "secretspot"
	segment := append([]byte{0xff, 0xe1, byte((len(exif) + 2) >> 8), byte(len(exif) + 2)}, exif...)
	return append(append(append([]byte{}, out.Bytes()[:2]...), segment...), out.Bytes()[2:]...)
}
