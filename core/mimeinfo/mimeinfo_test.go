package mimeinfo_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/mimeinfo"
)

// After the Shared MIME-info Database 0.22, and the order of names of GLib.
func TestIcons(t *testing.T) {
	file := func(text string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(text)} }
	tree := fstest.MapFS{
		"home/mime/icons":        file("text/x-tide:shore-tide\n"),
		"home/mime/globs2":       file("# made by hand\n50:text/x-tide:*.tide\n50:text/plain:*.log\n"),
		"sys/mime/icons":         file("text/x-tide:never\n"),
		"sys/mime/generic-icons": file("application/zip:package-x-generic\nbroken\n"),
		"sys/mime/aliases":       file("application/x-zip application/zip\n"),
		"sys/mime/globs2":        file("50:text/plain:*.txt\n50:text/plain:*.log\n80:application/zip:*.zip:cs\n50\n50:inode/odd:__NOGLOBS__\n"),
	}
	d := mimeinfo.Read(tree, []string{"gone", "home/mime", "sys/mime"})
	require.Equal(t, []string{"application/zip", "inode/odd", "text/plain", "text/x-tide"}, d.Kinds())
	require.Equal(t, []string{"*.log", "*.txt"}, d.Patterns("text/plain"))
	require.Empty(t, d.Patterns("inode/odd"))
	require.Equal(t, []string{"shore-tide", "text-x-tide", "text-x-generic", "shore-tide-symbolic", "text-x-tide-symbolic", "text-x-generic-symbolic"}, d.Icons("text/x-tide"))
	require.Equal(t, []string{"application-zip", "package-x-generic", "application-zip-symbolic", "package-x-generic-symbolic"}, d.Icons("application/zip"))
	require.Equal(t, []string{"application-x-zip", "application-x-generic", "application-x-zip-symbolic", "application-x-generic-symbolic"}, d.Icons("application/x-zip"))
	require.Equal(t, []string{"audio-ogg", "audio-x-generic", "audio-ogg-symbolic", "audio-x-generic-symbolic"}, d.Icons("audio/ogg"))
}
