package archive

import _ "embed"

// SchemaName is what the schema is called where it is published.
const SchemaName = "archive-6"

//go:embed schema/archive-6.json
var schema []byte

// Schema is the JSON Schema of what is in an archive of the format that is written: an object with each of its JSON files under the
// name of the file.
func Schema() []byte { return schema }
