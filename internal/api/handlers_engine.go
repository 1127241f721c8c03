package api

import (
	"cmp"
	"context"

	"nextround/internal/api/gen"
	"nextround/internal/optional"
)

// AcceptProposals shows what accepting proposals would change, or accepts them.
func (h handlers) AcceptProposals(ctx context.Context, r gen.AcceptProposalsRequestObject) (gen.AcceptProposalsResponseObject, error) {
	out, err := h.service.Learning.AcceptProposals(ctx, actorOf(ctx), *r.Body)
	return gen.AcceptProposals200JSONResponse(out), err
}

// AddCap puts a hard cap on a task's interval.
func (h handlers) AddCap(ctx context.Context, r gen.AddCapRequestObject) (gen.AddCapResponseObject, error) {
	out, err := h.service.Learning.AddCap(ctx, actorOf(ctx), r.TaskID, *r.Body)
	return gen.AddCap201JSONResponse(out), err
}

// RemoveCap takes a hard cap off.
func (h handlers) RemoveCap(ctx context.Context, r gen.RemoveCapRequestObject) (gen.RemoveCapResponseObject, error) {
	return gen.RemoveCap204Response{}, h.service.Learning.RemoveCap(ctx, actorOf(ctx), r.CapID)
}

// ListEstimations gives the newest runs that recalculated everything.
func (h handlers) ListEstimations(ctx context.Context, _ gen.ListEstimationsRequestObject) (gen.ListEstimationsResponseObject, error) {
	out, err := h.service.Learning.Estimations(ctx, actorOf(ctx))
	return gen.ListEstimations200JSONResponse(out), err
}

// StartEstimation recalculates everything.
func (h handlers) StartEstimation(ctx context.Context, _ gen.StartEstimationRequestObject) (gen.StartEstimationResponseObject, error) {
	out, err := h.service.Learning.StartEstimation(ctx, actorOf(ctx))
	return gen.StartEstimation202JSONResponse(out), err
}

// GetEstimation gives one run.
func (h handlers) GetEstimation(ctx context.Context, r gen.GetEstimationRequestObject) (gen.GetEstimationResponseObject, error) {
	out, err := h.service.Learning.Estimation(ctx, actorOf(ctx), r.EstimationID)
	return gen.GetEstimation200JSONResponse(out), err
}

// CancelEstimation asks a run to stop.
func (h handlers) CancelEstimation(ctx context.Context, r gen.CancelEstimationRequestObject) (gen.CancelEstimationResponseObject, error) {
	out, err := h.service.Learning.CancelEstimation(ctx, actorOf(ctx), r.EstimationID)
	return gen.CancelEstimation200JSONResponse(out), err
}

// GetHourPrice tells what an hour of a crew more would bring.
func (h handlers) GetHourPrice(ctx context.Context, _ gen.GetHourPriceRequestObject) (gen.GetHourPriceResponseObject, error) {
	out, err := h.service.Learning.HourPrice(ctx, actorOf(ctx))
	return gen.GetHourPrice200JSONResponse(out), err
}

// usualLooks is how many are listed where nobody says.
const usualLooks = 100

// ListLooks lists the coils of which it pays to know more.
func (h handlers) ListLooks(ctx context.Context, r gen.ListLooksRequestObject) (gen.ListLooksResponseObject, error) {
	out, err := h.service.Learning.Looks(ctx, actorOf(ctx), r.Params.SiteID, cmp.Or(optional.Value(r.Params.Limit), usualLooks))
	return gen.ListLooks200JSONResponse(out), err
}
