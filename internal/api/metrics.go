package api

import (
	"net"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"nextround/internal/store"
)

// metrics are what the server tells of itself in Prometheus' text form.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
	handler  http.Handler
}

func newMetrics(st *store.Store) *metrics {
	m := &metrics{registry: prometheus.NewRegistry()}
	m.requests = prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "nextround_request_seconds", Help: "Time to answer a request, by route, method and status.",
		Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10},
	}, []string{"route", "method", "status"})
	gauge := func(name, help string, value func() float64) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, value)
	}
	m.registry.MustRegister(
		m.requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		gauge("nextround_database_connections", "Connections open to the database.", func() float64 { return float64(st.Pool.Stat().TotalConns()) }),
		gauge("nextround_database_connections_busy", "Connections in use just now.", func() float64 { return float64(st.Pool.Stat().AcquiredConns()) }),
		gauge("nextround_database_connections_most", "Connections that may be opened.", func() float64 { return float64(st.Pool.Stat().MaxConns()) }),
		prometheus.NewCounterFunc(prometheus.CounterOpts{
			Name: "nextround_database_statements_total", Help: "Statements sent to the database.",
		}, func() float64 { return float64(st.Statements()) }),
	)
	m.handler = promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{})
	return m
}

// measure counts a request under its route, so that ids in addresses do not make a series each.
func (m *metrics) measure(c *gin.Context) {
	start := time.Now()
	c.Next()
	route := c.FullPath()
	if route == "" {
		route = "other"
	}
	m.requests.WithLabelValues(route, c.Request.Method, strconv.Itoa(c.Writer.Status())).Observe(time.Since(start).Seconds())
}

// serve answers programs on this machine only: the figures tell how an organisation works.
func (m *metrics) serve(c *gin.Context) {
	host, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		writeProblem(c.Writer, c.Request, http.StatusForbidden, "Metrics are for programs on this machine only.", nil)
		return
	}
	m.handler.ServeHTTP(c.Writer, c.Request)
}
