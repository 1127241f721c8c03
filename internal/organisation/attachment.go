package organisation

import (
	"context"
	"errors"
	"net/http"
	"path/filepath"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// What an attachment may be.
const mostAttachmentBytes = 12 << 20

// NewAttachment is a file on its way to a record.
type NewAttachment struct {
	Entity   string
	EntityID uuid.UUID
	Kind     string
	Name     string
	Content  []byte
	// SurfaceID, Step and Phase tie a photo of a visit to a side, a step, and to before or after the work.
	SurfaceID *uuid.UUID
	Step      string
	Phase     string
	// ByLink says that somebody without an account sent it, by a link that the actor made.
	ByLink bool
}

// Attachments lists the files kept with a record.
func (s *Service) Attachments(ctx context.Context, a Actor, entity string, id uuid.UUID) ([]contract.Attachment, error) {
	t := s.Tenant(ctx, a)
	if err := seesRecord(t, entity, id); err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	rows, err := t.AttachmentsOf(entity, id)
	out := []contract.Attachment{}
	for _, r := range rows {
		out = append(out, AttachmentView(r, names))
	}
	return out, err
}

// AttachmentView is what is shown of an attachment.
func AttachmentView(r store.Attachment, names Names) contract.Attachment {
	return contract.Attachment{
		ID: r.ID, Kind: r.Kind, Name: r.Name, MediaType: r.MediaType, Bytes: r.Bytes, At: r.At, By: names.Of(r.AccountID),
		SurfaceID: r.SurfaceID, Step: optional.Text(r.Step), Phase: optional.Text(r.Phase),
	}
}

// AddAttachment keeps a file with a record. The type is told from the content, not from its name. A photo is drawn
// again, so that the place and camera written into it are gone.
func (s *Service) AddAttachment(ctx context.Context, a Actor, in NewAttachment) (contract.Attachment, error) {
	var out contract.Attachment
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	t := s.Tenant(ctx, a)
	if err := seesRecord(t, in.Entity, in.EntityID); err != nil {
		return out, err
	}
	content, media, err := cleanFile(ctx, in.Content)
	if err != nil {
		return out, err
	}
	if in.Kind == "photo" && media == "application/pdf" {
		return out, invalid.At("kind", "a PDF is not a photo")
	}
	row := store.Attachment{
		OrganisationID: a.Org.ID, ID: store.NewID(), Entity: in.Entity, EntityID: in.EntityID, Kind: in.Kind, Name: fileName(in.Name, media),
		MediaType: media, Bytes: len(content), Sha256: HashFile(content), Content: content, AccountID: &a.AccountID, At: s.Stamp(),
		SurfaceID: in.SurfaceID, Step: strings.TrimSpace(in.Step), Phase: in.Phase,
	}
	by := a.AccountID
	if in.ByLink { // not whoever made the link
		by, row.AccountID = uuid.Nil, nil
	}
	if in.SurfaceID != nil {
		unit, err := unitOf(t, in.Entity, in.EntityID)
		if err != nil {
			return out, err
		}
		if ok, err := t.HasSurface(unit, *in.SurfaceID); err != nil || !ok {
			return out, errors.Join(err, invalid.At("surface_id", "is not a side of this unit"))
		}
	}
	err = t.InTransaction(func(t store.Tenant) error {
		there, err := t.AttachmentsOf(in.Entity, in.EntityID)
		if err != nil {
			return err
		}
		for _, x := range there {
			if x.Sha256 == row.Sha256 {
				return Conflict{Reason: "this file is already kept with the record, as " + x.Name}
			}
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), by, in.Entity, in.EntityID, "file added", AuditDetail{Note: row.Name})
	})
	return AttachmentView(row, Names{a.AccountID: a.Person.Name}), err
}

// cleanFile checks a file's type and size and takes out of photos what the camera wrote into them.
func cleanFile(ctx context.Context, content []byte) ([]byte, string, error) {
	switch {
	case len(content) == 0:
		return nil, "", invalid.At("file", "is empty")
	case len(content) > mostAttachmentBytes:
		return nil, "", invalid.At("file", "is larger than %d MB", mostAttachmentBytes>>20)
	}
	media := http.DetectContentType(content)
	if media == "application/pdf" {
		return content, media, nil
	}
	if media != "image/jpeg" && media != "image/png" {
		return nil, "", invalid.At("file", "is not a JPEG, PNG or PDF file")
	}
	drawn, err := redraw(ctx, content, media)
	return drawn, media, err
}

var endings = map[string]string{"image/jpeg": ".jpg", "image/png": ".png", "application/pdf": ".pdf"}

// fileName keeps what a file was called, without folders or signs that mean something to a shell or a header, and
// with the ending of what it is.
func fileName(name, media string) string {
	name = filepath.Base(strings.ReplaceAll(name, `\`, "/"))
	name = strings.TrimSuffix(name, filepath.Ext(name))
	name = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`"'<>|:*?;&$`+"`", r) {
			return '-'
		}
		return r
	}, name)
	if name = strings.TrimLeft(strings.TrimSpace(name), "."); name == "" {
		name = "file"
	}
	return name + endings[media]
}

// AttachmentContent is a file with what it is.
func (s *Service) AttachmentContent(ctx context.Context, a Actor, id uuid.UUID) (name, media string, content []byte, err error) {
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.Attachment](t, id)
	if err == nil {
		err = seesRecord(t, row.Entity, row.EntityID)
	}
	return row.Name, row.MediaType, row.Content, err
}

// RemoveAttachment takes a file away from its record.
func (s *Service) RemoveAttachment(ctx context.Context, a Actor, id uuid.UUID) error {
	if err := a.Only(contract.RoleManager); err != nil {
		return err
	}
	return s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.Get[store.Attachment](t, id)
		if err != nil {
			return err
		}
		if err := seesRecord(t, row.Entity, row.EntityID); err != nil {
			return err
		}
		if err := store.Delete[store.Attachment](t, id); err != nil {
			return err
		}
		return t.Record(s.Stamp(), a.AccountID, row.Entity, row.EntityID, "file removed", AuditDetail{Note: row.Name})
	})
}
