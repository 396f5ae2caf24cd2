// Package docs has the documents, for the application to explain its parts with.
package docs

import "embed"

// Files are the documents.
//
//go:embed *.md
var Files embed.FS
