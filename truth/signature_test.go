package truth

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/core/market"
)

// TestMarketsAreSignedAsMinisignDoes: minisign(1) (Debian: minisign) verifies what Ivelt signed
// and signs what Ivelt verifies, with keys of either; neither takes what
// was changed.
func TestMarketsAreSignedAsMinisignDoes(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	at := func(name string) string { return filepath.Join(dir, name) }
	write := func(name string, b []byte) {
		t.Helper()
		require.NoError(t, os.WriteFile(at(name), b, 0o600))
	}
	minisign := func(ok bool, args ...string) {
		t.Helper()
		c := exec.Command("minisign", args...)
		c.Dir = dir
		out, err := c.CombinedOutput()
		require.Equal(t, ok, err == nil, "%v: %s", args, out)
	}
	// Published and signed by Ivelt.
	secret, err := market.NewSecret()
	require.NoError(t, err)
	entries := func(yield func(market.Entry, error) bool) {
		yield(market.Entry{ID: "reef", Kind: "icons", Name: "Reef", Versions: []market.Version{{Version: "1", Date: "2026-01-01", File: "reef.zip", Size: 1, SHA256: "0000000000000000000000000000000000000000000000000000000000000000"}}}, nil)
	}
	_, err = market.Publish(t.Context(), dir, "Reef", "", entries, &secret, time.Now())
	require.NoError(t, err)
	minisign(true, "-Vm", market.IndexFile, "-p", market.KeyFile)
	index, err := os.ReadFile(at(market.IndexFile))
	require.NoError(t, err)
	write(market.IndexFile, append(index, ' '))
	minisign(false, "-Vm", market.IndexFile, "-p", market.KeyFile)

	// Signed by minisign with Ivelt's key, and by Ivelt with its.
	text := []byte("an index\n")
	write("text", text)
	plain, err := secret.File("")
	require.NoError(t, err)
	write("ivelt.key", plain)
	minisign(true, "-Sm", "text", "-s", "ivelt.key", "-W")
	signature, err := os.ReadFile(at("text.minisig"))
	require.NoError(t, err)
	key, _ := secret.Public()
	require.NoError(t, key.Verify(text, signature))
	require.ErrorIs(t, key.Verify(append(text, ' '), signature), market.ErrForged)
	minisign(true, "-G", "-W", "-p", "their.pub", "-s", "their.key")
	theirs, err := os.ReadFile(at("their.key"))
	require.NoError(t, err)
	other, err := market.ParseSecret(theirs, "")
	require.NoError(t, err)
	public, err := os.ReadFile(at("their.pub"))
	require.NoError(t, err)
	is, err := market.ParseKey(string(public))
	require.NoError(t, err)
	mine, _ := other.Public()
	require.Equal(t, is, mine)
	write("text.minisig", other.Sign(text, "serial:5"))
	minisign(true, "-Vm", "text", "-p", "their.pub")
	require.ErrorIs(t, key.Verify(text, other.Sign(text, "")), market.ErrForeign)
}
