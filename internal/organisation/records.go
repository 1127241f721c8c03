package organisation

import (
	"errors"
	"fmt"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/store"
)

// listChange is how a list of records nested in a card goes to the database: what to add, to write and to remove.
type listChange[T any] struct {
	Add, write []T
	Remove     []uuid.UUID
	id         func(*T) *uuid.UUID
}

// Compare sorts the rows wanted by whether they are there. A wanted row without an id is new; one with an id that
// is not there is reported at its place in the list.
func Compare[T any](bad *invalid.Error, pointer string, there, wanted []T, id func(*T) *uuid.UUID) listChange[T] {
	c := listChange[T]{id: id}
	known := map[uuid.UUID]bool{}
	for i := range there {
		known[*id(&there[i])] = true
	}
	for i := range wanted {
		key := id(&wanted[i])
		switch {
		case *key == uuid.Nil:
			*key = store.NewID()
			c.Add = append(c.Add, wanted[i])
		case known[*key]:
			delete(known, *key)
			c.write = append(c.write, wanted[i])
		default:
			bad.Addf(fmt.Sprintf("%s/%d", pointer, i), "is not of this record, or was taken out meanwhile")
		}
	}
	for i := range there {
		if key := *id(&there[i]); known[key] {
			c.Remove = append(c.Remove, key)
		}
	}
	return c
}

// Store writes the change. Names that trade places are not supported by the schema's unique keys; that is said.
func (c listChange[T]) Store(t store.Tenant, pointer, inUse string) error {
	err := store.Delete[T](t, c.Remove...)
	if errors.Is(err, store.ErrInUse) {
		return invalid.At(pointer, "%s", inUse)
	}
	if err != nil {
		return err
	}
	for i := range c.write {
		if err = store.Save(t, *c.id(&c.write[i]), &c.write[i]); err != nil {
			break
		}
	}
	if err == nil {
		err = store.Insert(t, c.Add...)
	}
	if errors.Is(err, store.ErrDuplicate) {
		return invalid.At(pointer, "two of them have the same name or day")
	}
	return err
}

// Within checks a figure that may be absent.
func Within(bad *invalid.Error, pointer string, v *float64, lo, hi float64, unit string) {
	if v != nil && !(*v >= lo && *v <= hi) {
		bad.Addf(pointer, "must be between %g and %g %s", lo, hi, unit)
	}
}
