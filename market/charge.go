package market

import (
	"context"
	"errors"
	"net"
	"net/http"
)

// Charge is whether a try of a question has to be paid for.
type Charge int

// The charges. A source that declines, or says to come later, charges nothing (common practice,
// no source); one that was asked and not heard may have charged.
const (
	Unsure Charge = iota
	Free
	Due
)

// Meter is told of the tries of a question that costs money. The first one is on before the
// question is put.
type Meter interface {
	// May reports whether another try can be afforded; Again begins it, after one that was Free.
	May() bool
	Again()
}

type meterKey struct{}

// WithMeter puts a meter to the question that is asked under a context.
func WithMeter(ctx context.Context, m Meter) context.Context {
	return context.WithValue(ctx, meterKey{}, m)
}

func meterOf(ctx context.Context) Meter {
	m, _ := ctx.Value(meterKey{}).(Meter)
	return m
}

// ChargeOf is what a question that ended with an error cost.
func ChargeOf(err error) Charge {
	var e *Error
	if !errors.As(err, &e) {
		return Unsure
	}
	switch {
	case e.Charge != Unsure:
		return e.Charge
	case e.Trouble == Refused:
		return Free
	case e.Trouble == Malformed:
		return Due
	}
	return Unsure
}

// chargeOfTry is what a try cost that is made again: it was declined for now, or broke off.
func chargeOfTry(resp *http.Response, err error) Charge {
	if err == nil && resp != nil {
		return Free
	}
	return chargeOfBreak(err)
}

// chargeOfBreak is what a request cost that was not answered: nothing, if it never got there.
func chargeOfBreak(err error) Charge {
	var op *net.OpError
	var name *net.DNSError
	if errors.As(err, &op) && op.Op == "dial" || errors.As(err, &name) || errors.Is(err, ErrPrivate) {
		return Free
	}
	return Unsure
}
