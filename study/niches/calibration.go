package niches

import (
	"fmt"
	"hash/fnv"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
)

// CalibrationName names the present constants: by when and on what they were found, and by a
// digest of them, so that no other ones are ever taken for them.
var CalibrationName = func() string {
	h := fnv.New32a()
	fmt.Fprint(h, difficulty.Calibrated, serp.Checklist, links.LinkGain)
	return fmt.Sprintf("%s, %08x", difficulty.Calibrated.Name, h.Sum32())
}()
