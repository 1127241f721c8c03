package api

import (
	"bytes"
	"context"

	"nextround/internal/api/gen"
)

// GetNextRound shows the next round of the plan.
func (h handlers) GetNextRound(ctx context.Context, r gen.GetNextRoundRequestObject) (gen.GetNextRoundResponseObject, error) {
	out, err := h.service.Planning.NextRound(ctx, actorOf(ctx), r.Params.CrewID, r.Params.Day)
	return gen.GetNextRound200JSONResponse(out), err
}

// GetPlan shows the plan of the coming weeks.
func (h handlers) GetPlan(ctx context.Context, _ gen.GetPlanRequestObject) (gen.GetPlanResponseObject, error) {
	out, err := h.service.Planning.Plan(ctx, actorOf(ctx))
	return gen.GetPlan200JSONResponse(out), err
}

// StartPlan begins to plan the coming weeks.
func (h handlers) StartPlan(ctx context.Context, r gen.StartPlanRequestObject) (gen.StartPlanResponseObject, error) {
	out, err := h.service.Planning.StartPlan(ctx, actorOf(ctx), *r.Body)
	return gen.StartPlan202JSONResponse(out), err
}

// GetPlanRun tells how far planning is.
func (h handlers) GetPlanRun(ctx context.Context, _ gen.GetPlanRunRequestObject) (gen.GetPlanRunResponseObject, error) {
	out, err := h.service.Planning.PlanRun(ctx, actorOf(ctx))
	return gen.GetPlanRun200JSONResponse(out), err
}

// StopPlan stops planning.
func (h handlers) StopPlan(ctx context.Context, _ gen.StopPlanRequestObject) (gen.StopPlanResponseObject, error) {
	out, err := h.service.Planning.StopPlan(ctx, actorOf(ctx))
	return gen.StopPlan200JSONResponse(out), err
}

// GetPlanProblem gives what the plan was made from.
func (h handlers) GetPlanProblem(ctx context.Context, _ gen.GetPlanProblemRequestObject) (gen.GetPlanProblemResponseObject, error) {
	out, err := h.service.Planning.PlanProblem(ctx, actorOf(ctx))
	return gen.GetPlanProblem200JSONResponse(out), err
}

// GetPlanForecast shows the soil of the coming weeks.
func (h handlers) GetPlanForecast(ctx context.Context, _ gen.GetPlanForecastRequestObject) (gen.GetPlanForecastResponseObject, error) {
	out, err := h.service.Planning.PlanForecast(ctx, actorOf(ctx))
	return gen.GetPlanForecast200JSONResponse(out), err
}

// MovePlan moves jobs.
func (h handlers) MovePlan(ctx context.Context, r gen.MovePlanRequestObject) (gen.MovePlanResponseObject, error) {
	out, err := h.service.Planning.MovePlan(ctx, actorOf(ctx), *r.Body)
	return gen.MovePlan200JSONResponse(out), err
}

// LockPlan ties a crew-day down.
func (h handlers) LockPlan(ctx context.Context, r gen.LockPlanRequestObject) (gen.LockPlanResponseObject, error) {
	out, err := h.service.Planning.LockPlan(ctx, actorOf(ctx), *r.Body)
	return gen.LockPlan200JSONResponse(out), err
}

// PublishRounds sends rounds out.
func (h handlers) PublishRounds(ctx context.Context, r gen.PublishRoundsRequestObject) (gen.PublishRoundsResponseObject, error) {
	out, err := h.service.Planning.PublishRounds(ctx, actorOf(ctx), r.Params.IdempotencyKey, *r.Body)
	return gen.PublishRounds201JSONResponse(out), err
}

// GetPurchases lists what to buy.
func (h handlers) GetPurchases(ctx context.Context, _ gen.GetPurchasesRequestObject) (gen.GetPurchasesResponseObject, error) {
	out, err := h.service.Planning.Purchases(ctx, actorOf(ctx))
	return gen.GetPurchases200JSONResponse(out), err
}

// ExportPlan writes the plan as a table.
func (h handlers) ExportPlan(ctx context.Context, r gen.ExportPlanRequestObject) (gen.ExportPlanResponseObject, error) {
	var out bytes.Buffer
	err := h.service.Planning.ExportPlan(ctx, actorOf(ctx), string(r.Params.Format), &out)
	f := sheet("plan", string(r.Params.Format))
	f.content = out.Bytes()
	return f, err
}

// SendDigest mails the week's digest.
func (h handlers) SendDigest(ctx context.Context, r gen.SendDigestRequestObject) (gen.SendDigestResponseObject, error) {
	out, err := h.service.Planning.SendDigest(ctx, actorOf(ctx), *r.Body)
	return gen.SendDigest201JSONResponse(out), err
}

