package demo_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/service"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

type sample struct {
	svc     *service.Service
	manager service.Actor
	units   map[string]contract.Unit
}

func load(t *testing.T) sample {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(st.Close)
	svc := service.New(st, service.Options{Now: func() time.Time { return demo.Clock }, Hash: service.HashCost{Passes: 1, MemoryKiB: 64}})
	require.NoError(t, demo.Load(ctx, svc))
	manager, err := svc.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password})
	require.NoError(t, err)
	s := sample{svc: svc, manager: manager, units: map[string]contract.Unit{}}
	p, err := svc.Portfolio(ctx, manager)
	require.NoError(t, err)
	for _, site := range p.Sites {
		for _, line := range site.Units {
			u, err := svc.Unit(ctx, manager, line.ID)
			require.NoError(t, err)
			s.units[u.Tag] = u
		}
	}
	return s
}

func TestTheStoriesAreThere(t *testing.T) {
	s := load(t)
	assert.Len(t, s.units, 20)

	ice := s.units["FA-IM-2"].Coils[0].Sides[0].State
	assert.False(t, ice.CoreSeen)
	assert.Less(t, *ice.FaceGrade, 2, "a clean face …")
	assert.GreaterOrEqual(t, *ice.CoreGrade, 3, "… over a packed core")

	hidden := s.units["NL-CU-2"].Coils[0]
	assert.Equal(t, "wall side", hidden.Sides[3].Name)
	assert.Empty(t, hidden.Sides[3].Observations, "never reached")
	assert.Equal(t, "wall side", hidden.Tasks[0].DueSide)
	assert.Greater(t, hidden.Tasks[0].DaysLate, 365)

	for _, tag := range []string{"NL-CU-3", "CC-RC-1"} {
		assert.True(t, s.units[tag].Coils[0].Tasks[0].FirstLook, tag)
		assert.False(t, s.units[tag].Coils[0].Sides[0].State.Known, tag)
	}

	longer, shorter := 0, 0
	for _, u := range s.units {
		for _, c := range u.Coils {
			for _, task := range c.Tasks {
				if task.Proposal.ID == nil {
					continue
				}
				if task.Proposal.Days > task.EveryDays {
					longer++
				} else {
					shorter++
				}
			}
		}
	}
	assert.NotZero(t, longer, "some units are cleaned too often")
	assert.NotZero(t, shorter, "some too seldom")
	n, err := s.svc.NextRound(context.Background(), s.manager, nil, nil)
	require.NoError(t, err)
	assert.NotEmpty(t, n.Stops)
	assert.LessOrEqual(t, n.Minutes, n.HoursMinutes)
}

func TestTheSameDataEachTime(t *testing.T) {
	a, b := load(t), load(t)
	for tag, u := range a.units {
		v := b.units[tag]
		require.Equal(t, len(u.Visits), len(v.Visits), tag)
		for i := range u.Visits {
			assert.Equal(t, u.Visits[i].Day, v.Visits[i].Day, tag)
			assert.Equal(t, u.Visits[i].Sides, v.Visits[i].Sides, tag)
		}
	}
}
