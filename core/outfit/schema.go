package outfit

import (
	"encoding/json"

	"ivelt/core/desk"
	"ivelt/core/turning"
)

// Schema is the JSON Schema (draft 2020-12) of outfit files, for editors: a TOML
// file is held against it as the JSON document with the same keys and values. What
// it does not name is allowed, and kept.
func Schema() []byte {
	type object = map[string]any
	text := func(about string) object { return object{"type": "string", "description": about} }
	facets := object{}
	for _, f := range desk.Facets {
		value := object{"type": "string", "description": "what it is to be"}
		switch f.Takes {
		case desk.TakesShade, desk.TakesWord:
			value["enum"] = f.Words
		case desk.TakesEach:
			value["pattern"], value["description"] = "^(none|[^=;]+=/[^;]*(;[^=;]+=/[^;]*)*)$", "none, or monitors with the full paths of their pictures"
		case desk.TakesEffect:
			value["pattern"], value["description"] = "^(none|[a-z]+ [0-9]+ [a-z-]+)$", "its kind, how many milliseconds it takes, and how it gathers way"
		case desk.TakesColour:
			value["pattern"] = "^#[0-9a-fA-F]{6}$"
		case desk.TakesButtons:
			value["pattern"] = "^([a-z]+(,[a-z]+)*)?:([a-z]+(,[a-z]+)*)?$"
		case desk.TakesNumber:
			value["pattern"], value["description"] = "^[0-9]+$", "a whole number, in quotes"
		case desk.TakesPicture, desk.TakesProgram:
			value["pattern"] = "^/"
		}
		said := object{
			"except": object{"type": "object", "description": "surfaces that are to have another value, by their ID; \"\" for whatever they have", "additionalProperties": object{"type": "string"}},
		}
		required := []string{"value"}
		if f.Takes == desk.TakesPiece || f.Takes == desk.TakesFont {
			required = []string{"piece"}
			said["piece"] = text("the name that programs use for it")
		} else {
			said["value"] = value
		}
		if f.Takes == desk.TakesPiece || f.Takes == desk.TakesFont || f.Takes == desk.TakesPicture {
			said["version"] = text("its version, where it is known")
			said["source"] = text("where it can be had")
			said["licence"] = text("its licence, as an SPDX expression where it has one")
			said["checksum"] = object{"type": "string", "pattern": "^sha256:[0-9a-f]{64}$", "description": "of the parcel it came in"}
			said["recipe"] = text("what it is built from, if it is a layer over another piece")
		}
		if f.Takes == desk.TakesFont {
			required = append(required, "size")
			said["size"] = object{"type": "number", "minimum": 4, "maximum": 72, "description": "points"}
		}
		facets[f.Name] = object{"type": "object", "title": f.Title, "properties": said, "required": required}
	}
	halves := object{}
	for _, facet := range Turnable {
		halves[facet] = facets[facet]
	}
	clock := object{"type": "string", "pattern": "^([01][0-9]|2[0-3]):[0-5][0-9]$"}
	degrees := func(most int) object { return object{"type": "number", "minimum": -most, "maximum": most} }
	place := object{"type": "object", "description": "where the sun is looked at", "required": []string{"latitude", "longitude"},
		"properties": object{"latitude": degrees(90), "longitude": degrees(180)}}
	b, err := json.MarshalIndent(object{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Outfit", "description": "What a desk is to wear: one choice for each facet.",
		"type": "object", "required": []string{"format", "name"},
		"properties": object{
			"format": object{"const": Format}, "name": text("what it is called"), "about": text("a few words on it"),
			"facet": object{"type": "object", "properties": facets},
			"turn": object{"type": "object", "description": "when it turns between light and dark", "required": []string{"by"}, "properties": object{
				"by": object{"enum": turning.Ways}, "light": clock, "dark": clock, "at": place,
			}},
			"light": object{"type": "object", "description": "what is worn in the light, of each facet that the dark half has", "properties": halves},
			"dark":  object{"type": "object", "description": "what is worn in the dark", "properties": halves},
			"show": object{"type": "object", "description": "more than one backdrop", "properties": object{
				"folder": text("all pictures in it"), "pictures": object{"type": "array", "items": object{"type": "string", "pattern": "^/"}, "description": "instead of a folder"},
				"every": text("how long each stays: 10m, 1h30m"), "order": object{"enum": []turning.Order{turning.ByName, turning.ByChance}}, "battery": object{"enum": []string{turning.Pause}},
				"times": object{"type": "array", "description": "instead of all of these: a picture from a time of day on", "items": object{"type": "object", "required": []string{"from", "picture"}, "properties": object{
					"from": text("a time as 07:30, or dawn, sunrise, noon, sunset, dusk"), "picture": text("its full path"),
				}}},
				"at": place,
			}},
		},
	}, "", "  ")
	if err != nil {
		panic(err) // maps of plain values always marshal
	}
	return append(b, '\n')
}
