package frame

import "cleverniche/core/subject"

// Sides are what one may say of an idea's subject, by the names that forms use, and what is said once it is done.
var Sides = map[string]struct {
	Is   subject.Side
	Says string
}{
	"on":    {subject.On, "Marked %s as on the subject. Press u to undo."},
	"off":   {subject.Off, "Marked %s as off the subject. Press u to undo."},
	"clear": {subject.Untold, "Cleared your mark on %s. Press u to undo."},
}
