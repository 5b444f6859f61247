package demo

import (
	"fmt"
	"strings"

	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/gomonobold"
	"golang.org/x/image/font/gofont/goregular"

	"ivelt/core/fontfile/fontwrite"
)

// estuary makes the family Estuary from the Go fonts (BSD, Bigelow & Holmes),
// which may be changed under another name.
func estuary(family string) (files, error) {
	styles := map[string][]byte{"Regular": goregular.TTF, "Bold": gobold.TTF, "Italic": goitalic.TTF, "Bold Italic": gobolditalic.TTF}
	if strings.HasSuffix(family, "Mono") {
		styles = map[string][]byte{"Regular": gomono.TTF, "Bold": gomonobold.TTF}
	}
	folder := strings.ToLower(strings.ReplaceAll(family, " ", "-"))
	out := files{folder + "/LICENSE": []byte("Estuary is made from the Go fonts, copyright Bigelow & Holmes, under the BSD 3-clause licence.\n")}
	for style, ttf := range styles {
		b, err := fontwrite.Renamed(ttf, names(family, style), nil)
		if err != nil {
			return nil, err
		}
		out[folder+"/"+strings.ReplaceAll(family+"-"+style, " ", "")+".ttf"] = b
	}
	return out, nil
}

func names(family, style string) map[int]string {
	return map[int]string{
		0: "Copyright Bigelow & Holmes; renamed for the demo", 1: family, 2: style, 3: fmt.Sprintf("%s %s 1.0", family, style), 4: family + " " + style,
		5: "Version 1.0", 6: strings.ReplaceAll(family+"-"+style, " ", ""), 8: "Maud Pell", 13: "BSD-3-Clause",
	}
}
