package frame

import "cleverniche/core/subject"

// Sides are what one may say of an idea's subject, by the names that forms use, and what is said once it is done.
var Sides = map[string]struct {
	Is   subject.Side
	Says string
}{
	"on":    {subject.On, "Put %s on the subject. Press u to undo."},
	"off":   {subject.Off, "Put %s off the subject. Press u to undo."},
	"clear": {subject.Untold, "What you said of %s is taken back. Press u to undo."},
}
