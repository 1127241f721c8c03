package weather

import (
	"context"

	"nextround/core/calendar"
)

// Forecasts tell the weather of a place.
type Forecasts interface {
	Forecast(ctx context.Context, lat, lon float64, from calendar.Day, days int) (Forecast, error)
}
