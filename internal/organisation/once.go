package organisation

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"github.com/google/uuid"

	"nextround/internal/store"
)

// Once runs do in a transaction and keeps its answer under the key, so that the same request sent again gets
// the same answer and is done once.
func Once[T any](s *Base, t store.Tenant, a Actor, key uuid.UUID, request any, do func(store.Tenant) (T, error)) (T, error) {
	var answer T
	err := t.InTransaction(func(t store.Tenant) error {
		row := store.Idempotency{
			OrganisationID: t.Org, AccountID: a.AccountID, Key: key, RequestHash: HashOf(request),
			Answer: store.JSON("{}"), CreatedAt: s.Stamp(),
		}
		first, earlier, err := t.TakeKey(row)
		if err != nil {
			return fmt.Errorf("taking the request's key: %w", err)
		}
		if !first {
			if earlier.RequestHash != row.RequestHash {
				return ErrKeyReused
			}
			return earlier.Answer.Into(&answer)
		}
		if answer, err = do(t); err != nil {
			return err
		}
		return t.KeepAnswer(a.AccountID, key, answer)
	})
	return answer, err
}

// HashOf is a hash of plain data, the same for the same data.
func HashOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain data is ever given
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}
