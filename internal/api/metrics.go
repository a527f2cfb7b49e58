package api

import (
	"context"
	"crypto/subtle"
	"io"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"ebbe.example/ebbe/internal/work"
)

// metrics are what whoever runs Ebbe watches (the text format of Prometheus). They
// name no address, subject or person.
type metrics struct {
	registry  *prometheus.Registry
	letters   *prometheus.CounterVec
	decisions *prometheus.CounterVec
	seconds   *prometheus.HistogramVec
}

func newMetrics(c Config) *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		letters: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "ebbe_letters_total", Help: "Letters that arrived or left.",
		}, []string{"direction"}),
		decisions: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "ebbe_decisions_total", Help: "Steps by which letters were decided on, by decision and by who acted.",
		}, []string{"decision", "actor"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "ebbe_request_seconds", Help: "How long requests took, by route.", Buckets: []float64{.001, .003, .01, .03, .1, .3, 1, 3, 10},
		}, []string{"route", "method", "status"}),
	}
	m.registry.MustRegister(m.letters, m.decisions, m.seconds, queues{c}, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	for _, d := range []string{"in", "out"} {
		m.letters.WithLabelValues(d)
	}
	c.App.Done = m.done
	return m
}

// done counts a step that was carried out.
func (m *metrics) done(cmd work.Command) {
	decision, decided := strings.CutPrefix(cmd.Kind, "decide:")
	switch {
	case decided:
		m.decisions.WithLabelValues(decision, cmd.Actor).Inc()
	case cmd.Kind == "arrive":
		m.letters.WithLabelValues("in").Inc()
	case cmd.Kind == "sent":
		m.letters.WithLabelValues("out").Inc()
	}
}

// timed measures a request. Streams of changes last as long as somebody looks.
func (m *metrics) timed(c *gin.Context) {
	began := time.Now()
	c.Next()
	route := c.FullPath()
	if route == "" {
		route = "the page"
	}
	if route == "/api/events" {
		return
	}
	m.seconds.WithLabelValues(route, c.Request.Method, strconv.Itoa(c.Writer.Status())).Observe(time.Since(began).Seconds())
}

// queues tells what waits, when it is asked.
type queues struct{ Config }

var (
	waitingDesc = prometheus.NewDesc("ebbe_waiting", "What waits: letters to leave, conversations to be told to mail servers, events that failed.", []string{"what"}, nil)
	lateDesc    = prometheus.NewDesc("ebbe_due_late_seconds", "How late the next event that has come due is; 0 while none waits.", nil, nil)
)

// Describe and Collect make it a collector.
func (q queues) Describe(to chan<- *prometheus.Desc) {
	to <- waitingDesc
	to <- lateDesc
}

// Collect asks the database.
func (q queues) Collect(to chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	waits, err := q.App.Store.Waits(ctx)
	if err != nil {
		to <- prometheus.NewInvalidMetric(waitingDesc, err)
		return
	}
	for what, n := range map[string]int64{"sends": waits.Sends, "sync": waits.Sync, "failed": waits.Failed} {
		to <- prometheus.MustNewConstMetric(waitingDesc, prometheus.GaugeValue, float64(n), what)
	}
	late := 0.0
	if next, ok, err := q.App.Store.NextDue(ctx, nil); err == nil && ok {
		late = max(0, q.App.Now().Sub(next.Due).Seconds())
	}
	to <- prometheus.MustNewConstMetric(lateDesc, prometheus.GaugeValue, late)
}

// watched serves what is asked by whoever runs Ebbe, by whatever name, before all else:
// whether it is healthy, and what is measured. The latter is for this machine, or for
// whoever has the token.
func (s *server) watched(next http.Handler) http.Handler {
	measured := promhttp.HandlerFor(s.metrics.registry, promhttp.HandlerOpts{})
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/healthz":
			s.healthy(w, r)
		case r.URL.Path == "/metrics" && (s.hasToken(r) || direct(r)):
			measured.ServeHTTP(w, r)
		case r.URL.Path == "/metrics":
			refuse(w, errNoSuchThing)
		default:
			next.ServeHTTP(w, r)
		}
	})
}

func (s *server) hasToken(r *http.Request) bool {
	given, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	return ok && s.MetricsToken != "" && subtle.ConstantTimeCompare([]byte(given), []byte(s.MetricsToken)) == 1
}

// direct tells that a request comes from this machine itself, not from somebody else by
// way of a proxy on it.
func direct(r *http.Request) bool {
	for _, name := range []string{"X-Forwarded-For", "Forwarded", "X-Real-Ip", "Via"} {
		if r.Header.Get(name) != "" {
			return false
		}
	}
	for _, at := range []string{r.RemoteAddr, r.Host} {
		host, _, err := net.SplitHostPort(at)
		if err != nil {
			host = at
		}
		if ip := net.ParseIP(strings.Trim(host, "[]")); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			return false
		}
	}
	return true
}

// healthy answers whether Ebbe can work: it reads its database.
func (s *server) healthy(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 5*time.Second)
	defer cancel()
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	answer := "ok\n"
	if _, err := s.App.Store.Waits(ctx); err != nil {
		s.Log.Error("not healthy", "reason", err)
		w.WriteHeader(http.StatusServiceUnavailable)
		answer = "The database can’t be read.\n"
	}
	_, _ = io.WriteString(w, answer)
}
