package config

import "encoding/json"

// Schema is the JSON Schema (draft 2020-12) of the person's file, for editors: a TOML file is held
// against it as the JSON document with the same keys and values.
func Schema() []byte {
	type object = map[string]any
	properties := object{}
	for _, s := range All {
		of := object{"description": s.Says, "type": "string"}
		if s.Kind == Switch {
			of["type"] = "boolean"
		}
		if s.Kind == Word {
			of["enum"] = s.Words
		}
		if s.Kind == Path {
			of["pattern"] = "^/"
		}
		if s.Usual != "" {
			of["default"] = s.Usual
		}
		if s.Kind == Switch {
			of["default"] = s.Usual == "true"
		}
		properties[s.Key] = of
	}
	b, err := json.MarshalIndent(object{
		"$schema":              "https://json-schema.org/draft/2020-12/schema",
		"title":                "Settings of Ivelt itself",
		"type":                 "object",
		"properties":           properties,
		"additionalProperties": false,
	}, "", "  ")
	if err != nil {
		panic(err) // of constants
	}
	return append(b, '\n')
}
