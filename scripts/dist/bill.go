package main

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"os"
	"time"

	"github.com/CycloneDX/cyclonedx-go"
)

// bill is the list of all that is in a program, for machines (CycloneDX 1.6).
func (r release) bill(b built) ([]byte, error) {
	sum, err := sha256Of(b.File)
	if err != nil {
		return nil, err
	}
	self := "pkg:generic/ivelt@" + r.Version + "?arch=" + b.Arch
	bom := cyclonedx.NewBOM()
	bom.Metadata = &cyclonedx.Metadata{
		Timestamp: r.Date.Format(time.RFC3339),
		Component: &cyclonedx.Component{
			BOMRef: self, PackageURL: self, Type: cyclonedx.ComponentTypeApplication, Name: "ivelt", Version: r.Version,
			Licenses: &cyclonedx.Licenses{{License: &cyclonedx.License{ID: "MIT"}}},
			Hashes:   &[]cyclonedx.Hash{{Algorithm: cyclonedx.HashAlgoSHA256, Value: sum}},
		},
	}
	var all []cyclonedx.Component
	var refs []string
	for _, p := range b.Parts {
		all = append(all, cyclonedx.Component{
			BOMRef: p.URL, PackageURL: p.URL, Type: cyclonedx.ComponentTypeLibrary, Name: p.Name, Version: p.Version,
			Licenses: &cyclonedx.Licenses{{Expression: p.Licence}},
		})
		refs = append(refs, p.URL)
	}
	bom.Components, bom.Dependencies = &all, &[]cyclonedx.Dependency{{Ref: self, Dependencies: &refs}}
	var out bytes.Buffer
	e := cyclonedx.NewBOMEncoder(&out, cyclonedx.BOMFileFormatJSON).SetPretty(true).SetEscapeHTML(false)
	err = e.EncodeVersion(bom, cyclonedx.SpecVersion1_6)
	return out.Bytes(), err
}

func sha256Of(file string) (string, error) {
	f, err := os.Open(file)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := sha256.New()
	_, err = io.Copy(h, f)
	return hex.EncodeToString(h.Sum(nil)), err
}
