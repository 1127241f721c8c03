package api

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"strconv"

	"nextround/internal/api/gen"
	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/organisation"
	"nextround/internal/register"
	"nextround/internal/store"
)

// handlers answer the contract's operations: each takes the actor, calls one use case and returns its answer.
type handlers struct{ *Server }

var _ gen.StrictServerInterface = handlers{}

func callerIn(ctx context.Context) caller {
	c, _ := ctx.Value(callerKey{}).(caller)
	return c
}

func ptr[T any](v T) *T { return &v }

func value[T any](p *T) T {
	var zero T
	if p == nil {
		return zero
	}
	return *p
}

// file is an answer that is a file, whatever operation asked for it.
type file struct {
	name, media string
	inline      bool
	content     []byte
}

func (f file) write(w http.ResponseWriter) error {
	how := "attachment"
	if f.inline {
		how = "inline"
	}
	h := w.Header()
	h.Set("Content-Type", f.media)
	h.Set("Content-Length", strconv.Itoa(len(f.content)))
	h.Set("Content-Disposition", how+`; filename="`+asciiName(f.name)+`"`)
	h.Set("X-Content-Type-Options", "nosniff")
	w.WriteHeader(http.StatusOK)
	_, err := w.Write(f.content)
	return err
}

// asciiName is a file name that fits a header.
func asciiName(name string) string {
	out := []rune(name)
	for i, r := range out {
		if r < ' ' || r > '~' || r == '"' || r == '\\' {
			out[i] = '-'
		}
	}
	return string(out)
}

func (f file) VisitExportResponse(w http.ResponseWriter) error            { return f.write(w) }
func (f file) VisitGetImportTemplateResponse(w http.ResponseWriter) error { return f.write(w) }
func (f file) VisitGetLabelsResponse(w http.ResponseWriter) error         { return f.write(w) }
func (f file) VisitGetLabelResponse(w http.ResponseWriter) error          { return f.write(w) }
func (f file) VisitGetAttachmentResponse(w http.ResponseWriter) error     { return f.write(w) }
func (f file) VisitExportPlanResponse(w http.ResponseWriter) error        { return f.write(w) }
func (f file) VisitGetRoundSheetsResponse(w http.ResponseWriter) error    { return f.write(w) }
func (f file) VisitGetFeedResponse(w http.ResponseWriter) error           { return f.write(w) }

