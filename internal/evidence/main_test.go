package evidence_test

import (
	"testing"

	"nextround/internal/pg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }
