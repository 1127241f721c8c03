package register

import (
	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/internal/contract"
)

// flammable is whether a unit's refrigerant burns: as somebody said, else as the tables know it, else unknown. Nobody can
// say of one that burns that it does not.
func flammable(pointer, refrigerant, said string) (string, error) {
	burns, known := heat.Burns(refrigerant)
	switch {
	case known && burns && said == string(contract.YesNoNo):
		return "", invalid.At(pointer, "%s burns", refrigerant)
	case said == string(contract.YesNoYes), said == string(contract.YesNoNo):
		return said, nil
	case known && burns:
		return string(contract.YesNoYes), nil
	case known:
		return string(contract.YesNoNo), nil
	}
	return string(contract.YesNoUnknown), nil
}
