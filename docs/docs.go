// Package docs is what the application shows of its own documents.
package docs

import "embed"

// Scale tells what the numbers of the scale are like, in Markdown. It is written by
// cmd/calibrate.
//
//go:embed scale.md
var Scale []byte

// Glossary has each term once: what it means, how it is computed, where it is met.
//
//go:embed glossary.md
var Glossary []byte

// Guide is the user's guide, a page a stage, and what one needs besides, in Markdown: guide/NAME.md. Its pictures are
// in screenshots.
//
//go:embed guide/*.md screenshots/judge.png screenshots/gather.png screenshots/sift.png screenshots/story.png
//go:embed screenshots/group.png screenshots/sheet.png screenshots/case.png screenshots/rivals.png
//go:embed screenshots/rival.png screenshots/openings.png screenshots/monday.png screenshots/watch.png
//go:embed screenshots/right.png screenshots/mine.png
var Guide embed.FS

// Sources says how any service is asked, Unlinked what forecasts are worth where nobody knows who links to a page.
//
//go:embed sources.md
var Sources []byte

//go:embed unlinked.md
var Unlinked []byte

// Case is how far what the case says is to be trusted, as measured.
//
//go:embed case-measured.md
var Case []byte

// SourceFiles are examples of files that describe services, and their schema.
//
//go:embed sources/*.yaml sources.schema.json
var SourceFiles embed.FS
