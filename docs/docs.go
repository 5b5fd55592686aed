// Package docs holds what users read, so that the program has it with it.
package docs

import "embed"

// Files are the documents for users in Markdown, and the schema of model files.
//
//go:embed guide.md model.md formulas.md materials.md units.md theory.md validation.md reliability.md model.schema.json
var Files embed.FS
