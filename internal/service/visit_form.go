package service

import (
	"sort"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/store"
)

// form is a stored visit as it would be sent: what an amendment starts from and a file of visits is made of.
func (r *register) form(v store.Visit) contract.NewVisit {
	out := contract.NewVisit{
		UnitID: v.UnitID, Day: v.Day.Day(), Outcome: contract.Outcome(v.Outcome), CautionsRead: v.CautionsRead,
		People: []contract.VisitPerson{}, Coils: []contract.VisitCoil{},
	}
	if v.Note != "" {
		out.Note = &v.Note
	}
	for _, p := range r.visitPeople[v.ID] {
		out.People = append(out.People, contract.VisitPerson{PersonID: p.PersonID, Minutes: p.Minutes})
	}
	for _, c := range r.coils[v.UnitID] {
		coil := contract.VisitCoil{CoilID: c.ID, Sides: []contract.VisitSide{}, Treatments: []contract.VisitTreatment{}}
		for _, s := range r.surfaces[c.ID] {
			if side, ok := r.sideForm(v.ID, s.ID); ok {
				coil.Sides = append(coil.Sides, side)
			}
		}
		for _, t := range r.treatments[v.ID] {
			if t.CoilID == c.ID {
				coil.Treatments = append(coil.Treatments, r.treatmentForm(t, r.surfaces[c.ID]))
			}
		}
		if len(coil.Sides) > 0 {
			out.Coils = append(out.Coils, coil)
		}
	}
	return out
}

func (r *register) sideForm(visit, surface uuid.UUID) (contract.VisitSide, bool) {
	key := [2]uuid.UUID{visit, surface}
	at, ok := r.reached[key]
	side := contract.VisitSide{SurfaceID: surface, Reached: at.Reached}
	if at.WhyNot != "" {
		side.WhyNot = &at.WhyNot
	}
	for _, f := range r.findings[key] {
		look := &contract.Look{Grade: f.Grade, Seen: contract.Seen(f.Seen)}
		switch f.Phase {
		case phaseOpenedUp:
			side.Found = look
		case phaseAsLeft:
			side.Left = look
		}
		for _, x := range r.findingSoils[f.ID] {
			side.SoilIds = ptr(append(value(side.SoilIds), x.SoilID))
		}
	}
	return side, ok
}

func (r *register) treatmentForm(t store.Treatment, surfaces []store.Surface) contract.VisitTreatment {
	out := contract.VisitTreatment{
		Work: contract.TaskKind(t.Work), MethodID: t.MethodID, Direction: contract.Direction(t.Direction), CleanerID: t.CleanerID,
		WaterParts: t.WaterParts, Amount: amountTyped(t.AmountTyped), SurfaceIds: []uuid.UUID{},
	}
	for _, e := range t.EndPoints {
		out.EndPoints = ptr(append(value(out.EndPoints), contract.EndPoint(e)))
	}
	for _, s := range surfaces {
		if r.treated[t.ID][s.ID] {
			out.SurfaceIds = append(out.SurfaceIds, s.ID)
		}
	}
	return out
}

// amountTyped reads back an amount as it was typed, such as 1.5 US gal.
func amountTyped(text string) *contract.Amount {
	number, unit, ok := strings.Cut(text, " ")
	v, err := strconv.ParseFloat(number, 64)
	if !ok || err != nil {
		return nil
	}
	for code, name := range amountUnits {
		if name == unit {
			return &contract.Amount{Value: v, Unit: code}
		}
	}
	return nil
}

// sameVisit names what a visit says, without regard to the order of its lists and to whether cautions were read.
func sameVisit(v contract.NewVisit) string {
	v.CautionsRead = false
	v.Note = nilIfEmpty(trim(v.Note))
	v.People = append([]contract.VisitPerson{}, v.People...)
	sort.Slice(v.People, func(i, j int) bool { return v.People[i].PersonID.String() < v.People[j].PersonID.String() })
	coils := append([]contract.VisitCoil{}, v.Coils...)
	sort.Slice(coils, func(i, j int) bool { return coils[i].CoilID.String() < coils[j].CoilID.String() })
	for i := range coils {
		sides := append([]contract.VisitSide{}, coils[i].Sides...)
		sort.Slice(sides, func(a, b int) bool { return sides[a].SurfaceID.String() < sides[b].SurfaceID.String() })
		for k := range sides {
			sides[k].SoilIds = sorted(sides[k].SoilIds, uuid.UUID.String)
		}
		treatments := append([]contract.VisitTreatment{}, coils[i].Treatments...)
		for k := range treatments {
			treatments[k].SurfaceIds = value(sorted(&treatments[k].SurfaceIds, uuid.UUID.String))
			treatments[k].EndPoints = sorted(treatments[k].EndPoints, func(e contract.EndPoint) string { return string(e) })
		}
		sort.Slice(treatments, func(a, b int) bool { return hashOf(treatments[a]) < hashOf(treatments[b]) })
		coils[i].Sides, coils[i].Treatments = sides, treatments
	}
	v.Coils = coils
	return hashOf(v)
}

func nilIfEmpty(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

func sorted[T any](in *[]T, key func(T) string) *[]T {
	if in == nil || len(*in) == 0 {
		return nil
	}
	out := append([]T{}, *in...)
	sort.Slice(out, func(i, j int) bool { return key(out[i]) < key(out[j]) })
	return &out
}
