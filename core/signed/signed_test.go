package signed_test

import (
	"crypto/ed25519"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"ivelt/core/signed"
)

// vectors are tests 1 to 3 of RFC 8032, section 7.1: secret key, public key, message, signature.
var vectors = [][4]string{
	{"9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60", "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a", "",
		"e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b"},
	{"4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb", "3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c", "72",
		"92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00"},
	{"c5aa8df43f9f837bedb7442f31dcb7b166d38535076f094b85ce3a2e0b4458f7", "fc51cd8e6218a1a38da47ed00230f0580816ed13ba3303ac5deb911548908025", "af82",
		"6291d657deec24024827e69c3abe01a30ce548a284743a445e3680d7db5ac3ac18ff9b538d16f290ae67f760984dc6594a7c15e9716ed28dc027beceea1ec40a"},
}

func unhex(t *testing.T, text string) []byte {
	b, err := hex.DecodeString(text)
	require.NoError(t, err)
	return b
}

// TestKeysAreThoseOfTheStandard: what a key signs, and which it is, are as RFC 8032 has them.
func TestKeysAreThoseOfTheStandard(t *testing.T) {
	for _, v := range vectors {
		key := ed25519.NewKeyFromSeed(unhex(t, v[0]))
		require.Equal(t, base64.StdEncoding.EncodeToString(unhex(t, v[1])), signed.Public(key))
		require.Equal(t, unhex(t, v[3]), ed25519.Sign(key, unhex(t, v[2])))
		public, err := signed.Key(signed.Public(key))
		require.NoError(t, err)
		require.True(t, ed25519.Verify(public, unhex(t, v[2]), unhex(t, v[3])))
	}
}

// TestListIsThatOfSha256sum (coreutils).
func TestListIsThatOfSha256sum(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{"breakwater/look.css": "panel{}", "a b": "x", "Z": "", "breakwater/é.svg": "<svg/>", "b": "y"} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	c := exec.Command("sh", "-c", `LC_ALL=C; export LC_ALL; find . -type f | sed 's|^\./||' | sort | tr '\n' '\0' | xargs -0 sha256sum`)
	c.Dir = dir
	want, err := c.Output()
	require.NoError(t, err)
	got, err := signed.List(os.DirFS(dir), ".")
	require.NoError(t, err)
	require.Equal(t, string(want), string(got))
	for _, odd := range []func(at string) error{
		func(at string) error { return syscall.Mkfifo(at, 0o600) },
		func(at string) error { return os.Symlink("b", at) },
		func(at string) error { return os.WriteFile(at+"\n", nil, 0o600) }, // sha256sum writes these otherwise
	} {
		at := filepath.Join(dir, "odd")
		require.NoError(t, odd(at))
		_, err = signed.List(os.DirFS(dir), ".")
		require.ErrorIs(t, err, signed.ErrOdd)
		require.NoError(t, errors.Join(os.RemoveAll(at), os.RemoveAll(at+"\n")))
	}
}

// TestOnlyWhatWasSigned: any change of a look, of its name, or of its signature is found.
func TestOnlyWhatWasSigned(t *testing.T) {
	key := ed25519.NewKeyFromSeed(unhex(t, vectors[0][0]))
	tree := fstest.MapFS{"look.css": {Data: []byte("panel{}")}, "more/a.svg": {Data: []byte("<svg/>")}}
	list, err := signed.List(tree, ".")
	require.NoError(t, err)
	file := signed.Make(key, "Dune", list)
	by, err := signed.By("Dune", list, file)
	require.NoError(t, err)
	require.Equal(t, signed.Public(key), by)
	_, err = signed.By("Reef", list, file)
	require.ErrorIs(t, err, signed.ErrChanged)
	_, err = signed.By("Dune", list, nil)
	require.ErrorIs(t, err, signed.ErrNone)
	other := ed25519.NewKeyFromSeed(unhex(t, vectors[1][0]))
	_, err = signed.By("Dune", list, []byte(strings.Replace(string(file), signed.Public(key), signed.Public(other), 1)))
	require.ErrorIs(t, err, signed.ErrChanged)
	for i := range file { // no byte of it may be another, but in what does not count
		bad := []byte(string(file))
		bad[i] ^= 1
		if who, err := signed.By("Dune", list, bad); err == nil {
			require.Equal(t, by, who)
		}
	}
	for name, change := range map[string]func(fstest.MapFS){
		"another byte": func(f fstest.MapFS) { f["look.css"] = &fstest.MapFile{Data: []byte("panel{ }")} },
		"one more":     func(f fstest.MapFS) { f["more/b.svg"] = &fstest.MapFile{} },
		"one gone":     func(f fstest.MapFS) { delete(f, "more/a.svg") },
		"renamed":      func(f fstest.MapFS) { f["more/c.svg"] = f["more/a.svg"]; delete(f, "more/a.svg") },
	} {
		changed := fstest.MapFS{"look.css": tree["look.css"], "more/a.svg": tree["more/a.svg"]}
		change(changed)
		list, err := signed.List(changed, ".")
		require.NoError(t, err)
		_, err = signed.By("Dune", list, file)
		require.ErrorIs(t, err, signed.ErrChanged, name)
	}
}
