package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// sealedAtOnce is how many rows of the audit trail are sealed in one transaction.
const sealedAtOnce = 2000

// auditText is what of a row is sealed: everything, in a form that the database gives the same each time.
const auditText = `jsonb_build_array(organisation_id, id, to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), account_id, entity, entity_id, action, detail)::text`

// seal is the hash of a row after the row before it:
//
//	seal(n) = SHA-256(seal(n−1) ‖ newline ‖ text(n)), in hexadecimal; seal(0) is empty
func seal(before, text string) string {
	sum := sha256.Sum256([]byte(before + "\n" + text))
	return hex.EncodeToString(sum[:])
}

type auditLine struct {
	ID     uuid.UUID
	SealNo *int64
	Seal   *string
	Text   string
}

// SealAudit seals the rows of an organisation's audit trail that are not sealed yet, and says how many. Servers that do it at the
// same time wait for one another.
func (s *Store) SealAudit(ctx context.Context, org uuid.UUID) (sealed int, err error) {
	for {
		n, err := s.sealSome(ctx, org)
		sealed += n
		if err != nil || n < sealedAtOnce {
			return sealed, err
		}
	}
}

func (s *Store) sealSome(ctx context.Context, org uuid.UUID) (n int, err error) {
	err = s.DB.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		var head struct {
			AuditSealed int64
			AuditSeal   string
		}
		if err := db.Raw("SELECT audit_sealed, audit_seal FROM organisation WHERE id = ? FOR NO KEY UPDATE", org).Scan(&head).Error; err != nil {
			return err
		}
		var rows []auditLine
		if err := db.Raw("SELECT id, "+auditText+" AS text FROM audit WHERE organisation_id = ? AND seal_no IS NULL ORDER BY at, id LIMIT ?", org, sealedAtOnce).Scan(&rows).Error; err != nil {
			return err
		}
		if n = len(rows); n == 0 {
			return nil
		}
		ids, seals := make([]uuid.UUID, n), make([]string, n)
		for i, r := range rows {
			head.AuditSeal = seal(head.AuditSeal, r.Text)
			ids[i], seals[i] = r.ID, head.AuditSeal
		}
		err := db.Exec(`UPDATE audit a SET seal_no = ? + x.n, seal = x.seal FROM unnest(?::uuid[], ?::text[]) WITH ORDINALITY x(id, seal, n)
			WHERE a.organisation_id = ? AND a.id = x.id`, head.AuditSealed, IDs(ids), Array[string](seals), org).Error
		if err != nil {
			return err
		}
		return db.Exec("UPDATE organisation SET audit_sealed = ?, audit_seal = ? WHERE id = ?", head.AuditSealed+int64(n), head.AuditSeal, org).Error
	})
	return n, err
}

// AuditState is what of an organisation's audit trail was looked through.
type AuditState struct {
	Organisation string
	// Sealed rows are whole up to there; Waiting ones are not sealed yet.
	Sealed, Waiting int64
	Seal            string
	// Broken says what does not fit; empty where all does.
	Broken string
}

// VerifyAudit looks through the audit trail of every organisation: that every sealed row is there, as it was written, in its place.
func (s *Store) VerifyAudit(ctx context.Context) ([]AuditState, error) {
	var orgs []struct {
		ID          uuid.UUID
		Name        string
		AuditSealed int64
		AuditSeal   string
	}
	if err := s.DB.WithContext(ctx).Raw("SELECT id, name, audit_sealed, audit_seal FROM organisation ORDER BY name").Scan(&orgs).Error; err != nil {
		return nil, err
	}
	var out []AuditState
	for _, o := range orgs {
		state := AuditState{Organisation: o.Name}
		if err := s.DB.WithContext(ctx).Raw("SELECT count(*) FROM audit WHERE organisation_id = ? AND seal_no IS NULL", o.ID).Scan(&state.Waiting).Error; err != nil {
			return nil, err
		}
		rows, err := s.Pool.Query(ctx, "SELECT id, seal_no, seal, "+auditText+" FROM audit WHERE organisation_id = $1 AND seal_no IS NOT NULL ORDER BY seal_no", o.ID)
		if err != nil {
			return nil, fmt.Errorf("reading the audit trail: %w", err)
		}
		for rows.Next() {
			var r auditLine
			if err := rows.Scan(&r.ID, &r.SealNo, &r.Seal, &r.Text); err != nil {
				rows.Close()
				return nil, fmt.Errorf("reading the audit trail: %w", err)
			}
			want := seal(state.Seal, r.Text)
			switch {
			case *r.SealNo != state.Sealed+1:
				state.Broken = fmt.Sprintf("row %d is missing", state.Sealed+1)
			case r.Seal == nil || *r.Seal != want:
				state.Broken = fmt.Sprintf("row %d (%s) is not as it was written", *r.SealNo, r.ID)
			}
			if state.Broken != "" {
				break
			}
			state.Sealed, state.Seal = state.Sealed+1, want
		}
		rows.Close()
		if err := rows.Err(); err != nil {
			return nil, fmt.Errorf("reading the audit trail: %w", err)
		}
		if state.Broken == "" && (state.Sealed != o.AuditSealed || state.Seal != o.AuditSeal) {
			state.Broken = fmt.Sprintf("the last rows are missing: %d of %d are there", state.Sealed, o.AuditSealed)
		}
		out = append(out, state)
	}
	return out, nil
}
