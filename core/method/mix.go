package method

import (
	"math"

	"nextround/core/invalid"
)

// LitresPerGallon is the US gallon of 231 cubic inches; a gallon is 128 fluid ounces (NIST Handbook 44, from memory).
const (
	LitresPerGallon = 3.785411784
	OuncesPerGallon = 128.0
)

// MixInput asks for a mix: how strong, and one volume.
type MixInput struct {
	// WaterParts are parts of water to one of cleaner; or Share, the cleaner's share of the mix. One of them.
	WaterParts *float64 `json:"water_parts,omitempty"`
	Share      *float64 `json:"share,omitempty"`
	// One of the volumes, in litres: the mix, the cleaner in it, or the water.
	MixL     *float64 `json:"mix_l,omitempty"`
	CleanerL *float64 `json:"cleaner_l,omitempty"`
	WaterL   *float64 `json:"water_l,omitempty"`
	// TankL is what the sprayer holds; PackL and PackPrice are the cleaner's pack. 0 leaves them out.
	TankL     float64 `json:"tank_l,omitempty"`
	PackL     float64 `json:"pack_l,omitempty"`
	PackPrice float64 `json:"pack_price,omitempty"`
}

// MixResult names both ways of measuring, since people mix them up.
type MixResult struct {
	WaterParts float64 `json:"water_parts"`
	Share      float64 `json:"share"`
	MixL       float64 `json:"mix_l"`
	CleanerL   float64 `json:"cleaner_l"`
	WaterL     float64 `json:"water_l"`
	// Cleaner per litre of mix and per litre of water, in mL; per US gallon of each, in US fluid ounces.
	MlPerLitreMix   float64 `json:"ml_per_l_of_mix"`
	MlPerLitreWater float64 `json:"ml_per_l_of_water"`
	OzPerGallonMix  float64 `json:"fl_oz_per_gal_of_mix"`
	OzPerGallonW    float64 `json:"fl_oz_per_gal_of_water"`
	// Fills of the tank, the last one's volume and the cleaner in a full one.
	Fills        int     `json:"fills,omitempty"`
	LastFillL    float64 `json:"last_fill_l,omitempty"`
	CleanerAFill float64 `json:"cleaner_l_per_fill,omitempty"`
	// Packs to open, whole ones, and the price of the cleaner used.
	Packs int     `json:"packs,omitempty"`
	Cost  float64 `json:"cost,omitempty"`
}

// Mix works a mix out:
//
//	share = 1/(1 + parts),  cleaner = share · mix,  water = mix − cleaner
//
// 4:1 is a fifth of the mix: 25.6 fl oz a gallon of mix, but 32 a gallon of water. Parts in [0, 1000], volumes above 0
// and at most 10,000 L.
func Mix(in MixInput) (MixResult, error) {
	var bad invalid.Error
	out := MixResult{}
	switch {
	case (in.WaterParts == nil) == (in.Share == nil):
		bad.Addf("water_parts", "give either parts of water or the share of the mix")
	case in.WaterParts != nil && !(*in.WaterParts >= 0 && *in.WaterParts <= 1000):
		bad.Addf("water_parts", "must be between 0 and 1000 parts of water to one of cleaner")
	case in.WaterParts != nil:
		out.WaterParts = *in.WaterParts
		out.Share = 1 / (1 + out.WaterParts)
	case !(*in.Share > 0 && *in.Share <= 1):
		bad.Addf("share", "must be above 0 and at most 1")
	default:
		out.Share = *in.Share
		out.WaterParts = 1/out.Share - 1
	}
	volumes := 0
	for name, v := range map[string]*float64{"mix_l": in.MixL, "cleaner_l": in.CleanerL, "water_l": in.WaterL} {
		if v == nil {
			continue
		}
		volumes++
		if !(*v > 0 && *v <= 10000) {
			bad.Addf(name, "must be above 0 and at most 10000 L")
		}
	}
	if volumes != 1 {
		bad.Addf("mix_l", "give one volume: of the mix, of the cleaner or of the water")
	}
	if in.WaterL != nil && out.WaterParts == 0 && len(bad) == 0 {
		bad.Addf("water_l", "an undiluted cleaner holds no water")
	}
	for name, v := range map[string]float64{"tank_l": in.TankL, "pack_l": in.PackL, "pack_price": in.PackPrice} {
		if !(v >= 0) {
			bad.Addf(name, "must not be below 0")
		}
	}
	if err := bad.Err(); err != nil {
		return MixResult{}, err
	}
	switch {
	case in.MixL != nil:
		out.MixL = *in.MixL
	case in.CleanerL != nil:
		out.MixL = *in.CleanerL / out.Share
	default:
		out.MixL = *in.WaterL / (1 - out.Share)
	}
	out.CleanerL = out.MixL * out.Share
	out.WaterL = out.MixL - out.CleanerL
	out.MlPerLitreMix = 1000 * out.Share
	out.OzPerGallonMix = OuncesPerGallon * out.Share
	if out.WaterParts > 0 {
		out.MlPerLitreWater = 1000 / out.WaterParts
		out.OzPerGallonW = OuncesPerGallon / out.WaterParts
	}
	if in.TankL > 0 {
		out.Fills = int(math.Ceil(out.MixL/in.TankL - 1e-9))
		out.LastFillL = out.MixL - float64(out.Fills-1)*in.TankL
		out.CleanerAFill = math.Min(in.TankL, out.MixL) * out.Share
	}
	if in.PackL > 0 {
		out.Packs = int(math.Ceil(out.CleanerL/in.PackL - 1e-9))
		out.Cost = out.CleanerL / in.PackL * in.PackPrice
	}
	return out, nil
}

// Stretch is how many times as far a cleaner goes at other parts of water: (1 + to)/(1 + from).
func Stretch(from, to float64) float64 { return (1 + to) / (1 + from) }
