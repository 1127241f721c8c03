package api

import (
	"context"
	"fmt"
	"io"
	"strings"

	"nextround/internal/api/gen"
	"nextround/internal/exchange"
)

// handlers answer the contract's operations: each takes the actor, calls one use case and returns its answer.
type handlers struct{ *Server }

var _ gen.StrictServerInterface = handlers{}

// GetSession says who is signed in.
func (h handlers) GetSession(ctx context.Context, _ gen.GetSessionRequestObject) (gen.GetSessionResponseObject, error) {
	return gen.GetSession200JSONResponse{SessionJSONResponse: gen.SessionJSONResponse(h.service.Session(actorOf(ctx)))}, nil
}

// SignIn starts a session.
func (h handlers) SignIn(ctx context.Context, r gen.SignInRequestObject) (gen.SignInResponseObject, error) {
	actor, err := h.service.SignIn(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	if err := h.sessions.RenewToken(ctx); err != nil {
		return nil, fmt.Errorf("renewing the session: %w", err)
	}
	h.sessions.Put(ctx, accountInSession, actor.AccountID.String())
	return gen.SignIn200JSONResponse{SessionJSONResponse: gen.SessionJSONResponse(h.service.Session(actor))}, nil
}

// SignOut ends the session.
func (h handlers) SignOut(ctx context.Context, _ gen.SignOutRequestObject) (gen.SignOutResponseObject, error) {
	if err := h.sessions.Destroy(ctx); err != nil {
		return nil, fmt.Errorf("ending the session: %w", err)
	}
	return gen.SignOut204Response{}, nil
}

// GetCatalogue lists what the forms offer.
func (h handlers) GetCatalogue(ctx context.Context, _ gen.GetCatalogueRequestObject) (gen.GetCatalogueResponseObject, error) {
	out, err := h.service.Catalogue(ctx, actorOf(ctx))
	return gen.GetCatalogue200JSONResponse(out), err
}

// GetPortfolio lists sites with their units.
func (h handlers) GetPortfolio(ctx context.Context, _ gen.GetPortfolioRequestObject) (gen.GetPortfolioResponseObject, error) {
	out, err := h.service.Portfolio(ctx, actorOf(ctx))
	return gen.GetPortfolio200JSONResponse(out), err
}

// AddUnit adds a unit by hand.
func (h handlers) AddUnit(ctx context.Context, r gen.AddUnitRequestObject) (gen.AddUnitResponseObject, error) {
	out, err := h.service.AddUnit(ctx, actorOf(ctx), *r.Body)
	return gen.AddUnit201JSONResponse(out), err
}

// GetUnit shows one unit.
func (h handlers) GetUnit(ctx context.Context, r gen.GetUnitRequestObject) (gen.GetUnitResponseObject, error) {
	out, err := h.service.Unit(ctx, actorOf(ctx), r.UnitID)
	return gen.GetUnit200JSONResponse(out), err
}

// AddSiteFactor puts a site factor to work.
func (h handlers) AddSiteFactor(ctx context.Context, r gen.AddSiteFactorRequestObject) (gen.AddSiteFactorResponseObject, error) {
	out, err := h.service.AddSiteFactor(ctx, actorOf(ctx), *r.Body)
	return gen.AddSiteFactor201JSONResponse(out), err
}

// ImportRegister takes in a register file, or tries it out.
func (h handlers) ImportRegister(ctx context.Context, r gen.ImportRegisterRequestObject) (gen.ImportRegisterResponseObject, error) {
	file, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	dry, name := false, "register.csv"
	if r.Params.DryRun != nil {
		dry = *r.Params.DryRun
	}
	if r.Params.FileName != nil {
		name = *r.Params.FileName
	}
	out, err := h.service.ImportRegister(ctx, actorOf(ctx), name, file, dry)
	if err == nil && !dry && len(out.Problems) > 0 {
		return nil, importRefused{out.Problems}
	}
	return gen.ImportRegister200JSONResponse(out), err
}

// GetImportTemplate gives a register file to fill in.
func (h handlers) GetImportTemplate(context.Context, gen.GetImportTemplateRequestObject) (gen.GetImportTemplateResponseObject, error) {
	return gen.GetImportTemplate200TextCsvResponse{
		Body:          strings.NewReader(exchange.RegisterTemplate),
		ContentLength: int64(len(exchange.RegisterTemplate)),
		Headers:       gen.GetImportTemplate200ResponseHeaders{ContentDisposition: ptr(`attachment; filename="register-template.csv"`)},
	}, nil
}

func ptr[T any](v T) *T { return &v }

// ListVisits lists the newest visits.
func (h handlers) ListVisits(ctx context.Context, _ gen.ListVisitsRequestObject) (gen.ListVisitsResponseObject, error) {
	out, err := h.service.Visits(ctx, actorOf(ctx))
	return gen.ListVisits200JSONResponse(out), err
}

// SubmitVisit stores a visit once.
func (h handlers) SubmitVisit(ctx context.Context, r gen.SubmitVisitRequestObject) (gen.SubmitVisitResponseObject, error) {
	out, err := h.service.SubmitVisit(ctx, actorOf(ctx), r.Params.IdempotencyKey, *r.Body)
	return gen.SubmitVisit201JSONResponse(out), err
}

// DecideProposal answers a proposal.
func (h handlers) DecideProposal(ctx context.Context, r gen.DecideProposalRequestObject) (gen.DecideProposalResponseObject, error) {
	out, err := h.service.DecideProposal(ctx, actorOf(ctx), r.ProposalID, *r.Body)
	return gen.DecideProposal200JSONResponse(out), err
}

// SetInterval sets an interval of the manager's own.
func (h handlers) SetInterval(ctx context.Context, r gen.SetIntervalRequestObject) (gen.SetIntervalResponseObject, error) {
	out, err := h.service.SetInterval(ctx, actorOf(ctx), r.TaskID, *r.Body)
	return gen.SetInterval200JSONResponse(out), err
}

// GetNextRound proposes a crew-day.
func (h handlers) GetNextRound(ctx context.Context, r gen.GetNextRoundRequestObject) (gen.GetNextRoundResponseObject, error) {
	out, err := h.service.NextRound(ctx, actorOf(ctx), r.Params.CrewID, r.Params.Day)
	return gen.GetNextRound200JSONResponse(out), err
}

// ListRounds lists rounds that went out.
func (h handlers) ListRounds(ctx context.Context, _ gen.ListRoundsRequestObject) (gen.ListRoundsResponseObject, error) {
	out, err := h.service.Rounds(ctx, actorOf(ctx))
	return gen.ListRounds200JSONResponse(out), err
}

// PublishRound sends a round out.
func (h handlers) PublishRound(ctx context.Context, r gen.PublishRoundRequestObject) (gen.PublishRoundResponseObject, error) {
	out, err := h.service.PublishRound(ctx, actorOf(ctx), r.Params.IdempotencyKey, *r.Body)
	return gen.PublishRound201JSONResponse(out), err
}

// GetRound shows a round with its sheets.
func (h handlers) GetRound(ctx context.Context, r gen.GetRoundRequestObject) (gen.GetRoundResponseObject, error) {
	out, err := h.service.Round(ctx, actorOf(ctx), r.RoundID)
	return gen.GetRound200JSONResponse(out), err
}

// WithdrawRound takes a round back.
func (h handlers) WithdrawRound(ctx context.Context, r gen.WithdrawRoundRequestObject) (gen.WithdrawRoundResponseObject, error) {
	out, err := h.service.WithdrawRound(ctx, actorOf(ctx), r.RoundID)
	return gen.WithdrawRound200JSONResponse(out), err
}