func sheet(name, format string) file {
	if format == "xlsx" {
		return file{name: name + ".xlsx", media: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
	}
	return file{name: name + ".csv", media: "text/csv; charset=utf-8"}
}

// GetSetup says whether there is an organisation yet.
func (h handlers) GetSetup(ctx context.Context, _ gen.GetSetupRequestObject) (gen.GetSetupResponseObject, error) {
	needed, err := h.service.Organisation.SetupNeeded(ctx)
	return gen.GetSetup200JSONResponse{Needed: needed}, err
}

// session describes who is signed in, and how the server is reached.
func (h handlers) session(a organisation.Actor) contract.Session {
	out := h.service.Organisation.Session(a)
	out.Unprotected, out.ReadOnly = h.open, h.readOnly
	return out
}

// SetUp makes the first organisation and signs its manager in.
func (h handlers) SetUp(ctx context.Context, r gen.SetUpRequestObject) (gen.SetUpResponseObject, error) {
	actor, err := h.service.Organisation.SetUp(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	return gen.SetUp201JSONResponse(h.session(actor)), h.begin(ctx, actor)
}

// GetSession says who is signed in.
func (h handlers) GetSession(ctx context.Context, _ gen.GetSessionRequestObject) (gen.GetSessionResponseObject, error) {
	return gen.GetSession200JSONResponse{SessionJSONResponse: gen.SessionJSONResponse(h.session(actorOf(ctx)))}, nil
}

// SignIn starts a session.
func (h handlers) SignIn(ctx context.Context, r gen.SignInRequestObject) (gen.SignInResponseObject, error) {
	actor, err := h.service.Organisation.SignIn(ctx, *r.Body, callerIn(ctx).Visitor)
	if err != nil {
		return nil, err
	}
	return gen.SignIn200JSONResponse{SessionJSONResponse: gen.SessionJSONResponse(h.session(actor))}, h.begin(ctx, actor)
}

// SignOut ends the session.
func (h handlers) SignOut(ctx context.Context, _ gen.SignOutRequestObject) (gen.SignOutResponseObject, error) {
	if err := h.service.Organisation.EndSession(ctx, actorOf(ctx), actorOf(ctx).Session); err != nil {
		return nil, err
	}
	return gen.SignOut204Response{}, h.end(ctx)
}

// SetPreferences keeps units and theme.
func (h handlers) SetPreferences(ctx context.Context, r gen.SetPreferencesRequestObject) (gen.SetPreferencesResponseObject, error) {
	out, err := h.service.Organisation.SetPreferences(ctx, actorOf(ctx), *r.Body)
	out.Unprotected = h.open
	return gen.SetPreferences200JSONResponse(out), err
}

// ChangePassword sets a new password; other sessions of the account end.
func (h handlers) ChangePassword(ctx context.Context, r gen.ChangePasswordRequestObject) (gen.ChangePasswordResponseObject, error) {
	if err := h.service.Organisation.ChangePassword(ctx, actorOf(ctx), *r.Body, callerIn(ctx).Visitor); err != nil {
		return nil, err
	}
	actor, err := h.service.Organisation.Actor(ctx, actorOf(ctx).AccountID)
	if err != nil {
		return nil, err
	}
	return gen.ChangePassword204Response{}, h.begin(ctx, actor)
}

// ListSessions lists one's own sessions.
func (h handlers) ListSessions(ctx context.Context, _ gen.ListSessionsRequestObject) (gen.ListSessionsResponseObject, error) {
	out, err := h.service.Organisation.Sessions(ctx, actorOf(ctx))
	return gen.ListSessions200JSONResponse(out), err
}

// EndSession ends one of them.
func (h handlers) EndSession(ctx context.Context, r gen.EndSessionRequestObject) (gen.EndSessionResponseObject, error) {
	return gen.EndSession204Response{}, h.service.Organisation.EndSession(ctx, actorOf(ctx), r.SessionID)
}

// EndSessions signs out everywhere.
func (h handlers) EndSessions(ctx context.Context, _ gen.EndSessionsRequestObject) (gen.EndSessionsResponseObject, error) {
	if err := h.service.Organisation.EndSessions(ctx, actorOf(ctx)); err != nil {
		return nil, err
	}
	return gen.EndSessions204Response{}, h.end(ctx)
}

// BeginFactor makes the secret of a second factor.
func (h handlers) BeginFactor(ctx context.Context, _ gen.BeginFactorRequestObject) (gen.BeginFactorResponseObject, error) {
	out, err := h.service.Organisation.BeginFactor(ctx, actorOf(ctx))
	return gen.BeginFactor201JSONResponse(out), err
}

// ConfirmFactor puts it on.
func (h handlers) ConfirmFactor(ctx context.Context, r gen.ConfirmFactorRequestObject) (gen.ConfirmFactorResponseObject, error) {
	out, err := h.service.Organisation.ConfirmFactor(ctx, actorOf(ctx), r.Body.Code)
	return gen.ConfirmFactor200JSONResponse(out), err
}

// EndFactor takes it off.
func (h handlers) EndFactor(ctx context.Context, r gen.EndFactorRequestObject) (gen.EndFactorResponseObject, error) {
	return gen.EndFactor204Response{}, h.service.Organisation.EndFactor(ctx, actorOf(ctx), r.Body.Password, callerIn(ctx).Visitor)
}

// GetFactorRoles says of which roles a second factor is asked.
func (h handlers) GetFactorRoles(ctx context.Context, _ gen.GetFactorRolesRequestObject) (gen.GetFactorRolesResponseObject, error) {
	out, err := h.service.Organisation.FactorRoles(ctx, actorOf(ctx))
	return gen.GetFactorRoles200JSONResponse(out), err
}

// SetFactorRoles sets them.
func (h handlers) SetFactorRoles(ctx context.Context, r gen.SetFactorRolesRequestObject) (gen.SetFactorRolesResponseObject, error) {
	return gen.SetFactorRoles204Response{}, h.service.Organisation.SetFactorRoles(ctx, actorOf(ctx), *r.Body)
}

// GetJoin says whom a link was made for.
func (h handlers) GetJoin(ctx context.Context, r gen.GetJoinRequestObject) (gen.GetJoinResponseObject, error) {
	out, err := h.service.Organisation.Join(ctx, r.Token)
	return gen.GetJoin200JSONResponse(out), err
}

// Join uses a link: it sets the password and signs in.
func (h handlers) Join(ctx context.Context, r gen.JoinRequestObject) (gen.JoinResponseObject, error) {
	actor, err := h.service.Organisation.UseLink(ctx, r.Token, r.Body.Password)
	if err != nil {
		return nil, err
	}
	if actor.FactorOn { // a link is no way round it
		return gen.Join204Response{}, nil
	}
	return gen.Join200JSONResponse(h.session(actor)), h.begin(ctx, actor)
}

// RemoveFactorOf takes somebody's second factor away.
func (h handlers) RemoveFactorOf(ctx context.Context, r gen.RemoveFactorOfRequestObject) (gen.RemoveFactorOfResponseObject, error) {
	out, err := h.service.Organisation.RemoveFactorOf(ctx, actorOf(ctx), r.PersonID)
	return gen.RemoveFactorOf200JSONResponse(out), err
}

// ListPeople lists everybody.
func (h handlers) ListPeople(ctx context.Context, _ gen.ListPeopleRequestObject) (gen.ListPeopleResponseObject, error) {
	out, err := h.service.Organisation.People(ctx, actorOf(ctx))
	return gen.ListPeople200JSONResponse(out), err
}

// AddPerson adds somebody.
func (h handlers) AddPerson(ctx context.Context, r gen.AddPersonRequestObject) (gen.AddPersonResponseObject, error) {
	out, err := h.service.Organisation.AddPerson(ctx, actorOf(ctx), *r.Body)
	if out.Link != nil {
		*out.Link = callerIn(ctx).base + *out.Link
	}
	return gen.AddPerson201JSONResponse(out), err
}

// SavePerson changes somebody.
func (h handlers) SavePerson(ctx context.Context, r gen.SavePersonRequestObject) (gen.SavePersonResponseObject, error) {
	out, err := h.service.Organisation.SavePerson(ctx, actorOf(ctx), r.PersonID, *r.Body)
	return gen.SavePerson200JSONResponse(out), err
}

// MakeLink makes a link to choose a password.
func (h handlers) MakeLink(ctx context.Context, r gen.MakeLinkRequestObject) (gen.MakeLinkResponseObject, error) {
	out, err := h.service.Organisation.MakeLink(ctx, actorOf(ctx), r.PersonID)
	if out.Link != nil {
		*out.Link = callerIn(ctx).base + *out.Link
	}
	return gen.MakeLink201JSONResponse(out), err
}

// ListCrews lists the crews.
func (h handlers) ListCrews(ctx context.Context, _ gen.ListCrewsRequestObject) (gen.ListCrewsResponseObject, error) {
	out, err := h.service.Planning.Crews(ctx, actorOf(ctx))
	return gen.ListCrews200JSONResponse(out), err
}

// AddCrew adds a crew.
func (h handlers) AddCrew(ctx context.Context, r gen.AddCrewRequestObject) (gen.AddCrewResponseObject, error) {
	out, err := h.service.Planning.SaveCrew(ctx, actorOf(ctx), nil, *r.Body)
	return gen.AddCrew201JSONResponse{ID: out.ID}, err
}

// SaveCrew changes a crew.
func (h handlers) SaveCrew(ctx context.Context, r gen.SaveCrewRequestObject) (gen.SaveCrewResponseObject, error) {
	out, err := h.service.Planning.SaveCrew(ctx, actorOf(ctx), &r.CrewID, *r.Body)
	return gen.SaveCrew200JSONResponse(out), err
}

// GetCatalogue lists what the forms offer.
func (h handlers) GetCatalogue(ctx context.Context, _ gen.GetCatalogueRequestObject) (gen.GetCatalogueResponseObject, error) {
	out, err := h.service.Organisation.Catalogue(ctx, actorOf(ctx))
	return gen.GetCatalogue200JSONResponse(out), err
}

// GetPortfolio lists coils of units, a page at a time.
func (h handlers) GetPortfolio(ctx context.Context, r gen.GetPortfolioRequestObject) (gen.GetPortfolioResponseObject, error) {
	p := r.Params
	q := register.PortfolioQuery{CoilFilter: store.CoilFilter{
		Text: value(p.Q), SiteID: p.SiteID, ClassID: p.ClassID, Status: string(value(p.Status)), Due: value(p.Due), Proposed: value(p.Proposed),
		MinGrade: value(p.MinGrade),
	}, Sort: string(value(p.Sort)), After: value(p.After), Limit: value(p.Limit)}
	out, err := h.service.Register.Portfolio(ctx, actorOf(ctx), q)
	return gen.GetPortfolio200JSONResponse(out), err
}

// GetPortfolioSummary counts what a filter lets through.
func (h handlers) GetPortfolioSummary(ctx context.Context, r gen.GetPortfolioSummaryRequestObject) (gen.GetPortfolioSummaryResponseObject, error) {
	p := r.Params
	out, err := h.service.Register.PortfolioSummary(ctx, actorOf(ctx), store.CoilFilter{
		Text: value(p.Q), SiteID: p.SiteID, ClassID: p.ClassID, Status: string(value(p.Status)), Due: value(p.Due), Proposed: value(p.Proposed),
		MinGrade: value(p.MinGrade),
	})
	return gen.GetPortfolioSummary200JSONResponse(out), err
}

// GetLabels writes labels for what a filter lets through.
func (h handlers) GetLabels(ctx context.Context, r gen.GetLabelsRequestObject) (gen.GetLabelsResponseObject, error) {
	p := r.Params
	out, err := h.labels(ctx, store.CoilFilter{
		Text: value(p.Q), SiteID: p.SiteID, ClassID: p.ClassID, Status: string(value(p.Status)), Due: value(p.Due), Proposed: value(p.Proposed),
		MinGrade: value(p.MinGrade),
	})
	return out, err
}

// GetLabel writes the label of one unit.
func (h handlers) GetLabel(ctx context.Context, r gen.GetLabelRequestObject) (gen.GetLabelResponseObject, error) {
	if _, err := h.service.Register.UnitCard(ctx, actorOf(ctx), r.UnitID); err != nil {
		return nil, err
	}
	return h.labels(ctx, store.CoilFilter{UnitID: &r.UnitID})
}

func (h handlers) labels(ctx context.Context, f store.CoilFilter) (file, error) {
	var out bytes.Buffer
	err := h.service.Register.Labels(ctx, actorOf(ctx), f, callerIn(ctx).base, &out)
	return file{name: "labels.pdf", media: "application/pdf", content: out.Bytes()}, err
}

// FindLabel finds the unit that a label stands for.
func (h handlers) FindLabel(ctx context.Context, r gen.FindLabelRequestObject) (gen.FindLabelResponseObject, error) {
	id, err := h.service.Register.FindLabel(ctx, actorOf(ctx), r.Code)
	return gen.FindLabel200JSONResponse{ID: id}, err
}

// ListSavedFilters lists the portfolio addresses one has kept.
func (h handlers) ListSavedFilters(ctx context.Context, _ gen.ListSavedFiltersRequestObject) (gen.ListSavedFiltersResponseObject, error) {
	out, err := h.service.Register.SavedFilters(ctx, actorOf(ctx))
	return gen.ListSavedFilters200JSONResponse(out), err
}

// SaveFilter keeps a portfolio address.
func (h handlers) SaveFilter(ctx context.Context, r gen.SaveFilterRequestObject) (gen.SaveFilterResponseObject, error) {
	out, err := h.service.Register.SaveFilter(ctx, actorOf(ctx), *r.Body)
	return gen.SaveFilter201JSONResponse(out), err
}

// RemoveFilter forgets a portfolio address.
func (h handlers) RemoveFilter(ctx context.Context, r gen.RemoveFilterRequestObject) (gen.RemoveFilterResponseObject, error) {
	return gen.RemoveFilter204Response{}, h.service.Register.RemoveFilter(ctx, actorOf(ctx), r.FilterID)
}

// Search finds units and sites.
func (h handlers) Search(ctx context.Context, r gen.SearchRequestObject) (gen.SearchResponseObject, error) {
	out, err := h.service.Register.Search(ctx, actorOf(ctx), r.Params.Q)
	return gen.Search200JSONResponse(out), err
}

// ListSites lists sites.
func (h handlers) ListSites(ctx context.Context, _ gen.ListSitesRequestObject) (gen.ListSitesResponseObject, error) {
	out, err := h.service.Register.Sites(ctx, actorOf(ctx))
	return gen.ListSites200JSONResponse(out), err
}

// AddSite adds a site.
func (h handlers) AddSite(ctx context.Context, r gen.AddSiteRequestObject) (gen.AddSiteResponseObject, error) {
	out, err := h.service.Register.AddSite(ctx, actorOf(ctx), *r.Body)
	return gen.AddSite201JSONResponse(out), err
}

// GetSite shows a site.
func (h handlers) GetSite(ctx context.Context, r gen.GetSiteRequestObject) (gen.GetSiteResponseObject, error) {
	out, err := h.service.Register.Site(ctx, actorOf(ctx), r.SiteID)
	return gen.GetSite200JSONResponse(out), err
}

// SaveSite writes a site's card.
func (h handlers) SaveSite(ctx context.Context, r gen.SaveSiteRequestObject) (gen.SaveSiteResponseObject, error) {
	out, err := h.service.Register.SaveSite(ctx, actorOf(ctx), r.SiteID, *r.Body)
	return gen.SaveSite200JSONResponse(out), err
}

// AddFactorEvent notes something that happened at a site.
func (h handlers) AddFactorEvent(ctx context.Context, r gen.AddFactorEventRequestObject) (gen.AddFactorEventResponseObject, error) {
	out, err := h.service.Register.AddFactorEvent(ctx, actorOf(ctx), r.SiteID, *r.Body)
	return gen.AddFactorEvent201JSONResponse(out), err
}

// AddUnit adds a unit by hand.
func (h handlers) AddUnit(ctx context.Context, r gen.AddUnitRequestObject) (gen.AddUnitResponseObject, error) {
	out, err := h.service.Register.AddUnit(ctx, actorOf(ctx), *r.Body)
	return gen.AddUnit201JSONResponse(out), err
}

// GetUnit shows one unit.
func (h handlers) GetUnit(ctx context.Context, r gen.GetUnitRequestObject) (gen.GetUnitResponseObject, error) {
	out, err := h.service.Learning.Unit(ctx, actorOf(ctx), r.UnitID)
	return gen.GetUnit200JSONResponse(out), err
}

// GetUnitCard shows what the register holds of a unit.
func (h handlers) GetUnitCard(ctx context.Context, r gen.GetUnitCardRequestObject) (gen.GetUnitCardResponseObject, error) {
	out, err := h.service.Register.UnitCard(ctx, actorOf(ctx), r.UnitID)
	return gen.GetUnitCard200JSONResponse(out), err
}

// SaveUnitCard writes a unit's card.
func (h handlers) SaveUnitCard(ctx context.Context, r gen.SaveUnitCardRequestObject) (gen.SaveUnitCardResponseObject, error) {
	out, err := h.service.Register.SaveUnitCard(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.SaveUnitCard200JSONResponse(out), err
}

// MoveUnit moves a unit to another placement.
func (h handlers) MoveUnit(ctx context.Context, r gen.MoveUnitRequestObject) (gen.MoveUnitResponseObject, error) {
	out, err := h.service.Register.MoveUnit(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.MoveUnit200JSONResponse(out), err
}

// PauseUnit takes a unit out of service.
func (h handlers) PauseUnit(ctx context.Context, r gen.PauseUnitRequestObject) (gen.PauseUnitResponseObject, error) {
	out, err := h.service.Register.PauseUnit(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.PauseUnit200JSONResponse(out), err
}

// ResumeUnit puts a unit back in service.
func (h handlers) ResumeUnit(ctx context.Context, r gen.ResumeUnitRequestObject) (gen.ResumeUnitResponseObject, error) {
	out, err := h.service.Register.ResumeUnit(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.ResumeUnit200JSONResponse(out), err
}

// RetireUnit ends a unit's service for good.
func (h handlers) RetireUnit(ctx context.Context, r gen.RetireUnitRequestObject) (gen.RetireUnitResponseObject, error) {
	out, err := h.service.Register.RetireUnit(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.RetireUnit200JSONResponse(out), err
}

// ReplaceUnit puts another unit in a unit's place.
func (h handlers) ReplaceUnit(ctx context.Context, r gen.ReplaceUnitRequestObject) (gen.ReplaceUnitResponseObject, error) {
	out, err := h.service.Register.ReplaceUnit(ctx, actorOf(ctx), r.UnitID, *r.Body)
	return gen.ReplaceUnit201JSONResponse(out), err
}

// TickTask notes that a companion task was done.
func (h handlers) TickTask(ctx context.Context, r gen.TickTaskRequestObject) (gen.TickTaskResponseObject, error) {
	out, err := h.service.Fieldwork.Tick(ctx, actorOf(ctx), r.TaskID, *r.Body)
	return gen.TickTask201JSONResponse(out), err
}

// AddSiteFactor puts a site factor to work.
func (h handlers) AddSiteFactor(ctx context.Context, r gen.AddSiteFactorRequestObject) (gen.AddSiteFactorResponseObject, error) {
	out, err := h.service.Register.AddSiteFactor(ctx, actorOf(ctx), *r.Body)
	return gen.AddSiteFactor201JSONResponse(out), err
}

// EndSiteFactor ends a site factor.
func (h handlers) EndSiteFactor(ctx context.Context, r gen.EndSiteFactorRequestObject) (gen.EndSiteFactorResponseObject, error) {
	out, err := h.service.Register.EndSiteFactor(ctx, actorOf(ctx), r.FactorID, *r.Body)
	return gen.EndSiteFactor200JSONResponse(out), err
}

// ListImports lists the newest imports.
func (h handlers) ListImports(ctx context.Context, _ gen.ListImportsRequestObject) (gen.ListImportsResponseObject, error) {
	out, err := h.service.Importing.Imports(ctx, actorOf(ctx))
	return gen.ListImports200JSONResponse(out), err
}

// StartImport begins to take in a file, or to try it out.
func (h handlers) StartImport(ctx context.Context, r gen.StartImportRequestObject) (gen.StartImportResponseObject, error) {
	content, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	req := importing.Request{Kind: "register", FileName: "register.csv", File: content, DryRun: value(r.Params.DryRun), Columns: value(r.Params.Columns)}
	if r.Params.Kind != nil {
		req.Kind = string(*r.Params.Kind)
	}
	if r.Params.FileName != nil {
		req.FileName = *r.Params.FileName
	}
	out, err := h.service.Importing.StartImport(ctx, actorOf(ctx), req)
	return gen.StartImport202JSONResponse(out), err
}

// GetImport says how far an import is.
func (h handlers) GetImport(ctx context.Context, r gen.GetImportRequestObject) (gen.GetImportResponseObject, error) {
	out, err := h.service.Importing.ImportRun(ctx, actorOf(ctx), r.ImportID)
	return gen.GetImport200JSONResponse(out), err
}

// CancelImport asks an import to stop.
func (h handlers) CancelImport(ctx context.Context, r gen.CancelImportRequestObject) (gen.CancelImportResponseObject, error) {
	out, err := h.service.Importing.CancelImport(ctx, actorOf(ctx), r.ImportID)
	return gen.CancelImport200JSONResponse(out), err
}

// GetImportTemplate gives a file to fill in.
func (h handlers) GetImportTemplate(_ context.Context, r gen.GetImportTemplateRequestObject) (gen.GetImportTemplateResponseObject, error) {
	kind, format := "register", string(value(r.Params.Format))
	if r.Params.Kind != nil {
		kind = string(*r.Params.Kind)
	}
	var out bytes.Buffer
	err := h.service.ImportTemplate(kind, format, &out)
	f := sheet(kind+"-template", format)
	f.content = out.Bytes()
	return f, err
}

// Export writes the register or the visits as a file.
func (h handlers) Export(ctx context.Context, r gen.ExportRequestObject) (gen.ExportResponseObject, error) {
	var out bytes.Buffer
	format := string(value(r.Params.Format))
	err := h.service.Export(ctx, actorOf(ctx), r.Kind, format, &out)
	f := sheet(r.Kind, format)
	f.content = out.Bytes()
	return f, err
}

// ListVisits lists the newest visits.
func (h handlers) ListVisits(ctx context.Context, _ gen.ListVisitsRequestObject) (gen.ListVisitsResponseObject, error) {
	out, err := h.service.Fieldwork.Visits(ctx, actorOf(ctx))
	return gen.ListVisits200JSONResponse(out), err
}

// SubmitVisit stores a visit once.
func (h handlers) SubmitVisit(ctx context.Context, r gen.SubmitVisitRequestObject) (gen.SubmitVisitResponseObject, error) {
	out, err := h.service.Fieldwork.SubmitVisit(ctx, actorOf(ctx), r.Params.IdempotencyKey, *r.Body)
	return gen.SubmitVisit201JSONResponse(out), err
}

// GetVisit shows a visit as it was sent.
func (h handlers) GetVisit(ctx context.Context, r gen.GetVisitRequestObject) (gen.GetVisitResponseObject, error) {
	out, err := h.service.Fieldwork.VisitRecord(ctx, actorOf(ctx), r.VisitID)
	return gen.GetVisit200JSONResponse(out), err
}

// AmendVisit puts another version in place of a visit.
func (h handlers) AmendVisit(ctx context.Context, r gen.AmendVisitRequestObject) (gen.AmendVisitResponseObject, error) {
	out, err := h.service.Fieldwork.AmendVisit(ctx, actorOf(ctx), r.Params.IdempotencyKey, r.VisitID, *r.Body)
	return gen.AmendVisit201JSONResponse(out), err
}

// VoidVisit takes a visit out of the record.
func (h handlers) VoidVisit(ctx context.Context, r gen.VoidVisitRequestObject) (gen.VoidVisitResponseObject, error) {
	out, err := h.service.Fieldwork.VoidVisit(ctx, actorOf(ctx), r.VisitID, r.Body.Reason)
	return gen.VoidVisit200JSONResponse(out), err
}

// ListBulkChanges lists the newest bulk changes.
func (h handlers) ListBulkChanges(ctx context.Context, _ gen.ListBulkChangesRequestObject) (gen.ListBulkChangesResponseObject, error) {
	out, err := h.service.Register.BulkChanges(ctx, actorOf(ctx))
	return gen.ListBulkChanges200JSONResponse(out), err
}

// ChangeInBulk makes one change to many units.
func (h handlers) ChangeInBulk(ctx context.Context, r gen.ChangeInBulkRequestObject) (gen.ChangeInBulkResponseObject, error) {
	out, err := h.service.Register.ChangeInBulk(ctx, actorOf(ctx), *r.Body)
	return gen.ChangeInBulk200JSONResponse(out), err
}

// UndoBulkChange puts back what stood before.
func (h handlers) UndoBulkChange(ctx context.Context, r gen.UndoBulkChangeRequestObject) (gen.UndoBulkChangeResponseObject, error) {
	out, err := h.service.Register.UndoBulkChange(ctx, actorOf(ctx), r.ChangeID)
	return gen.UndoBulkChange200JSONResponse(out), err
}

// GetAudit says who changed a record.
func (h handlers) GetAudit(ctx context.Context, r gen.GetAuditRequestObject) (gen.GetAuditResponseObject, error) {
	out, err := h.service.Organisation.Audit(ctx, actorOf(ctx), string(r.Params.Entity), r.Params.EntityID)
	return gen.GetAudit200JSONResponse(out), err
}

// ListAttachments lists the files kept with a record.
func (h handlers) ListAttachments(ctx context.Context, r gen.ListAttachmentsRequestObject) (gen.ListAttachmentsResponseObject, error) {
	out, err := h.service.Organisation.Attachments(ctx, actorOf(ctx), string(r.Params.Entity), r.Params.EntityID)
	return gen.ListAttachments200JSONResponse(out), err
}

// AddAttachment keeps a file with a record.
func (h handlers) AddAttachment(ctx context.Context, r gen.AddAttachmentRequestObject) (gen.AddAttachmentResponseObject, error) {
	content, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	out, err := h.service.Organisation.AddAttachment(ctx, actorOf(ctx), organisation.NewAttachment{
		Entity: string(r.Params.Entity), EntityID: r.Params.EntityID, Kind: string(r.Params.Kind), Name: r.Params.Name, Content: content,
		SurfaceID: r.Params.SurfaceID, Step: value(r.Params.Step), Phase: string(value(r.Params.Phase)),
	})
	return gen.AddAttachment201JSONResponse(out), err
}

// GetAttachment gives a file.
func (h handlers) GetAttachment(ctx context.Context, r gen.GetAttachmentRequestObject) (gen.GetAttachmentResponseObject, error) {
	name, media, content, err := h.service.Organisation.AttachmentContent(ctx, actorOf(ctx), r.AttachmentID)
	return file{name: name, media: media, inline: media != "application/pdf", content: content}, err
}

// RemoveAttachment takes a file away.
func (h handlers) RemoveAttachment(ctx context.Context, r gen.RemoveAttachmentRequestObject) (gen.RemoveAttachmentResponseObject, error) {
	return gen.RemoveAttachment204Response{}, h.service.Organisation.RemoveAttachment(ctx, actorOf(ctx), r.AttachmentID)
}

// GetHouseRules shows the organisation's catalogues.
func (h handlers) GetHouseRules(ctx context.Context, _ gen.GetHouseRulesRequestObject) (gen.GetHouseRulesResponseObject, error) {
	out, err := h.service.Organisation.HouseRules(ctx, actorOf(ctx))
	return gen.GetHouseRules200JSONResponse(out), err
}

// GetNewDefaults lists what a release brings.
func (h handlers) GetNewDefaults(ctx context.Context, _ gen.GetNewDefaultsRequestObject) (gen.GetNewDefaultsResponseObject, error) {
	out, err := h.service.Organisation.NewDefaults(ctx, actorOf(ctx))
	return gen.GetNewDefaults200JSONResponse(out), err
}

// AnswerNewDefault accepts or refuses one.
func (h handlers) AnswerNewDefault(ctx context.Context, r gen.AnswerNewDefaultRequestObject) (gen.AnswerNewDefaultResponseObject, error) {
	out, err := h.service.Organisation.AnswerNewDefault(ctx, actorOf(ctx), *r.Body)
	return gen.AnswerNewDefault200JSONResponse(out), err
}

// SaveHouseRule changes a row of the catalogues.
func (h handlers) SaveHouseRule(ctx context.Context, r gen.SaveHouseRuleRequestObject) (gen.SaveHouseRuleResponseObject, error) {
	out, err := h.service.Organisation.SaveHouseRule(ctx, actorOf(ctx), r.Table, r.RowID, r.Body.Version, r.Body.Values)
	return gen.SaveHouseRule200JSONResponse(out), err
}

// RestoreHouseRule puts a default back.
func (h handlers) RestoreHouseRule(ctx context.Context, r gen.RestoreHouseRuleRequestObject) (gen.RestoreHouseRuleResponseObject, error) {
	out, err := h.service.Organisation.SaveHouseRule(ctx, actorOf(ctx), r.Table, r.RowID, 0, nil)
	return gen.RestoreHouseRule200JSONResponse(out), err
}

// DecideProposal answers a proposal.
func (h handlers) DecideProposal(ctx context.Context, r gen.DecideProposalRequestObject) (gen.DecideProposalResponseObject, error) {
	out, err := h.service.Learning.DecideProposal(ctx, actorOf(ctx), r.ProposalID, *r.Body)
	return gen.DecideProposal200JSONResponse(out), err
}

// SetAnchor sets the month that a clean should fall into.
func (h handlers) SetAnchor(ctx context.Context, r gen.SetAnchorRequestObject) (gen.SetAnchorResponseObject, error) {
	return gen.SetAnchor204Response{}, h.service.Learning.SetAnchor(ctx, actorOf(ctx), r.TaskID, r.Body.Month)
}

// SetInterval sets an interval of the manager's own.
func (h handlers) SetInterval(ctx context.Context, r gen.SetIntervalRequestObject) (gen.SetIntervalResponseObject, error) {
	out, err := h.service.Learning.SetInterval(ctx, actorOf(ctx), r.TaskID, *r.Body)
	return gen.SetInterval200JSONResponse(out), err
}
