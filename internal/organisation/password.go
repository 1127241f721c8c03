package organisation

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// HashCost is the cost of argon2id.
type HashCost struct {
	Passes    uint32
	MemoryKiB uint32
}

// DefaultHashCost follows RFC 9106's advice for memory-poor machines in kind; about 50 ms here.
var DefaultHashCost = HashCost{Passes: 2, MemoryKiB: 19 * 1024}

const (
	saltBytes = 16
	keyBytes  = 32
)

// HashPassword hashes a password into the usual argon2id text form.
func HashPassword(password string, c HashCost) (string, error) {
	salt := make([]byte, saltBytes)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("making a salt: %w", err)
	}
	key := argon2.IDKey([]byte(password), salt, c.Passes, c.MemoryKiB, 1, keyBytes)
	enc := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=1$%s$%s",
		argon2.Version, c.MemoryKiB, c.Passes, enc.EncodeToString(salt), enc.EncodeToString(key)), nil
}

// checkPassword compares in constant time; a hash it cannot read never matches.
func checkPassword(password, hash string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var c HashCost
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &c.MemoryKiB, &c.Passes, &lanes); err != nil {
		return false
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false
	}
	want, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil || len(want) == 0 {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, c.Passes, c.MemoryKiB, lanes, uint32(len(want))) //nolint:gosec // short
	return subtle.ConstantTimeCompare(got, want) == 1
}
