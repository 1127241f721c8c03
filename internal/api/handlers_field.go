package api

import (
	"bytes"
	"context"

	"nextround/internal/api/gen"
)

// GetVisitPack gives all that a visit needs.
func (h handlers) GetVisitPack(ctx context.Context, r gen.GetVisitPackRequestObject) (gen.GetVisitPackResponseObject, error) {
	out, err := h.service.Fieldwork.VisitPack(ctx, actorOf(ctx), r.UnitID)
	return gen.GetVisitPack200JSONResponse(out), err
}

// ReadGauges reads the gauge set at a unit.
func (h handlers) ReadGauges(ctx context.Context, r gen.ReadGaugesRequestObject) (gen.ReadGaugesResponseObject, error) {
	out, err := h.service.Fieldwork.ReadGauges(ctx, actorOf(ctx), r.UnitID, string(r.Params.Phase))
	return gen.ReadGauges200JSONResponse(out), err
}

// GetForecast tells the weather of a site's coming days.
func (h handlers) GetForecast(ctx context.Context, r gen.GetForecastRequestObject) (gen.GetForecastResponseObject, error) {
	out, err := h.service.Fieldwork.Forecast(ctx, actorOf(ctx), r.SiteID)
	return gen.GetForecast200JSONResponse(out), err
}

// ListWatchItems lists what is watched on a unit.
func (h handlers) ListWatchItems(ctx context.Context, r gen.ListWatchItemsRequestObject) (gen.ListWatchItemsResponseObject, error) {
	out, err := h.service.Fieldwork.WatchItems(ctx, actorOf(ctx), r.UnitID)
	return gen.ListWatchItems200JSONResponse(out), err
}

// AddWatchItem opens something to watch.
func (h handlers) AddWatchItem(ctx context.Context, r gen.AddWatchItemRequestObject) (gen.AddWatchItemResponseObject, error) {
	out, err := h.service.Fieldwork.AddWatchItem(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.AddWatchItem201JSONResponse(out), err
}

// CloseWatchItem ends watching something.
func (h handlers) CloseWatchItem(ctx context.Context, r gen.CloseWatchItemRequestObject) (gen.CloseWatchItemResponseObject, error) {
	out, err := h.service.Fieldwork.CloseWatchItem(ctx, actorOf(ctx), r.WatchID, r.Body.Reason)
	return gen.CloseWatchItem200JSONResponse(out), err
}

// ListSymptoms lists complaints.
func (h handlers) ListSymptoms(ctx context.Context, _ gen.ListSymptomsRequestObject) (gen.ListSymptomsResponseObject, error) {
	out, err := h.service.Fieldwork.Symptoms(ctx, actorOf(ctx))
	return gen.ListSymptoms200JSONResponse(out), err
}

// AddSymptom takes a complaint in.
func (h handlers) AddSymptom(ctx context.Context, r gen.AddSymptomRequestObject) (gen.AddSymptomResponseObject, error) {
	out, err := h.service.Fieldwork.AddSymptom(ctx, actorOf(ctx), *r.Body)
	return gen.AddSymptom201JSONResponse(out), err
}

// ListFoundUnits lists units met that are not in the register.
func (h handlers) ListFoundUnits(ctx context.Context, _ gen.ListFoundUnitsRequestObject) (gen.ListFoundUnitsResponseObject, error) {
	out, err := h.service.Fieldwork.FoundUnits(ctx, actorOf(ctx))
	return gen.ListFoundUnits200JSONResponse(out), err
}

// AddFoundUnit keeps a unit met that is not in the register.
func (h handlers) AddFoundUnit(ctx context.Context, r gen.AddFoundUnitRequestObject) (gen.AddFoundUnitResponseObject, error) {
	out, err := h.service.Fieldwork.AddFoundUnit(ctx, actorOf(ctx), r.Params.IdempotencyKey, *r.Body)
	return gen.AddFoundUnit201JSONResponse(out), err
}

// DecideFoundUnit closes what was found.
func (h handlers) DecideFoundUnit(ctx context.Context, r gen.DecideFoundUnitRequestObject) (gen.DecideFoundUnitResponseObject, error) {
	return gen.DecideFoundUnit204Response{}, h.service.Fieldwork.DecideFoundUnit(ctx, actorOf(ctx), r.FoundID, *r.Body)
}

// TriageSymptom decides on a complaint.
func (h handlers) TriageSymptom(ctx context.Context, r gen.TriageSymptomRequestObject) (gen.TriageSymptomResponseObject, error) {
	out, err := h.service.Fieldwork.Triage(ctx, actorOf(ctx), r.SymptomID, *r.Body)
	return gen.TriageSymptom200JSONResponse(out), err
}

// GetSiteReport tells the site what was found and done.
func (h handlers) GetSiteReport(ctx context.Context, r gen.GetSiteReportRequestObject) (gen.GetSiteReportResponseObject, error) {
	out, err := h.service.Fieldwork.SiteReport(ctx, actorOf(ctx), r.VisitID)
	return gen.GetSiteReport200JSONResponse(out), err
}

// MailSiteReport mails the report.
func (h handlers) MailSiteReport(ctx context.Context, r gen.MailSiteReportRequestObject) (gen.MailSiteReportResponseObject, error) {
	out, err := h.service.Fieldwork.MailSiteReport(ctx, actorOf(ctx), r.VisitID, r.Body.To)
	return gen.MailSiteReport201JSONResponse(out), err
}

// ListMails lists mails.
func (h handlers) ListMails(ctx context.Context, _ gen.ListMailsRequestObject) (gen.ListMailsResponseObject, error) {
	out, err := h.service.Outbox.Mails(ctx, actorOf(ctx))
	return gen.ListMails200JSONResponse(out), err
}

// GetAttention lists what came back from the field.
func (h handlers) GetAttention(ctx context.Context, _ gen.GetAttentionRequestObject) (gen.GetAttentionResponseObject, error) {
	out, err := h.service.Fieldwork.Attention(ctx, actorOf(ctx))
	return gen.GetAttention200JSONResponse(out), err
}

// GetSiteReportPdf is the report as a file.
func (h handlers) GetSiteReportPdf(ctx context.Context, r gen.GetSiteReportPdfRequestObject) (gen.GetSiteReportPdfResponseObject, error) {
	_, content, err := h.service.Fieldwork.SiteReportFile(ctx, actorOf(ctx), r.VisitID)
	return gen.GetSiteReportPdf200ApplicationPdfResponse{Body: bytes.NewReader(content), ContentLength: int64(len(content))}, err
}
