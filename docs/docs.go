// Package docs is what the application shows of its own documents.
package docs

import _ "embed"

// Scale tells what the numbers of the scale are like, in Markdown. It is written by
// cmd/calibrate.
//
//go:embed scale.md
var Scale []byte

// Glossary has each term once: what it means, how it is computed, where it is met.
//
//go:embed glossary.md
var Glossary []byte
