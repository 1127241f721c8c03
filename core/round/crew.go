package round

import "nextround/core/calendar"

// Shift is what a crew works on a day: from a minute of the day on, so many minutes, with so many people.
type Shift struct {
	Starts  float64 `json:"starts"`
	Minutes float64 `json:"minutes"` // 0: does not work
	People  int     `json:"people"`
}

// DayShift replaces the weekday's shift: an absence, a swapped day, a change of the clocks.
type DayShift struct {
	Day calendar.Day `json:"day"`
	Shift
}

// Crew is one vehicle with its people.
type Crew struct {
	ID string `json:"id"`
	// Base is the place it starts from and comes back to.
	Base   string     `json:"base"`
	Weekly [7]Shift   `json:"weekly"` // from Sunday on
	Dated  []DayShift `json:"dated,omitempty"`
	// Skills and kit it has; TankL is the water it carries in litres.
	Skills []string `json:"skills,omitempty"`
	// Contractor crews may also do what is for contractors only.
	Contractor bool     `json:"contractor,omitempty"`
	Kit        []string `json:"kit,omitempty"`
	TankL      float64  `json:"tank_l,omitempty"`
	// Overtime is how many minutes it may work longer.
	Overtime float64 `json:"overtime_minutes,omitempty"`
	// Hour is the price of an hour on the road or signing in at a stop: its people and its vehicle. The work itself is in
	// the price of the clean and is not counted again.
	Hour float64 `json:"hour_cost"`
	// OvertimeHour is paid for each hour beyond the shift, DayFee for each day it comes, WorkHour for each hour of work on
	// site beyond what the organisation's own people cost: contractors have them.
	OvertimeHour float64 `json:"overtime_hour_cost,omitempty"`
	DayFee       float64 `json:"day_fee,omitempty"`
	WorkHour     float64 `json:"work_hour_cost,omitempty"`
}

// On is the shift of a day.
func (c Crew) On(day calendar.Day) Shift {
	for _, d := range c.Dated {
		if d.Day == day {
			return d.Shift
		}
	}
	return c.Weekly[day.Weekday()]
}
