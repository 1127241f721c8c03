package round

import (
	"math"

	"nextround/core/calendar"
)

// Place is a site that is driven to, or a base that crews start from.
type Place struct {
	ID string `json:"id"`
	// Lat and Lon in degrees; needed where no travel matrix is given.
	Lat float64 `json:"lat,omitempty"`
	Lon float64 `json:"lon,omitempty"`
	// Water to fill a tank from, whenever a crew stops there.
	Water bool `json:"water,omitempty"`
	// TooCold are the days on which wet work outdoors is ruled out here: the forecast is below 4 °C.
	TooCold []calendar.Day `json:"too_cold,omitempty"`
}

// Span is a time of day in minutes since midnight where the crew is: minutes that really pass, so that a day on which the
// clocks change has 23 or 25 hours.
type Span struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// Hours say when work may go on: by weekday from Sunday on, and on days that differ.
type Hours struct {
	ID     string     `json:"id"`
	Weekly [7][]Span  `json:"weekly"`
	Dated  []DaySpans `json:"dated,omitempty"`
}

// DaySpans replace the weekday's spans on a day: a holiday, a blackout, a change of the clocks. No span: no work.
type DaySpans struct {
	Day   calendar.Day `json:"day"`
	Spans []Span       `json:"spans"`
}

// On are the spans of a day.
func (h Hours) On(day calendar.Day) []Span {
	for _, d := range h.Dated {
		if d.Day == day {
			return d.Spans
		}
	}
	return h.Weekly[day.Weekday()]
}

// Travel gives minutes from place to place: a matrix in the order of the places, or the great circle times a road factor
// at a speed.
type Travel struct {
	Minutes [][]float64 `json:"minutes,omitempty"`
	// SpeedKMH and RoadFactor; 0 means the defaults.
	SpeedKMH   float64 `json:"speed_kmh,omitempty"`
	RoadFactor float64 `json:"road_factor,omitempty"`
}

// Defaults of travel (assumption): roads are a third longer than the great circle, and towns are slow.
const (
	DefaultSpeed      = 35.0
	DefaultRoadFactor = 1.3
	earthKM           = 6371.0088 // mean radius, IUGG
)

// GreatCircle is the distance in kilometres between two points on a sphere of the earth's mean radius, by the haversine
//
//	d = 2 R asin √(sin²(Δφ/2) + cos φ₁ cos φ₂ sin²(Δλ/2))
func GreatCircle(lat1, lon1, lat2, lon2 float64) float64 {
	const rad = math.Pi / 180
	a := math.Pow(math.Sin((lat2-lat1)*rad/2), 2) + math.Cos(lat1*rad)*math.Cos(lat2*rad)*math.Pow(math.Sin((lon2-lon1)*rad/2), 2)
	return 2 * earthKM * math.Asin(math.Sqrt(math.Min(1, a)))
}

func (t Travel) between(a, b int, places []Place) float64 {
	if len(t.Minutes) > 0 {
		return t.Minutes[a][b]
	}
	speed, factor := t.SpeedKMH, t.RoadFactor
	if speed == 0 {
		speed = DefaultSpeed
	}
	if factor == 0 {
		factor = DefaultRoadFactor
	}
	return GreatCircle(places[a].Lat, places[a].Lon, places[b].Lat, places[b].Lon) * factor / speed * 60
}
