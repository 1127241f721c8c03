package api

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTokensStayOutOfTheLog(t *testing.T) {
	for path, want := range map[string]string{
		"/api/v1/feeds/abc":            "/api/v1/feeds/…",
		"/api/v1/guest/abc/visit-pack": "/api/v1/guest/…/visit-pack",
		"/g/abc/units/1/work":          "/g/…/units/1/work",
		"/join/abc":                    "/join/…",
		"/api/v1/units/abc":            "/api/v1/units/abc",
		"/":                            "/",
	} {
		assert.Equal(t, want, loggedPath(path))
	}
}
