package learning

import (
	"context"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
)

// looksView are what more knowledge of a coil is worth.
func looksView(p dossier.Program) []contract.LookWorth {
	out := []contract.LookWorth{}
	for _, w := range p.LookWorths() {
		out = append(out, contract.LookWorth{
			Kind: contract.LookWorthKind(w.Kind), SavesYear: w.Saves, NetRiding: w.NetRiding, NetAlone: w.NetAlone,
			MinutesRiding: w.MinutesRiding, MinutesAlone: w.MinutesAlone,
		})
	}
	return out
}

// lookOf is the look at a coil that is worth most, nil where none pays.
func lookOf(c dossier.Coil) *contract.LookWorth {
	t := mainTask(c)
	if t == nil || t.Paused {
		return nil
	}
	if looks := looksView(t.Program); len(looks) > 0 && looks[0].NetRiding > 0 {
		return &looks[0]
	}
	return nil
}

// Looks lists the coils of which it pays to know more, the look that is worth most riding along first.
func (s *Service) Looks(ctx context.Context, a organisation.Actor, site *uuid.UUID, limit int) ([]contract.LookLine, error) {
	rows, err := s.Tenant(ctx, a).LooksWorth(site, limit)
	out := []contract.LookLine{}
	for _, r := range rows {
		line := contract.LookLine{UnitID: r.UnitID, CoilID: r.CoilID, Tag: r.Tag, Site: r.SiteName, Role: contract.CoilRole(r.Role), Due: new(r.Due.Day())}
		if r.Blocked >= 0 {
			line.BlockedShare = &r.Blocked
		}
		if err := r.Look.Into(&line.Look); err != nil {
			return out, err
		}
		out = append(out, line)
	}
	return out, err
}
