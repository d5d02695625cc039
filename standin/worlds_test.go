package standin

import (
	"os"
	"testing"
)

// onWorlds is said by tests that take minutes to look at whole worlds: they run where the rules or the stand-in
// changed, and always in CI (scripts/worlds-changed).
func onWorlds(t *testing.T) {
	t.Helper()
	if os.Getenv("WORLDS") == "unchanged" {
		t.Skip("the rules and the stand-in are as they were; make test-all runs this")
	}
}
