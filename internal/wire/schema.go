package wire

import _ "embed"

// SchemaName is what the schema is called where it is published.
const SchemaName = "wire-2"

//go:embed schema/wire-2.json
var schema []byte

// Schema is the JSON Schema of the messages of the wire: each is one of them.
func Schema() []byte { return schema }
