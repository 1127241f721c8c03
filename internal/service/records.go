package service

import (
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/store"
)

// listChange is how a list of records nested in a card goes to the database: what to add, to write and to remove.
type listChange[T any] struct {
	add, write []T
	remove     []uuid.UUID
	id         func(*T) *uuid.UUID
}

// compare sorts the rows wanted by whether they are there. A wanted row without an id is new; one with an id that
// is not there is reported at its place in the list.
func compare[T any](bad *invalid.Error, pointer string, there, wanted []T, id func(*T) *uuid.UUID) listChange[T] {
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
			c.add = append(c.add, wanted[i])
		case known[*key]:
			delete(known, *key)
			c.write = append(c.write, wanted[i])
		default:
			bad.Addf(fmt.Sprintf("%s/%d", pointer, i), "is not of this record, or was taken out meanwhile")
		}
	}
	for i := range there {
		if key := *id(&there[i]); known[key] {
			c.remove = append(c.remove, key)
		}
	}
	return c
}

// store writes the change. Names that trade places are not supported by the schema's unique keys; that is said.
func (c listChange[T]) store(t store.Tenant, pointer, inUse string) error {
	err := store.Delete[T](t, c.remove...)
	if errors.Is(err, store.ErrInUse) {
		return field(pointer, "%s", inUse)
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
		err = store.Insert(t, c.add...)
	}
	if errors.Is(err, store.ErrDuplicate) {
		return field(pointer, "two of them have the same name or day")
	}
	return err
}

func trim(p *string) string { return strings.TrimSpace(value(p)) }

// within checks a figure that may be absent.
func within(bad *invalid.Error, pointer string, v *float64, lo, hi float64, unit string) {
	if v != nil && !(*v >= lo && *v <= hi) {
		bad.Addf(pointer, "must be between %g and %g %s", lo, hi, unit)
	}
}
