package demo

import (
	"crypto/ed25519"
	"crypto/sha256"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"ivelt/core/desk"
	"ivelt/core/signed"
	"ivelt/standin"
)

// breakwaterKey is the vendor's of Breakwater. It is no secret: all of it is invented.
var breakwaterKey = func() ed25519.PrivateKey {
	seed := sha256.Sum256([]byte("Breakwater, of Tidewatch"))
	return ed25519.NewKeyFromSeed(seed[:])
}()

var cobble = themeColours{"#e9e8e4", "#26292c", "#f8f7f4", "#3d6a86", "#f6f8fa", "#c6c4bc", "#dcdad4", 2}

// breakwaterLook is a look of the vendor's, with its card and its signature, below
// breakwater/looks.
func breakwaterLook(name string, c themeColours, accent string) files {
	theme := windowTheme(name, "As it comes", c, 6, nil, "Foreshore", "Sandpiper")
	look := files{
		"breakwater/look.css":     theme["quayside/shell.css"],
		"breakwater/programs.css": theme["gtk-4.0/gtk.css"],
	}
	look.add(theme.only("assets/"))
	var sums []signed.Sum
	for at, b := range look {
		sums = append(sums, signed.Sum{Path: at, SHA256: signed.Digest(b)})
	}
	out := look.under(name)
	out[name+".card"] = []byte("[Card]\nlook=" + name + "\nprograms=" + name + "\naccent=" + accent + "\n")
	out[name+".signature"] = signed.Make(breakwaterKey, name, signed.Lines(sums))
	return out
}

// makeTurnstone makes the desk that is under its vendor's lock.
func makeTurnstone(dir string) error {
	home, system := dir+"/home", dir+"/system"
	tree := files{}
	tree.programs("ledge", "bittern")
	tree.entries()
	tree.add(breakwaterLook("Cobble", cobble, "#3d6a86").under("breakwater/looks"))
	key := signed.Public(breakwaterKey)
	tree["breakwater/keys/vendor.key"] = []byte(key + "\n")
	tree["breakwater/keys/makers.ring"] = []byte("[Makers]\nvendor=" + key + "\n")
	tree["breakwater/release"] = []byte("[Release]\nversion=5.1.3\n")
	tree["breakwater/desk.conf"] = []byte("# As Breakwater comes.\n[Desk]\nlook=Cobble\nprograms=Cobble\n\n[Bar]\npinned=shore-files;shore-web;shore-mail;shore-terminal;bird-log;shore-music\n")
	tree["breakwater/picket/picket.conf"] = []byte("[Picket]\nwatch=on\n")
	tree["breakwater/picket/known.conf"] = []byte("[Known]\n")
	if err := tree.icons(); err != nil {
		return err
	}
	letters, err := estuary("Estuary Sans")
	if err != nil {
		return err
	}
	tree.add(letters.under("usr/share/fonts/truetype"))
	tree["etc/fonts/fonts.conf"] = []byte(fontsConf)
	for _, s := range shores {
		tree["breakwater/backdrops/"+s.name+".svg"] = s.svg()
	}
	tree["breakwater/volumes.conf"] = []byte("[Volumes]\nTide gauge=stick\nStation=disk\n")
	tree["usr/share/ledge/ledge.conf"] = []byte("[Ledge]\nreleases=>= 4, < 5.3\n")
	tree["etc/machine-id"] = []byte("c4e1f09ad3b24b7f9d0e6a5187b2c3d4\n")
	tree["sys/class/drm/card0-HDMI-A-1/status"], tree["sys/class/drm/card0-HDMI-A-1/modes"] = []byte("connected\n"), []byte("1920x1080\n")
	if err := settle(home, system, tree, turnstoneFiles); err != nil {
		return err
	}
	b, err := kitArchive()
	if err != nil {
		return err
	}
	if err := write(filepath.Join(home, "Downloads/reedbed-kit-0.4.zip"), b); err != nil {
		return err
	}
	if err := standin.List(standin.Root{Home: home, System: system}); err != nil {
		return err
	}
	return start(home, system, standin.Breakwater, standin.Bittern)
}

// turnstoneFiles are as their person left them.
var turnstoneFiles = map[string]string{
	".breakwater/desk.conf":     "# the calm one\n[Desk]\nbackdrop=/breakwater/backdrops/low-water.svg\naccent=#2f7f8c\n",
	"Documents/tides-march.csv": "day,high,low\n1,3.41,0.62\n",
	"Documents/permit.txt":      "Granted until the equinox.\n",
	"Downloads/readme.txt":      "Old things here.\n",
}

// Locked is what there is to a desk under a lock: how a mark of the system's own is made, and
// what its world does to it by itself. Nothing for the others.
func Locked(d *desk.Desk) (mark func(note string) error, simulated map[string]func() (string, error)) {
	if _, lock := d.Locked(); lock == nil {
		return nil, nil
	}
	on := Outside(d)
	return func(note string) error {
			_, err := standin.Mark(on, note)
			return err
		}, map[string]func() (string, error){
			"update": func() (string, error) {
				to, err := standin.Update(on)
				if err == nil {
					err = standin.Breakwater.Start(on)
				}
				return "Breakwater is at " + to + " now.", err
			},
			"round": func() (string, error) {
				before := aside(on)
				err := standin.Round(on)
				found := slices.DeleteFunc(aside(on), func(name string) bool { return slices.Contains(before, name) })
				if len(found) == 0 {
					return "Picket went round, and set nothing aside.", err
				}
				return "Picket went round: it set aside " + strings.Join(found, ", ") + ".", err
			},
		}
}

// aside are the files that the watchman has set aside.
func aside(on standin.Root) (out []string) {
	all, err := os.ReadDir(filepath.Join(on.System, "breakwater/picket/aside"))
	if err != nil {
		return nil
	}
	for _, e := range all {
		out = append(out, e.Name())
	}
	return out
}
