package organisation

import (
	"crypto/sha256"
	"encoding/hex"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/store"
)

// HashFile is the hash that tells two files apart.
func HashFile(file []byte) string {
	sum := sha256.Sum256(file)
	return hex.EncodeToString(sum[:])
}

// Names maps accounts to the names of their people.
type Names map[uuid.UUID]string

// Names reads the names of everybody with an account.
func (s *Base) Names(t store.Tenant) (Names, error) {
	members, err := store.All[store.Membership](t, "id")
	if err != nil {
		return nil, err
	}
	people, err := store.All[store.Person](t, "id")
	if err != nil {
		return nil, err
	}
	person := store.Index(people, func(p store.Person) uuid.UUID { return p.ID })
	names := Names{}
	for _, m := range members {
		names[m.AccountID] = person[m.PersonID].Name
	}
	return names, nil
}

// Of is the name of an account's person, empty for nobody.
func (n Names) Of(id *uuid.UUID) string {
	if id == nil {
		return ""
	}
	return n[*id]
}

// Change is what is shown of a changed interval.
func (n Names) Change(c store.IntervalChange) contract.IntervalChange {
	return contract.IntervalChange{
		ID: c.ID, At: c.At, FromDays: c.FromDays, ToDays: c.ToDays, School: contract.School(c.School), Reason: c.Reason, By: n.Of(c.AccountID),
	}
}
