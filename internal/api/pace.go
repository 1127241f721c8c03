package api

import (
	"math"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"

	"nextround/internal/organisation"
)

// How much anybody may ask, on each server: people far more than any screen needs, an address of people who are not signed in much the same, and
// links, whose holders nobody knows, little of what is kept.
var (
	paceOfPeople    = pace{perSecond: 25, burst: 250}
	paceOfStrangers = pace{perSecond: 20, burst: 400}
	paceOfLinks     = pace{perSecond: 1.0 / 20, burst: 30}
)

type pace struct {
	perSecond float64
	burst     int
}

// paces holds how much each asked lately; who has asked nothing for a while is forgotten.
type paces struct {
	mu     sync.Mutex
	asked  map[string]*asker
	tidied time.Time
}

type asker struct {
	limit *rate.Limiter
	last  time.Time
}

const forgetAfter = 15 * time.Minute

// allows reports whether somebody may ask once more; else how long they should wait.
func (p *paces) allows(who string, at pace, now time.Time) (ok bool, wait time.Duration) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if now.Sub(p.tidied) > forgetAfter {
		for key, a := range p.asked {
			if now.Sub(a.last) > forgetAfter {
				delete(p.asked, key)
			}
		}
		p.tidied = now
	}
	a := p.asked[who]
	if a == nil {
		a = &asker{limit: rate.NewLimiter(rate.Limit(at.perSecond), at.burst)}
		p.asked[who] = a
	}
	a.last = now
	if a.limit.AllowN(now, 1) {
		return true, 0
	}
	return false, time.Duration(float64(time.Second) / at.perSecond)
}

// paced answers those who ask too much; false when it has.
func (s *Server) paced(c *gin.Context, who string, at pace) bool {
	ok, wait := s.paces.allows(who, at, time.Now())
	if !ok {
		s.tooMuch(c, wait)
	}
	return ok
}

func (s *Server) tooMuch(c *gin.Context, wait time.Duration) {
	c.Header("Retry-After", seconds(wait))
	writeProblem(c.Writer, c.Request, http.StatusTooManyRequests, "That is more than anybody needs at once; wait a moment.", nil)
	c.Abort()
}

func seconds(d time.Duration) string { return strconv.Itoa(max(1, int(math.Ceil(d.Seconds())))) }

// pacedPerson paces who is signed in, by account.
func (s *Server) pacedPerson(c *gin.Context, a organisation.Actor) bool {
	return s.paced(c, "account "+a.AccountID.String(), paceOfPeople)
}

// pacedStranger paces who is not signed in, by address, and what is kept by a link, by that link.
func (s *Server) pacedStranger(c *gin.Context) bool {
	if !s.paced(c, "address "+c.ClientIP(), paceOfStrangers) {
		return false
	}
	_, link, found := strings.Cut(c.Request.URL.Path, "/guest/")
	if !found || c.Request.Method == http.MethodGet {
		return true
	}
	token, _, _ := strings.Cut(link, "/")
	return s.paced(c, "link "+organisation.HashToken(token), paceOfLinks)
}
