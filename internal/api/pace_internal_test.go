package api

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Each asks at their own pace; who waits may ask again, and who was not there for long is forgotten.
func TestPaces(t *testing.T) {
	t.Parallel()
	p := paces{asked: map[string]*asker{}}
	at, now := pace{perSecond: .5, burst: 3}, time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)
	for range 3 {
		ok, _ := p.allows("a", at, now)
		assert.True(t, ok)
	}
	ok, wait := p.allows("a", at, now)
	assert.False(t, ok)
	assert.Equal(t, 2*time.Second, wait)
	ok, _ = p.allows("b", at, now)
	assert.True(t, ok, "others are not kept waiting")
	ok, _ = p.allows("a", at, now.Add(2*time.Second))
	assert.True(t, ok)
	_, _ = p.allows("c", at, now.Add(time.Hour))
	assert.Len(t, p.asked, 1)
}
