package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/standin"
)

func (g *generator) unitOf(tag string) (uuid.UUID, error) {
	for _, line := range g.units {
		if line.Tag == tag {
			return line.UnitID, nil
		}
	}
	return uuid.Nil, fmt.Errorf("the demonstration has no %s", tag)
}

// watch has the specks of the roof unit looked at again at each visit, beside their pictures.
func (g *generator) watch(ctx context.Context) error {
	id, err := g.unitOf("FN-PU-2")
	if err != nil {
		return err
	}
	item, err := g.svc.Fieldwork.AddWatchItem(ctx, g.manager, id, contract.NewWatchItem{What: "greenish specks on the end plate, condenser: larger than in the last picture?"})
	if err != nil {
		return err
	}
	for i, name := range []string{"end plate, autumn 2024", "end plate, autumn 2025"} {
		content, err := endPlate(40+6*i, rand.New(rand.NewPCG(seed, 7))) //nolint:gosec // sample data
		if err != nil {
			return err
		}
		_, err = g.svc.Organisation.AddAttachment(ctx, g.manager, organisation.NewAttachment{Entity: "watch", EntityID: item.ID, Kind: "photo", Name: name, Content: content})
		if err != nil {
			return err
		}
	}
	return nil
}

// bought is what the store bought before the clock, with what a pack holds and costs.
var bought = []struct {
	cleaner string
	litres  float64
	day     string
	reorder float64
	packL   float64
	price   float64
}{
	{"medium_universal", 60, "2025-09-01", 10, 5, 42},
	{"indoor_neutral", 50, "2025-10-06", 8, 5, 55},
	{"foaming_aerosol", 12, "2025-11-03", 3, .5, 11},
	{"heavy_alkaline", 20, "2026-02-16", 5, 5, 38},
	{"mild_detergent", 10, "2025-06-02", 2, 5, 14},
}

// boughtBefore was there when the record of visits begins.
var boughtBefore = map[string]float64{"indoor_neutral": 130}

func (g *generator) stock(ctx context.Context) error {
	for _, b := range bought {
		for _, k := range g.cat.Cleaners {
			if k.Code != b.cleaner {
				continue
			}
			if litres := boughtBefore[b.cleaner]; litres > 0 {
				move := contract.NewStockMove{CleanerID: k.ID, Kind: contract.NewStockMoveKindBought, Litres: litres, Day: calendar.MustParse("2023-10-02")}
				if _, err := g.svc.Fieldwork.AddStockMove(ctx, g.manager, move); err != nil {
					return err
				}
			}
			move := contract.NewStockMove{CleanerID: k.ID, Kind: contract.NewStockMoveKindBought, Litres: b.litres, Day: calendar.MustParse(b.day)}
			if _, err := g.svc.Fieldwork.AddStockMove(ctx, g.manager, move); err != nil {
				return err
			}
			if err := g.price(ctx, k.ID, b.packL, b.price); err != nil {
				return err
			}
			if _, err := g.svc.Fieldwork.SaveStockItem(ctx, g.manager, k.ID, contract.StockItemChange{ReorderAtL: b.reorder, LeadDays: 10}); err != nil {
				return err
			}
		}
	}
	return nil
}

// price sets what a pack of a cleaner holds and costs.
func (g *generator) price(ctx context.Context, cleaner uuid.UUID, packL, price float64) error {
	rules, err := g.svc.Organisation.HouseRules(ctx, g.manager)
	if err != nil {
		return err
	}
	for _, table := range rules.Tables {
		for _, row := range table.Rows {
			if row.ID == cleaner && table.Key == "cleaners" {
				text, err := json.Marshal(row.Values)
				if err != nil {
					return fmt.Errorf("the cleaner's values: %w", err)
				}
				values := map[string]any{}
				if err := json.Unmarshal(text, &values); err != nil {
					return fmt.Errorf("the cleaner's values: %w", err)
				}
				values["pack_l"], values["pack_price"] = packL, price
				_, err = g.svc.Organisation.SaveHouseRule(ctx, g.manager, table.Key, cleaner, row.Version, values)
				return err
			}
		}
	}
	return fmt.Errorf("the house has no such cleaner")
}

// complaints came in on the day of the clock.
var complaints = []struct {
	tag, note, reporter string
	kind                contract.SymptomKind
}{
	{"FA-RF-1", "Bait soft again this morning, −7 °C on the dial; the same shortly before the clean in 2024.", "bait store", contract.SymptomKindWarmGoods},
	{"CC-BC-2", "Turned right down and still not cold.", "bar", contract.SymptomKindNotCold},
}

func (g *generator) complain(ctx context.Context) error {
	for _, c := range complaints {
		id, err := g.unitOf(c.tag)
		if err != nil {
			return err
		}
		if _, err := g.svc.Fieldwork.AddSymptom(ctx, g.manager, contract.NewSymptom{Kind: c.kind, UnitID: &id, Note: text(c.note), Reporter: text(c.reporter)}); err != nil {
			return err
		}
	}
	return nil
}

