package api

import (
	"context"
	"fmt"
	"io"

	"nextround/internal/api/gen"
)

// ListGuestLinks lists links without an account.
func (h handlers) ListGuestLinks(ctx context.Context, _ gen.ListGuestLinksRequestObject) (gen.ListGuestLinksResponseObject, error) {
	out, err := h.service.Fieldwork.GuestLinks(ctx, actorOf(ctx))
	return gen.ListGuestLinks200JSONResponse(out), err
}

// AddGuestLink makes one.
func (h handlers) AddGuestLink(ctx context.Context, r gen.AddGuestLinkRequestObject) (gen.AddGuestLinkResponseObject, error) {
	out, err := h.service.Fieldwork.AddGuestLink(ctx, actorOf(ctx), *r.Body)
	return gen.AddGuestLink201JSONResponse(out), err
}

// EndGuestLink ends one.
func (h handlers) EndGuestLink(ctx context.Context, r gen.EndGuestLinkRequestObject) (gen.EndGuestLinkResponseObject, error) {
	return gen.EndGuestLink204Response{}, h.service.Fieldwork.EndGuestLink(ctx, actorOf(ctx), r.LinkID)
}

// GetGuestPage shows what a link is for.
func (h handlers) GetGuestPage(ctx context.Context, r gen.GetGuestPageRequestObject) (gen.GetGuestPageResponseObject, error) {
	out, err := h.service.Fieldwork.GuestPage(ctx, r.Token)
	return gen.GetGuestPage200JSONResponse(out), err
}

// GuestTick notes a light task done.
func (h handlers) GuestTick(ctx context.Context, r gen.GuestTickRequestObject) (gen.GuestTickResponseObject, error) {
	out, err := h.service.Fieldwork.GuestTick(ctx, r.Token, *r.Body)
	return gen.GuestTick201JSONResponse(out), err
}

// GuestUntick takes a tick back.
func (h handlers) GuestUntick(ctx context.Context, r gen.GuestUntickRequestObject) (gen.GuestUntickResponseObject, error) {
	return gen.GuestUntick204Response{}, h.service.Fieldwork.GuestUntick(ctx, r.Token, r.TickID)
}

// GuestSymptom takes a complaint in.
func (h handlers) GuestSymptom(ctx context.Context, r gen.GuestSymptomRequestObject) (gen.GuestSymptomResponseObject, error) {
	out, err := h.service.Fieldwork.GuestSymptom(ctx, r.Token, *r.Body)
	return gen.GuestSymptom201JSONResponse(out), err
}

// GetGuestVisitPack gives a contractor the pack of one unit.
func (h handlers) GetGuestVisitPack(ctx context.Context, r gen.GetGuestVisitPackRequestObject) (gen.GetGuestVisitPackResponseObject, error) {
	out, err := h.service.Fieldwork.GuestVisitPack(ctx, r.Token, r.Params.UnitID)
	return gen.GetGuestVisitPack200JSONResponse(out), err
}

// GuestVisit takes a contractor's visit in.
func (h handlers) GuestVisit(ctx context.Context, r gen.GuestVisitRequestObject) (gen.GuestVisitResponseObject, error) {
	out, err := h.service.Fieldwork.GuestVisit(ctx, r.Token, r.Params.IdempotencyKey, *r.Body)
	return gen.GuestVisit201JSONResponse(out), err
}

// GuestPhoto keeps a picture with what the link sent.
func (h handlers) GuestPhoto(ctx context.Context, r gen.GuestPhotoRequestObject) (gen.GuestPhotoResponseObject, error) {
	content, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the picture: %w", err)
	}
	return gen.GuestPhoto204Response{}, h.service.Fieldwork.GuestPhoto(ctx, r.Token, string(r.Params.Entity), r.Params.EntityID, content)
}
