package store

import (
	"errors"
	"fmt"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// ErrDuplicate means that a row with this key is there already.
var ErrDuplicate = errors.New("is there already")

// ErrInUse means that other rows still refer to the row.
var ErrInUse = errors.New("is in use")

// ErrStale means that the row was changed by someone else meanwhile.
var ErrStale = errors.New("was changed meanwhile")

// Insert adds rows of one type. They must carry the tenant's organisation.
func Insert[T any](t Tenant, rows ...T) error {
	if len(rows) == 0 {
		return nil
	}
	if t.bulk != nil && len(rows) >= copyFrom {
		return copyRows(t, rows)
	}
	err := t.db.CreateInBatches(rows, 500).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrDuplicate
	}
	if err != nil {
		return fmt.Errorf("storing %T: %w", rows[0], err)
	}
	return nil
}

// All reads the organisation's rows of a type in the given order.
func All[T any](t Tenant, order string) ([]T, error) {
	var rows []T
	if err := t.scoped().Order(order).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading %T: %w", rows, err)
	}
	return rows, nil
}

// Where reads the organisation's rows for which column is one of the values.
func Where[T any](t Tenant, column string, values []uuid.UUID, order string) ([]T, error) {
	var rows []T
	if len(values) == 0 {
		return rows, nil
	}
	if err := t.scoped().Where(column+" = ANY (?)", IDs(values)).Order(order).Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading %T: %w", rows, err)
	}
	return rows, nil
}

// Get reads one row by its id; ErrNotFound when the organisation has none.
func Get[T any](t Tenant, id uuid.UUID) (T, error) {
	var row T
	err := t.scoped().Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}

// Save writes a row back in full; ErrStale when the organisation has no such row.
func Save[T any](t Tenant, id uuid.UUID, row *T) error {
	res := t.scoped().Model(row).Where("id = ?", id).Select("*").Omit("organisation_id", "id").Updates(row)
	return saved[T](res)
}

// SaveVersion is Save for a record with a version; ErrStale when it is no longer at the version that was read. The
// row must carry the next version.
func SaveVersion[T any](t Tenant, id uuid.UUID, read int, row *T) error {
	res := t.scoped().Model(row).Where("id = ? AND version = ?", id, read).Select("*").Omit("organisation_id", "id").Updates(row)
	return saved[T](res)
}

func saved[T any](res *gorm.DB) error {
	var row T
	switch {
	case errors.Is(res.Error, gorm.ErrDuplicatedKey):
		return ErrDuplicate
	case errors.Is(res.Error, gorm.ErrForeignKeyViolated):
		return ErrInUse
	case res.Error != nil:
		return fmt.Errorf("storing %T: %w", row, res.Error)
	case res.RowsAffected == 0:
		return ErrStale
	}
	return nil
}

// Delete removes rows by their ids; ErrInUse when something still refers to one.
func Delete[T any](t Tenant, ids ...uuid.UUID) error {
	if len(ids) == 0 {
		return nil
	}
	var row T
	res := t.scoped().Where("id = ANY (?)", IDs(ids)).Delete(&row)
	if errors.Is(res.Error, gorm.ErrForeignKeyViolated) {
		return ErrInUse
	}
	return res.Error
}

// GetForUpdate is Get with the row locked until the transaction ends.
func GetForUpdate[T any](t Tenant, id uuid.UUID) (T, error) {
	var row T
	err := t.lock().Where("id = ?", id).Take(&row).Error
	return row, notFound(err)
}
