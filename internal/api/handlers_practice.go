package api

import (
	"context"

	"nextround/internal/api/gen"
)

// GetBench gives what the calculator outside any visit works with.
func (h handlers) GetBench(ctx context.Context, _ gen.GetBenchRequestObject) (gen.GetBenchResponseObject, error) {
	out, err := h.service.Fieldwork.Bench(ctx, actorOf(ctx))
	return gen.GetBench200JSONResponse(out), err
}

// ListGraders lists how those who practised grade.
func (h handlers) ListGraders(ctx context.Context, _ gen.ListGradersRequestObject) (gen.ListGradersResponseObject, error) {
	out, err := h.service.Organisation.Graders(ctx, actorOf(ctx))
	return gen.ListGraders200JSONResponse(out), err
}

// ScoreGrader adds graded faces.
func (h handlers) ScoreGrader(ctx context.Context, r gen.ScoreGraderRequestObject) (gen.ScoreGraderResponseObject, error) {
	out, err := h.service.Organisation.ScoreGrader(ctx, actorOf(ctx), *r.Body)
	return gen.ScoreGrader200JSONResponse(out), err
}

// GetPractice shows the questions on which practitioners differ.
func (h handlers) GetPractice(ctx context.Context, _ gen.GetPracticeRequestObject) (gen.GetPracticeResponseObject, error) {
	out, err := h.service.Organisation.Practice(ctx, actorOf(ctx))
	return gen.GetPractice200JSONResponse(out), err
}

// SavePractice answers one of them.
func (h handlers) SavePractice(ctx context.Context, r gen.SavePracticeRequestObject) (gen.SavePracticeResponseObject, error) {
	out, err := h.service.Organisation.SavePractice(ctx, actorOf(ctx), r.Question, *r.Body)
	return gen.SavePractice200JSONResponse(out), err
}

// ListProcedures lists the templates in force.
func (h handlers) ListProcedures(ctx context.Context, _ gen.ListProceduresRequestObject) (gen.ListProceduresResponseObject, error) {
	out, err := h.service.Organisation.Procedures(ctx, actorOf(ctx))
	return gen.ListProcedures200JSONResponse(out), err
}

// PracticeEffects says what each answer would change for a unit.
func (h handlers) PracticeEffects(ctx context.Context, r gen.PracticeEffectsRequestObject) (gen.PracticeEffectsResponseObject, error) {
	out, err := h.service.Fieldwork.PracticeEffects(ctx, actorOf(ctx), r.Question, r.Params.UnitID)
	return gen.PracticeEffects200JSONResponse(out), err
}

// GetProcedure lists the versions of a class's template.
func (h handlers) GetProcedure(ctx context.Context, r gen.GetProcedureRequestObject) (gen.GetProcedureResponseObject, error) {
	out, err := h.service.Organisation.ProcedureVersions(ctx, actorOf(ctx), r.ClassID)
	return gen.GetProcedure200JSONResponse(out), err
}

// SaveProcedure puts a new version in force.
func (h handlers) SaveProcedure(ctx context.Context, r gen.SaveProcedureRequestObject) (gen.SaveProcedureResponseObject, error) {
	out, err := h.service.Organisation.SaveProcedure(ctx, actorOf(ctx), r.ClassID, *r.Body)
	return gen.SaveProcedure200JSONResponse(out), err
}

// ListRefrigerantTables lists the saturation tables taken in.
func (h handlers) ListRefrigerantTables(ctx context.Context, _ gen.ListRefrigerantTablesRequestObject) (gen.ListRefrigerantTablesResponseObject, error) {
	out, err := h.service.Organisation.RefrigerantTables(ctx, actorOf(ctx))
	return gen.ListRefrigerantTables200JSONResponse(out), err
}

// ImportRefrigerantTable takes a saturation table in.
func (h handlers) ImportRefrigerantTable(ctx context.Context, r gen.ImportRefrigerantTableRequestObject) (gen.ImportRefrigerantTableResponseObject, error) {
	out, err := h.service.Organisation.ImportRefrigerantTable(ctx, actorOf(ctx), *r.Body)
	return gen.ImportRefrigerantTable201JSONResponse(out), err
}

// GetStock shows the stock book.
func (h handlers) GetStock(ctx context.Context, _ gen.GetStockRequestObject) (gen.GetStockResponseObject, error) {
	out, err := h.service.Fieldwork.Stock(ctx, actorOf(ctx))
	return gen.GetStock200JSONResponse(out), err
}

// AddStockMove writes a movement.
func (h handlers) AddStockMove(ctx context.Context, r gen.AddStockMoveRequestObject) (gen.AddStockMoveResponseObject, error) {
	out, err := h.service.Fieldwork.AddStockMove(ctx, actorOf(ctx), *r.Body)
	return gen.AddStockMove201JSONResponse(out), err
}

// SaveStockItem sets when a cleaner is bought again.
func (h handlers) SaveStockItem(ctx context.Context, r gen.SaveStockItemRequestObject) (gen.SaveStockItemResponseObject, error) {
	out, err := h.service.Fieldwork.SaveStockItem(ctx, actorOf(ctx), r.CleanerID, *r.Body)
	return gen.SaveStockItem200JSONResponse(out), err
}

// GetDoses compares cleaner used with planned.
func (h handlers) GetDoses(ctx context.Context, _ gen.GetDosesRequestObject) (gen.GetDosesResponseObject, error) {
	out, err := h.service.Fieldwork.Doses(ctx, actorOf(ctx))
	return gen.GetDoses200JSONResponse(out), err
}
