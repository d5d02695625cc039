package ask

import (
	"context"

	"cleverniche/market"
)

// registrations is the question whether a domain is registered.
var registrations = Service{Question: Names, Life: 7 * Day, Address: "address of an RDAP service",
	Price: "price of asking for one name", Source: "the registry", Says: "Whether a domain is free",
	StandIn: "/rdap",
	Connect: func(m *Market, at Connection) { m.Registry = market.NewRegistry(at.Source) }}

// Registration asks whether a domain is registered.
func (s *Asker) Registration(ctx context.Context, domain string) (Asked[market.Registration], error) {
	return put(ctx, s, Names, domain, func(ctx context.Context, c market.Registrar) (market.Registration, error) {
		return c.Registered(ctx, domain)
	})
}
