package layer

import (
	"encoding/json"

	"ivelt/core/pointerset"
)

// Schema is the JSON Schema (draft 2020-12) of recipes, for editors: a TOML file is held
// against it as the JSON document with the same keys and values.
func Schema() []byte {
	type object = map[string]any
	text := func(about string) object { return object{"type": "string", "description": about} }
	closed := func(required []string, properties object) object {
		return object{"type": "object", "required": required, "properties": properties, "additionalProperties": false}
	}
	texts := object{"type": "object", "additionalProperties": object{"type": "string"}}
	parts := object{"type": "array", "items": object{"type": "string", "pattern": partName.String()}, "description": "folders of the theme, such as gtk-3.0"}
	b, err := json.MarshalIndent(object{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Layer", "description": "Changes to a piece, laid anew over each update of it.",
		"type": "object", "required": []string{"format", "name", "folder", "base"}, "additionalProperties": false,
		"properties": object{
			"format": object{"const": Format}, "name": text("what people see"), "about": text("a few words on it"),
			"folder": object{"type": "string", "pattern": folderName.String(), "description": "what programs ask for"},
			"base": closed([]string{"kind", "folder"}, object{
				"kind": object{"enum": Kinds}, "folder": text("the name that programs use for the piece"),
				"within": text("the folder of the piece itself in which it lies, of pointers that were converted"), "version": text("its version, where it is known"),
				"licence": text("its licence, as an SPDX expression where it has one"), "source": text("where it can be had"),
				"checksum": object{"type": "string", "pattern": "^sha256:[0-9a-f]{64}$", "description": "of its files when the recipe was held against it; ivelt writes it"},
			}),
			"colour": object{"type": "array", "description": "colours that the theme names, with other values", "items": closed([]string{"name", "value"}, object{
				"name": object{"type": "string", "pattern": colourName.String()}, "value": text("as style sheets write colours"),
				"dark": text("in sheets for the dark, if another"), "parts": parts, "was": object{"type": "object", "additionalProperties": object{"type": "string"}, "description": "what the theme said, by sheet; ivelt writes it"},
			})},
			"rule": object{"type": "array", "description": "rules laid over those of the theme", "items": closed([]string{"parts", "selector", "set"}, object{
				"parts": parts, "selector": text("as style sheets write it"), "set": texts,
				"was": object{"type": "object", "additionalProperties": texts, "description": "what the theme said, by sheet and property; ivelt writes it"},
			})},
			"dye": object{"type": "array", "description": "icons in another colour, their shading kept", "items": closed([]string{}, object{
				"palette": object{"type": "array", "maxItems": maxPalette, "items": object{"type": "string", "pattern": plainHex.String()}, "description": "colours that all are mapped to by their hue, in the stead of to"},
				"icons":   object{"type": "array", "items": object{"type": "string"}, "description": "names, or patterns of them such as folder*; none for all"},
				"to":      object{"type": "string", "pattern": plainHex.String()}, "from": object{"type": "string", "pattern": plainHex.String(), "description": "the main colour; what the icons have most of, if it is not given"},
				"within":  object{"type": "number", "minimum": 0, "maximum": 180, "description": "degrees of hue around it that are changed; 0 for every hue"},
				"outline": object{"type": "string", "pattern": plainHex.String(), "description": "what the outline of pointers becomes; what it is, if it is not given"},
				"was":     text("the main colour when the recipe was held against the pack; ivelt writes it"),
			})},
			"move": object{"type": "array", "description": "one thing of the whole theme, wherever it says it", "items": closed([]string{"of", "to"}, object{
				"of": object{"enum": []string{MoveText, MoveFamily, MoveSpace, MoveRounding, MoveLines, MoveShade, MoveAccent}}, "to": text("120% of what the theme says; light or dark; of the accent its colour, #rrggbb; the name of a font"),
				"from":   object{"type": "string", "pattern": plainHex.String(), "description": "the theme's accent; what it shows selections in, if it is not given"},
				"within": object{"type": "number", "minimum": 0, "maximum": 180, "description": "degrees of hue around the accent that go with it; 30 if it is not given"},
				"was":    text("the theme's accent when the recipe was held against it; ivelt writes it"),
			})},
			"element": object{"type": "array", "description": "elements of a picture style, changed", "items": closed([]string{"name"}, object{
				"name": text("the element, as its engine calls it"), "from": text("what the drawing calls it"), "like": text("the element that it is a copy of"),
				"edges": text("px at its sides that do not stretch: one, two or four widths, clockwise from above"),
				"shape": object{"type": "integer", "minimum": 0, "description": "the shape in it that set is for, from 1; all of them, if it is not given"}, "set": texts,
				"was": object{"type": "object", "additionalProperties": object{"type": "string"}, "description": "what that shape said; ivelt writes it"},
			})},
			"icon": object{"type": "array", "description": "single icons of a pack", "items": closed([]string{"name"}, object{
				"name": object{"type": "string", "pattern": iconName.String(), "description": "as programs ask for it"}, "like": text("the icon of the pack whose picture it shows"),
				"picture": object{"type": "string", "contentEncoding": "base64", "description": "a picture of one's own, PNG or SVG"}, "from": text("a note of where the picture came from"),
			})},
			"pointer": object{"type": "array", "description": "single pointers of a set", "items": closed([]string{"name"}, object{
				"name": text("as programs ask for it"), "like": text("the name whose picture it shows, where the set has none of its own that can be read"),
				"hot":            object{"type": "string", "pattern": hotAt.String(), "description": "where its hot spot is in what is drawn: percent from the left and from the top"},
				"without":        object{"type": "array", "items": object{"type": "integer", "minimum": 1}, "description": "pictures of its motion that are left out, from 1"},
				"back_and_forth": object{"type": "boolean", "description": "its motion goes to the end and back again"},
				"pictures":       object{"type": "integer", "minimum": 1, "maximum": pointerset.MaxPictures, "description": "of a turn, in every size"},
				"turn":           object{"type": "integer", "minimum": 1, "maximum": pointerset.MaxTurn.Milliseconds(), "description": "ms that a turn lasts"},
			})},
			"every": closed([]string{}, object{
				"sizes":     object{"type": "array", "items": object{"type": "integer"}, "description": "px, made from the nearest where there is none"},
				"left_hand": object{"type": "boolean", "description": "what points is mirrored"},
			}),
			"convert": closed([]string{}, object{
				"sizes":  object{"type": "array", "items": object{"type": "integer"}, "description": "px; those of its own and the usual ones, if they are not given"},
				"scales": object{"type": "array", "items": object{"type": "number"}, "description": "that each size is made for; 1, if they are not given"},
			}),
			"lines": object{"type": "array", "description": "lines at the end of GTK 2's resource file", "items": closed([]string{"text"}, object{"text": text("as resource files are written")})},
		},
	}, "", "  ")
	if err != nil {
		panic(err) // maps of plain values always marshal
	}
	return append(b, '\n')
}
