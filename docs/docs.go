// Package docs carries the documents that the application shows.
package docs

import _ "embed"

// Sheet is how a song is typed, in Markdown.
//
//go:embed sheet.md
var Sheet string
