package register

import (
	"context"
	"io"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/exchange"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// mostLabels bounds one sheet file.
const mostLabels = 2400

// LabelPath is the address behind a label's code, after the server's own.
const LabelPath = "/u/"

// Labels writes a sheet of labels for the units that a filter lets through. Base is the server's address as phones
// reach it.
func (s *Service) Labels(ctx context.Context, a organisation.Actor, f store.CoilFilter, base string, w io.Writer) error {
	f.Today = s.Today(a.Org.Zone)
	rows, err := s.Tenant(ctx, a).Labels(f, mostLabels)
	if err != nil {
		return err
	}
	labels := make([]exchange.Label, len(rows))
	for i, r := range rows {
		labels[i] = exchange.Label{Tag: r.Tag, Class: r.ClassName, Place: r.Place, Address: strings.TrimSuffix(base, "/") + LabelPath + r.Code}
	}
	return exchange.WriteLabels(w, labels, s.Stamp())
}

// FindLabel is the unit that a label's code stands for.
func (s *Service) FindLabel(ctx context.Context, a organisation.Actor, code string) (uuid.UUID, error) {
	u, err := s.Tenant(ctx, a).UnitByLabel(strings.ToLower(strings.TrimSpace(code)))
	return u.ID, err
}
