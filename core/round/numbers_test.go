package round_test

import (
	"fmt"
	"math"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/invalid"
	"nextround/core/round"
)

// numbers visits every floating-point number in a value.
func numbers(path string, v reflect.Value, visit func(path string, number reflect.Value)) {
	switch v.Kind() {
	case reflect.Float64:
		visit(path, v)
	case reflect.Pointer:
		if !v.IsNil() {
			numbers(path, v.Elem(), visit)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				numbers(path+"."+v.Type().Field(i).Name, v.Field(i), visit)
			}
		}
	case reflect.Slice:
		for i := range v.Len() {
			numbers(fmt.Sprintf("%s[%d]", path, i), v.Index(i), visit)
		}
	}
}

// No number of a problem, whatever it is, makes planning panic: one that is none is named.
func TestNumbersThatAreNoneAreNamed(t *testing.T) {
	t.Parallel()
	full := func() round.Problem {
		p := oneCrew(late("a", "museum", 40), late("b", "museum", 30))
		p.StopMinutes = ptr(4.0)
		p.Jobs[0].WaterL, p.Jobs[0].Waiting.CapPenalty = 10, 50
		return p
	}
	_, err := round.Make(full(), round.Search{Iterations: 200})
	require.NoError(t, err)
	p, seen := full(), 0
	numbers("", reflect.ValueOf(&p), func(path string, number reflect.Value) {
		was := number.Float()
		for _, none := range []float64{math.NaN(), math.Inf(1), math.Inf(-1)} {
			number.SetFloat(none)
			assert.NotPanics(t, func() {
				_, err := round.Make(p, round.Search{Iterations: 50, Workers: 2})
				var bad invalid.Error
				assert.ErrorAs(t, err, &bad, "%s = %g", path, none)
			}, "%s = %g", path, none)
		}
		number.SetFloat(was)
		seen++
	})
	assert.Greater(t, seen, 15)
}