// SendReminders reminds the staff of sites.
func (h handlers) SendReminders(ctx context.Context, _ gen.SendRemindersRequestObject) (gen.SendRemindersResponseObject, error) {
	out, err := h.service.Planning.SendReminders(ctx, actorOf(ctx))
	return gen.SendReminders201JSONResponse(out), err
}

// ListRounds lists rounds that went out.
func (h handlers) ListRounds(ctx context.Context, _ gen.ListRoundsRequestObject) (gen.ListRoundsResponseObject, error) {
	out, err := h.service.Planning.Rounds(ctx, actorOf(ctx))
	return gen.ListRounds200JSONResponse(out), err
}

// GetRound shows a round with its sheets.
func (h handlers) GetRound(ctx context.Context, r gen.GetRoundRequestObject) (gen.GetRoundResponseObject, error) {
	out, err := h.service.Planning.Round(ctx, actorOf(ctx), r.RoundID)
	return gen.GetRound200JSONResponse(out), err
}

// ReturnJob gives a job back to the office.
func (h handlers) ReturnJob(ctx context.Context, r gen.ReturnJobRequestObject) (gen.ReturnJobResponseObject, error) {
	out, err := h.service.Planning.ReturnJob(ctx, actorOf(ctx), r.Params.IdempotencyKey, r.RoundID, *r.Body)
	return gen.ReturnJob201JSONResponse(out), err
}

// GetToday shows a crew's day.
func (h handlers) GetToday(ctx context.Context, r gen.GetTodayRequestObject) (gen.GetTodayResponseObject, error) {
	out, err := h.service.Planning.CrewToday(ctx, actorOf(ctx), r.Params.Crew)
	return gen.GetToday200JSONResponse(out), err
}

// GetRoundSheets gives the job sheets as PDF.
func (h handlers) GetRoundSheets(ctx context.Context, r gen.GetRoundSheetsRequestObject) (gen.GetRoundSheetsResponseObject, error) {
	content, err := h.service.Planning.RoundSheets(ctx, actorOf(ctx), r.RoundID)
	return file{name: "round.pdf", media: "application/pdf", content: content}, err
}

// MailRound mails a round to its crew.
func (h handlers) MailRound(ctx context.Context, r gen.MailRoundRequestObject) (gen.MailRoundResponseObject, error) {
	out, err := h.service.Planning.MailRound(ctx, actorOf(ctx), r.RoundID, *r.Body)
	return gen.MailRound201JSONResponse(out), err
}

// WithdrawRound takes a round back.
func (h handlers) WithdrawRound(ctx context.Context, r gen.WithdrawRoundRequestObject) (gen.WithdrawRoundResponseObject, error) {
	out, err := h.service.Planning.WithdrawRound(ctx, actorOf(ctx), r.RoundID)
	return gen.WithdrawRound200JSONResponse(out), err
}

// AddAbsence notes an absence.
func (h handlers) AddAbsence(ctx context.Context, r gen.AddAbsenceRequestObject) (gen.AddAbsenceResponseObject, error) {
	out, err := h.service.Planning.AddAbsence(ctx, actorOf(ctx), r.CrewID, *r.Body)
	return gen.AddAbsence201JSONResponse(out), err
}

// EndAbsence takes an absence back.
func (h handlers) EndAbsence(ctx context.Context, r gen.EndAbsenceRequestObject) (gen.EndAbsenceResponseObject, error) {
	out, err := h.service.Planning.EndAbsence(ctx, actorOf(ctx), r.CrewID, r.AbsenceID)
	return gen.EndAbsence200JSONResponse(out), err
}

// MakeFeed opens a crew's calendar.
func (h handlers) MakeFeed(ctx context.Context, r gen.MakeFeedRequestObject) (gen.MakeFeedResponseObject, error) {
	out, err := h.service.Planning.MakeFeed(ctx, actorOf(ctx), r.CrewID)
	return gen.MakeFeed201JSONResponse(out), err
}

// EndFeed closes a crew's calendar.
func (h handlers) EndFeed(ctx context.Context, r gen.EndFeedRequestObject) (gen.EndFeedResponseObject, error) {
	out, err := h.service.Planning.EndFeed(ctx, actorOf(ctx), r.CrewID)
	return gen.EndFeed200JSONResponse(out), err
}

// GetFeed gives a crew's calendar to whoever holds its address.
func (h handlers) GetFeed(ctx context.Context, r gen.GetFeedRequestObject) (gen.GetFeedResponseObject, error) {
	content, err := h.service.Planning.Feed(ctx, r.Token)
	return file{name: "rounds.ics", media: "text/calendar; charset=utf-8", content: content}, err
}
