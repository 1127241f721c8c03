package api

import (
	"context"

	"nextround/internal/api/gen"
)

// ListCallOuts lists the log of call-outs.
func (h handlers) ListCallOuts(ctx context.Context, r gen.ListCallOutsRequestObject) (gen.ListCallOutsResponseObject, error) {
	out, err := h.service.Evidence.CallOuts(ctx, actorOf(ctx), r.Params.SiteID, r.Params.UnitID)
	return gen.ListCallOuts200JSONResponse(out), err
}

// AddCallOut puts a call-out into the log.
func (h handlers) AddCallOut(ctx context.Context, r gen.AddCallOutRequestObject) (gen.AddCallOutResponseObject, error) {
	out, err := h.service.Evidence.AddCallOut(ctx, actorOf(ctx), *r.Body)
	return gen.AddCallOut201JSONResponse(out), err
}

// ChangeCallOut corrects one.
func (h handlers) ChangeCallOut(ctx context.Context, r gen.ChangeCallOutRequestObject) (gen.ChangeCallOutResponseObject, error) {
	out, err := h.service.Evidence.ChangeCallOut(ctx, actorOf(ctx), r.CallOutID, *r.Body)
	return gen.ChangeCallOut200JSONResponse(out), err
}

// RemoveCallOut takes one out of the log.
func (h handlers) RemoveCallOut(ctx context.Context, r gen.RemoveCallOutRequestObject) (gen.RemoveCallOutResponseObject, error) {
	return gen.RemoveCallOut204Response{}, h.service.Evidence.RemoveCallOut(ctx, actorOf(ctx), r.CallOutID)
}

// DeclareCallLog declares that a site's log is complete for some time.
func (h handlers) DeclareCallLog(ctx context.Context, r gen.DeclareCallLogRequestObject) (gen.DeclareCallLogResponseObject, error) {
	out, err := h.service.Evidence.DeclareLog(ctx, actorOf(ctx), r.SiteID, *r.Body)
	return gen.DeclareCallLog201JSONResponse(out), err
}

// WithdrawCallLog takes that back.
func (h handlers) WithdrawCallLog(ctx context.Context, r gen.WithdrawCallLogRequestObject) (gen.WithdrawCallLogResponseObject, error) {
	return gen.WithdrawCallLog204Response{}, h.service.Evidence.WithdrawLog(ctx, actorOf(ctx), r.CallLogID)
}
