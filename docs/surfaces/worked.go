// Package surfaces has worked examples of descriptors, for programs of kinds that there are
// and of invented names: each a folder with the descriptor and what it is held against.
package surfaces

import "embed"

// Worked are the folders, ID/ID.toml and ID/examples.
//
//go:embed all:barnaclock all:cockleshelf all:foreshore all:gullcall all:gunwale all:jettytalk all:marshterm all:pagewrack all:reedpen all:shantyplay all:shellnote all:sluicelock
var Worked embed.FS
