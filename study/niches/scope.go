package niches

// Scope is which ideas of a niche are grouped. What was dropped is in none; what was put aside to write
// is in all.
type Scope string

// The scopes.
const (
	ScopeKept   Scope = "kept"
	ScopeLooked Scope = "looked up"
	ScopeAll    Scope = "whole niche"
)

// Scopes lists them.
var Scopes = []Scope{ScopeKept, ScopeLooked, ScopeAll}
