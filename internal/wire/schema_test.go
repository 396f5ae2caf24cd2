package wire

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"synaptor/internal/schematest"
)

// messages has a message of each type, by who says it.
var messages = map[string][]any{
	"A bridge": {Hello{Type: TypeHello, Controllers: []Controller{}}, Input{Type: TypeDown}, Battery{Type: TypeBattery}, Trouble{Type: TypeError}, Ack{Type: TypeAck}, Heartbeat{Type: TypeBeat}},
	"Synaptor": {Welcome{Type: TypeWelcome, Controllers: []Attached{}}, Refused{Type: TypeRefused, Versions: []int{1, 2}}, Controllers{Type: TypeControllers, Controllers: []Attached{}}, Face{Type: TypeFace}, Page{Type: TypePage}, Brightness{Type: TypeBrightness}, Dim{Type: TypeDim},
		Text{Type: TypeText}, Picture{Type: TypePicture, Data: []byte("x")}},
}

// published is the schema as it is published: a message is one of those.
func published(t *testing.T) *jsonschema.Schema {
	t.Helper()
	types := schematest.New(t, map[string]string{"synaptor/internal/wire": "../wire"})
	var all []any
	for _, says := range []string{"A bridge", "Synaptor"} {
		for _, m := range messages[says] {
			all = append(all, types.Of(m))
		}
	}
	for name, said := range map[string][]string{"Hello": {TypeHello}, "Input": {TypeDown, TypeUp, TypeTurn, TypeSlide, TypeSwipe}, "Battery": {TypeBattery}, "Trouble": {TypeError}, "Ack": {TypeAck}, "Heartbeat": {TypeBeat},
		"Welcome": {TypeWelcome}, "Refused": {TypeRefused}, "Controllers": {TypeControllers}, "Face": {TypeFace}, "Page": {TypePage}, "Brightness": {TypeBrightness}, "Dim": {TypeDim}, "Text": {TypeText}, "Picture": {TypePicture}} {
		types.Defs[name].(map[string]any)["properties"].(map[string]any)["type"] = schematest.Object{"enum": said}
	}
	for _, d := range types.Defs {
		d.(map[string]any)["additionalProperties"] = true // members that are not known are ignored
	}
	return schematest.Published(t, "schema/wire-2.json", schematest.Object{"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": "urn:synaptor:wire:2", "title": "The wire of Synaptor",
		"description": "A message of the protocol between Synaptor and a bridge. docs/wire-protocol.md describes the conversation.", "oneOf": all, "$defs": types.Defs})
}

func TestTheSchemaIsPublishedAndEachMessageFollowsIt(t *testing.T) {
	s := published(t)
	for says, all := range messages {
		for _, m := range all {
			raw, err := json.Marshal(m)
			if err != nil {
				t.Fatal(err)
			}
			doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
			if err != nil {
				t.Fatal(err)
			}
			if err := s.Validate(doc); err != nil {
				t.Errorf("%s says %s: %v", says, raw, err)
			}
		}
	}
}