// callOuts are those that were put down, at four sites; the manager answers for it that two of the logs are complete.
var callOuts = []struct {
	tag, day    string
	cause       contract.CallOutCause
	blame       contract.YesNo
	cost, goods float64
	note        string
}{
	{"CC-RF-2", "2024-07-18", contract.CallOutCauseSoiledCoil, contract.YesNoYes, 240, 85, "Tripped on a hot evening behind the stove; blown through, ran again."},
	{"CC-BC-1", "2025-08-02", contract.CallOutCauseSoiledCoil, contract.YesNoYes, 190, 0, "Would not get below 9 °C; felt on the face."},
	{"CC-RF-3", "2025-02-11", contract.CallOutCauseElectrical, contract.YesNoNo, 310, 0, "Start relay."},
	{"CC-WU-1", "2024-06-27", contract.CallOutCauseWater, contract.YesNoNo, 160, 0, "Drain blocked."},
	{"FN-DC-2", "2024-11-05", contract.CallOutCauseMisuse, contract.YesNoNo, 120, 0, "Plug pulled by a cleaner of the hall."},
	{"FN-PU-2", "2025-07-09", contract.CallOutCauseRefrigerant, contract.YesNoNo, 780, 0, "Leak at a service valve."},
	{"FN-CA-3", "2025-05-22", contract.CallOutCauseControls, contract.YesNoNo, 150, 0, "Remote control lost its pairing."},
	{"FA-IM-1", "2025-07-30", contract.CallOutCauseSoiledCoil, contract.YesNoYes, 260, 400, "Ice soft, high pressure; face looked clean."},
	{"FA-RF-1", "2024-08-14", contract.CallOutCauseSoiledCoil, contract.YesNoUnknown, 210, 320, "Bait warm; cleaned the same week."},
	{"SY-RC-3", "2025-09-03", contract.CallOutCauseSoiledCoil, contract.YesNoYes, 420, 0, "High pressure, full of grit."},
}

// completeLogs are the sites whose log is complete over the last two years.
var completeLogs = []string{"Crew Canteen", "Ferry Terminal North"}

// logCallOuts puts the call-outs down, and has the house take up what they teach as in a night.
func (g *generator) logCallOuts(ctx context.Context) error {
	for _, x := range callOuts {
		unit, err := g.unitOf(x.tag)
		if err != nil {
			return err
		}
		in := contract.NewCallOut{
			UnitID: unit, Day: calendar.MustParse(x.day), Cause: x.cause, CoilToBlame: x.blame, Prevented: x.blame, Cost: &x.cost, Note: text(x.note),
		}
		if x.goods > 0 {
			in.Goods = &x.goods
		}
		if _, err := g.svc.Evidence.AddCallOut(ctx, g.manager, in); err != nil {
			return err
		}
	}
	span := contract.NewCallLogSpan{From: calendar.MustParse("2024-03-01"), To: calendar.MustParse("2026-02-28")}
	for _, s := range g.sites {
		if slices.Contains(completeLogs, s.Name) {
			if _, err := g.svc.Evidence.DeclareLog(ctx, g.manager, s.ID, span); err != nil {
				return err
			}
		}
	}
	return g.svc.Learning.RebuildOne(ctx, g.manager.Org.ID)
}

// gauged are the units as the simulated gauge set knows them (assumption: usual temperatures of the classes).
func (g *generator) gauged(ctx context.Context) ([]standin.Unit, error) {
	out := []standin.Unit{}
	for _, line := range g.units {
		record, err := g.svc.Register.UnitCard(ctx, g.manager, line.UnitID)
		if err != nil {
			return nil, err
		}
		u := standin.Unit{
			Tag: line.Tag, Refrigerant: record.Card.Refrigerant, BlockedShare: g.hidden[line.Tag], CleanK: heat.CleanCondenser, EvaporatingC: 6,
			AmbientC: 9, RoomC: 22, Amps: value(record.Card.Amps), Volts: value(record.Card.Volts),
		}
		switch class := strings.ToLower(line.Class); {
		case strings.Contains(class, "cooler") && !strings.Contains(class, "room"), strings.Contains(class, "reach-in"), strings.Contains(class, "ice machine"):
			u.CleanK, u.EvaporatingC, u.AmbientC, u.RoomC = heat.CleanPlugIn, -10, 22, 4
		case strings.Contains(class, "cold-room"), strings.Contains(class, "remote"):
			u.CleanK, u.EvaporatingC, u.RoomC = heat.CleanCondenser, -10, 2
		}
		out = append(out, u)
	}
	return out, nil
}

func value(p *float64) float64 {
	if p == nil {
		return 0
	}
	return *p
}
