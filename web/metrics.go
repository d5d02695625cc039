package web

import (
	"context"
	"strconv"

	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/adaptor"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// metrics are the figures that are told to Prometheus. None holds an address's words, a phrase or
// a secret.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	took     *prometheus.HistogramVec
}

func newMetrics(s *study.Study) *metrics {
	m := &metrics{registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "cleverniche_requests_total",
			Help: "Requests, by method, route and status."}, []string{"method", "route", "status"}),
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "cleverniche_request_seconds",
			Help: "Seconds that requests took, by route."}, []string{"route"})}
	m.registry.MustRegister(m.requests, m.took, work{s}, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// count counts a request once it is answered, by the pattern of its route.
func (m *metrics) count(s *study.Study) fiber.Handler {
	return func(c fiber.Ctx) error {
		begun := s.Now()
		err := c.Next()
		route := c.Route().Path
		m.requests.WithLabelValues(c.Method(), route, strconv.Itoa(c.Response().StatusCode())).Inc()
		m.took.WithLabelValues(route).Observe(s.Now().Sub(begun).Seconds())
		return err
	}
}

func (m *metrics) handler() fiber.Handler {
	return adaptor.HTTPHandler(promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{}))
}

// work is the study's figures, read when they are asked for.
type work struct{ study *study.Study }

var (
	jobsFigure = prometheus.NewDesc("cleverniche_jobs", "Jobs, by kind and state.", []string{"kind", "state"}, nil)
	lookups    = prometheus.NewDesc("cleverniche_lookups_total",
		"Questions put to the outside since the program began, by "+
			"what is asked and how it ended.", []string{"question", "outcome"}, nil)
	spentFigure = prometheus.NewDesc("cleverniche_spent", "Money spent by the ledger, in units of the currency.",
		[]string{"currency", "span"}, nil)
)

// Describe implements prometheus.Collector.
func (w work) Describe(out chan<- *prometheus.Desc) {
	out <- jobsFigure
	out <- lookups
	out <- spentFigure
}

// Collect implements prometheus.Collector.
func (w work) Collect(out chan<- prometheus.Metric) {
	f, err := w.study.Figures(context.Background())
	if err != nil {
		out <- prometheus.NewInvalidMetric(spentFigure, err)
		return
	}
	for _, j := range f.Jobs {
		out <- prometheus.MustNewConstMetric(jobsFigure, prometheus.GaugeValue, float64(j.Jobs), j.Kind, j.State)
	}
	for at, n := range f.Lookups {
		out <- prometheus.MustNewConstMetric(lookups, prometheus.CounterValue, float64(n), string(at.Question), at.Outcome)
	}
	for span, micros := range map[string]int64{"today": f.Today, "ever": f.Ever} {
		out <- prometheus.MustNewConstMetric(spentFigure, prometheus.GaugeValue, float64(micros)/1e6,
			w.study.Ask.Currency(), span)
	}
}
