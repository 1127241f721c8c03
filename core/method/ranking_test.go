package method_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
	"nextround/core/soil"
)

// priced are the start cleaners, each with a pack and a price of its own.
func priced() []method.Cleaner {
	all := slices.Clone(method.StandardCleaners)
	for i := range all {
		all[i].PackL, all[i].PackPrice = 5, 20+7*float64(i)
	}
	return all
}

func cleanerOf(all []method.Cleaner, code string) method.Cleaner {
	if i := slices.IndexFunc(all, func(c method.Cleaner) bool { return c.Code == code }); i >= 0 {
		return all[i]
	}
	return method.Cleaner{}
}

// The money of an option is labour by the hour, water by the cubic metre and cleaner by the pack; options stand in the order
// that Advise promises.
func TestOptionsArePricedAndRanked(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		in := yard()
		in.Cleaners = priced()
		in.Found.Kind = rapid.SampledFrom([]string{"leaf_grass", "dust", "grease", "lint", "mixed"}).Draw(t, "soil")
		in.Found.Grade = soil.Grade(rapid.IntRange(1, 5).Draw(t, "grade"))
		in.Place.Setting = rapid.SampledFrom([]method.Setting{"outdoor", "roof", "plant_room", "indoor"}).Draw(t, "setting")
		in.Rules = method.Rules{"strength": rapid.SampledFrom([]string{"by_soil", "weakest", "fixed"}).Draw(t, "strength")}
		options := advise(t, in).Options
		for _, o := range options {
			k := cleanerOf(in.Cleaners, o.Cleaner)
			money := o.Minutes/60*48 + (o.RinseL+o.MixL)/1000*3.5
			if k.PackL > 0 {
				money += o.CleanerL / k.PackL * k.PackPrice
			}
			assert.InDelta(t, money, o.Cost, 1e-9, "%s with %s", o.Method, o.Cleaner)
		}
		for i := 1; i < len(options); i++ {
			x, y := options[i-1], options[i]
			duty := func(o method.Option) method.Duty { return cleanerOf(in.Cleaners, o.Cleaner).Duty }
			switch {
			case x.Enough != y.Enough:
				assert.True(t, x.Enough, "enough comes first")
			case !x.Enough && math.Abs(x.LeftShare-y.LeftShare) > 1e-9:
				assert.Less(t, x.LeftShare, y.LeftShare, "then what leaves least")
			case x.Enough && in.Rules["strength"] != "fixed" && duty(x) != duty(y):
				assert.Less(t, duty(x), duty(y), "the mildest that is enough")
			case math.Abs(x.Cost-y.Cost) > 1e-9:
				assert.Less(t, x.Cost, y.Cost, "then the cheapest")
			}
		}
	})
}

// Of two like cleaners the cheaper is proposed; twice the price of a pack makes the difference.
func TestTheCheaperOfTwoLikeCleanersComesFirst(t *testing.T) {
	t.Parallel()
	in := yard()
	dear := cleanerOf(method.StandardCleaners, "medium_universal")
	require.NotEmpty(t, dear.Code)
	cheap := dear
	dear.Code, cheap.Code, dear.PackL, cheap.PackL, dear.PackPrice, cheap.PackPrice = "dear", "cheap", 5, 5, 60, 30
	in.Cleaners = []method.Cleaner{dear, cheap}
	var order []string
	for _, o := range advise(t, in).Options {
		if o.Method == "foam_rinse" {
			order = append(order, o.Cleaner)
		}
	}
	assert.Equal(t, []string{"cheap", "dear"}, order)
	in.Cleaners[0].PackL = 50 // ten times as much for the money
	order = nil
	for _, o := range advise(t, in).Options {
		if o.Method == "foam_rinse" {
			order = append(order, o.Cleaner)
		}
	}
	assert.Equal(t, []string{"dear", "cheap"}, order)
}

// A cleaner one step too light for the soil says so and leaves more; one that is heavy enough does not.
func TestACleanerTooLightSaysSo(t *testing.T) {
	t.Parallel()
	in := yard()
	in.Found = method.Found{Kind: "grease", Grade: soil.Felt} // asks for medium duty
	left := map[method.Duty]float64{}
	for duty := method.LightDuty; duty <= method.HeavyDuty; duty++ {
		k := cleanerOf(method.StandardCleaners, "medium_universal")
		k.Duty = duty
		in.Cleaners = []method.Cleaner{k}
		for _, o := range advise(t, in).Options {
			if o.Method == "foam_rinse" && o.Cleaner == k.Code {
				left[duty] = o.LeftShare
				assert.Equal(t, duty < method.MediumDuty, slices.Contains(o.Notes, "cleaner_light"), "duty %d", duty)
			}
		}
	}
	require.Len(t, left, 3)
	assert.Greater(t, left[method.LightDuty], left[method.MediumDuty]+1e-6)
	assert.InDelta(t, left[method.MediumDuty], left[method.HeavyDuty], 1e-12)
}

// From Blanket on, wet work begins dry: heavy soil that gets wet first is mud.
func TestHeavySoilIsLoosenedDryFirst(t *testing.T) {
	t.Parallel()
	for grade := soil.Film; grade <= soil.Blocked; grade++ {
		in := yard()
		in.Found.Grade = grade
		wet := 0
		for _, o := range advise(t, in).Options {
			if len(method.TechniqueOf(o.Method).Forms) > 0 {
				wet++
				assert.Equal(t, grade >= soil.Blanket, slices.Contains(o.Notes, "dry_first"), "%s at %s", o.Method, grade)
			}
		}
		assert.Positive(t, wet)
	}
}

// UN GHS 3.2 takes pH 2 and below and 11.5 and above as corrosive (from memory); the bounds themselves belong to it.
func TestCorrosiveAtItsBounds(t *testing.T) {
	t.Parallel()
	for ph, want := range map[float64][2]bool{11.49: {false, false}, 11.5: {true, true}, 13: {true, true}, 7: {false, false}, 2.01: {false, false}, 2: {true, false}, 1: {true, false}} {
		c := method.Cleaner{PH: ph}
		assert.Equal(t, want[0], c.Corrosive(), "pH %g", ph)
		assert.Equal(t, want[1], c.StrongAlkaline(), "pH %g", ph)
	}
	assert.False(t, method.Cleaner{}.Corrosive(), "a pH that is not stated")
}
