package ask

import (
	"context"

	"cleverniche/market"
)

// registrations is the question whether a domain is registered.
var registrations = Service{Question: Names, Life: 7 * Day, Address: "address of an RDAP service",
	Price: "price of asking for one name", Source: "the registry", StandIn: "/rdap",
	Connect: func(m *Market, at Connection) { m.Registry = market.NewRegistry(at.Source) }}

// Registration asks whether a domain is registered.
func (s *Asker) Registration(ctx context.Context, domain string) (Asked[market.Registration], error) {
	if s.market.Registry == nil {
		return Asked[market.Registration]{}, &MissingSourceError{Names}
	}
	return Ask(ctx, s, Names, domain, func(ctx context.Context) (market.Registration, error) {
		return s.market.Registry.Registered(ctx, domain)
	})
}
