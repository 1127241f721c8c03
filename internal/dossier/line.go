package dossier

import (
	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
)

// CoilLine is what the portfolio shows of a coil.
func (d Unit) CoilLine(c Coil, rounds map[uuid.UUID]calendar.Day) contract.CoilLine {
	line := contract.CoilLine{CoilID: c.ID, Role: contract.CoilRole(c.Role), State: c.State(), Tasks: []contract.TaskLine{}}
	if c.Worst >= 0 {
		side := c.Sides[c.Worst]
		line.WorstSide, line.RatePer30Days, line.RateFrom = &side.Name, &side.Rate.Rate.P50, new(contract.RateFrom(side.From))
	}
	if c.method != "" {
		line.LastMethod = new(c.method)
	}
	for _, t := range c.Tasks {
		if t.Paused {
			continue // ended by the work plan in force
		}
		line.Tasks = append(line.Tasks, t.Line(d.Today, rounds))
	}
	return line
}
