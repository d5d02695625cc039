package idea

import (
	"cleverniche/web/filters"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// along tells which ideas stand before and after one in a list with the sieve of the address; 0 is none.
func along(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	by, _, b, err := filters.Sifting(r)
	if err != nil {
		return err
	}
	left := b.Pass(by)
	out := fiber.Map{"before": 0, "after": 0, "place": 0, "of": left.Count}
	if place, ok := left.Place(id); ok {
		out["place"] = place + 1
		around := left.IDs(max(0, place-1), 3)
		for i, other := range around {
			if other == id {
				if i > 0 {
					out["before"] = around[i-1]
				}
				if i+1 < len(around) {
					out["after"] = around[i+1]
				}
			}
		}
	}
	return r.JSON(out)
}
