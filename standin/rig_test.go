package standin_test

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/stretchr/testify/require"

	"ivelt/standin"
)

// picture puts a small PNG at a path of the desk.
func (r rig) picture(p string) {
	im := image.NewRGBA(image.Rect(0, 0, 4, 4))
	im.Set(1, 1, color.White)
	var b bytes.Buffer
	require.NoError(r.t, png.Encode(&b, im))
	r.put(p, b.String())
}

// sixteen is a palette as X resources.
var sixteen = func() string {
	var b strings.Builder
	b.WriteString("*.background: #101418\n*.foreground: #e0e0dc\n")
	for i := range 16 {
		fmt.Fprintf(&b, "*.color%d: #%02x8060\n", i, 16*i)
	}
	return b.String()
}()

// vendor is the key of the rig's vendor of signed looks.
var vendor = ed25519.NewKeyFromSeed(make([]byte, ed25519.SeedSize))

// sign signs the look of Breakwater in a folder, as whoever has a key does.
func (r rig) sign(look string, key ed25519.PrivateKey) {
	at := r.host("/breakwater/looks/" + look)
	var lines []string
	require.NoError(r.t, filepath.WalkDir(at, func(name string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		b, err := os.ReadFile(name)
		lines = append(lines, fmt.Sprintf("%x  %s\n", sha256.Sum256(b), strings.TrimPrefix(name, at+"/")))
		return err
	}))
	slices.SortFunc(lines, func(a, b string) int { return strings.Compare(a[64:], b[64:]) })
	sum := fmt.Sprintf("%x", sha256.Sum256([]byte(strings.Join(lines, ""))))
	encode := base64.StdEncoding.EncodeToString
	r.put("/breakwater/looks/"+look+".signature", "[Signature]\nby="+encode(key.Public().(ed25519.PublicKey))+"\ncontents="+sum+"\nsignature="+
		encode(ed25519.Sign(key, []byte("look "+look+"\n"+sum+"\n")))+"\n")
}

// locked puts a Breakwater on the desk with looks that its vendor signed.
func (r rig) locked(release string, looks ...string) {
	r.put("/etc/machine-id", "00112233445566778899aabbccddeeff\n")
	r.put("/breakwater/release", "[Release]\nversion="+release+"\n")
	key := base64.StdEncoding.EncodeToString(vendor.Public().(ed25519.PublicKey))
	r.put("/usr/bin/ledge", "")
	r.put("/breakwater/picket/picket.conf", "[Picket]\nwatch=on\n")
	r.put("/breakwater/keys/vendor.key", key+"\n")
	r.put("/breakwater/keys/makers.ring", "[Makers]\nvendor="+key+"\n")
	for _, name := range looks {
		r.put("/breakwater/looks/"+name+"/breakwater/look.css", "panel { color: white; }\n")
		r.put("/breakwater/looks/"+name+"/breakwater/programs.css", "window { color: black; }\n")
		r.sign(name, vendor)
	}
	require.NoError(r.t, standin.List(r.Root))
}
