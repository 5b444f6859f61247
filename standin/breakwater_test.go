package standin_test

import (
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/desk"
	"ivelt/core/reading"
	"ivelt/standin"
)

const breakwaterShown = "~/.breakwater/shown.conf"

// says is what a key of the shown file says, "" if nothing.
func (r rig) says(key string) string {
	b, err := os.ReadFile(r.host(breakwaterShown))
	require.NoError(r.t, err)
	for line := range strings.Lines(string(b)) {
		if value, ok := strings.CutPrefix(strings.TrimSuffix(line, "\n"), key+"="); ok {
			return value
		}
	}
	return ""
}

// TestLocksAreReadAsTheyAre (Breakwater, rules 1 to 6): 300 desks by chance, of every release, with keys
// told as they have to be and otherwise, looks signed by everybody and nobody, and the watchman on
// or off. What is read of each beforehand, black or not, which keys are taken, which look is shown
// and why not another, is what the stand-in then does.
func TestLocksAreReadAsTheyAre(t *testing.T) {
	rnd := rand.New(rand.NewPCG(5, 31))
	any := func(all ...string) string { return all[rnd.IntN(len(all))] }
	owner := ed25519.NewKeyFromSeed(append(make([]byte, 31), 1))
	stranger := ed25519.NewKeyFromSeed(append(make([]byte, 31), 2))
	public := func(k ed25519.PrivateKey) string {
		return base64.StdEncoding.EncodeToString(k.Public().(ed25519.PublicKey))
	}
	seen := map[string]int{}
	for range 300 {
		r := rigOf(t)
		release := any("3.9.0", "4.0.0", "4.8.0", "5.1.3", "5.1.3", "5.2.1", "5.9.9", "6.0.0", "5.0.0-rc.1")
		r.locked(release, "Cobble")
		if rnd.IntN(2) == 0 {
			r.put("/breakwater/picket/picket.conf", "[Picket]\nwatch=off\n")
		}
		if rnd.IntN(2) > 0 {
			r.put("/breakwater/keys/owner.letter", "[Letter]\nkey="+any(public(owner), public(owner), public(owner), public(owner), "none", "")+"\nrelease="+any(release, release, release, release, release, "5.2.2")+
				"\ncomputer="+any("00112233445566778899aabbccddeeff", "00112233445566778899aabbccddeeff", "00112233445566778899aabbccddeeff", "another")+"\n")
		}
		if rnd.IntN(4) == 0 {
			r.put("/breakwater/keys/makers.ring", "[Makers]\nvendor="+public(vendor)+"\n"+any("mine="+public(owner)+"\n", "", "mine=no key\n"))
		}
		look := any("Basalt", "Cobble", "Reedbed", "Reedbed", "Reedbed", "Nowhere", "")
		r.put("~/.breakwater/desk.conf", "[Desk]\nlook="+look+"\n")
		r.put("/breakwater/looks/Reedbed/breakwater/"+any("look.css", "look.css", "look.css", "other.css"), "panel {}\n")
		r.put("/breakwater/looks/Reedbed/breakwater/programs.css", "window {}\n")
		if rnd.IntN(5) > 0 {
			r.sign("Reedbed", []ed25519.PrivateKey{owner, owner, vendor, stranger}[rnd.IntN(4)])
		}
		if rnd.IntN(5) == 0 {
			r.put("/breakwater/looks/Reedbed/breakwater/programs.css", "window { }\n")
		}
		known := "[Known]\n"
		for _, at := range []string{"keys/owner.letter", "keys/makers.ring", "looks/Reedbed.signature", "looks/Reedbed/breakwater/look.css", "looks/Reedbed/breakwater/other.css", "looks/Reedbed/breakwater/programs.css"} {
			if b, err := os.ReadFile(r.host("/breakwater/" + at)); err == nil && rnd.IntN(12) > 0 {
				known += fmt.Sprintf("/breakwater/%s=%x\n", at, sha256.Sum256(b))
			}
		}
		r.put("/breakwater/picket/known.conf", known)
		require.NoError(t, standin.Round(r.Root)) // so that nothing else is set aside when it starts

		d := r.desk()
		s, lock := d.Locked()
		black := reading.Black(d)
		owners := strings.Join(reading.Owners(d, lock), ";")
		f, _ := s.Facet(desk.FacetBar)
		at, why := reading.Find(d, f.Lookup, look)

		what := fmt.Sprintf("%s, %q, read %q, %q", release, look, black, owners)
		if standin.Breakwater.Start(r.Root) != nil {
			require.NotEmpty(t, black.Code, "%s: %s", what, r.says("why"))
			require.Equal(t, "yes", r.says("black"), what)
			seen["black"]++
			continue
		}
		require.Empty(t, black.Code, what)
		if ring := public(vendor); strings.HasPrefix(owners, ring) { // the ring has the vendor too
			owners = strings.TrimPrefix(strings.TrimPrefix(owners, ring), ";")
		}
		require.Equal(t, r.says("accepts"), owners, what)
		if refused := r.says("refused"); refused != "" {
			require.Error(t, why, "%s: %s", what, refused)
			require.Equal(t, "Basalt", r.says("look"), what)
			seen["refused"]++
			continue
		}
		require.NoError(t, why, what)
		require.Equal(t, look, r.says("look"), what)
		require.Equal(t, look == "Basalt", at == "", what)
		seen["shown "+look]++
	}
	for _, outcome := range []string{"black", "refused", "shown Cobble", "shown Reedbed", "shown Basalt"} {
		require.Greater(t, seen[outcome], 5, "%v", seen)
	}
	t.Log(seen)
}

// TestMarksGoBack (rule 7), and what an update brings (rule 8).
func TestMarksGoBack(t *testing.T) {
	r := rigOf(t)
	r.locked("4.8.0", "Cobble")
	r.put("~/.breakwater/desk.conf", "[Desk]\naccent=#112233\n")
	name, err := standin.Mark(r.Root, "before all")
	require.NoError(t, err)
	r.put("~/.breakwater/places.conf", "[Folders]\n")
	r.put("~/.breakwater/desk.conf", "[Desk]\naccent=#445566\n")
	r.put("/breakwater/keys/owner.letter", "x")
	to, err := standin.Update(r.Root)
	require.NoError(t, err)
	require.Equal(t, "5.1.3", to)
	require.NoFileExists(t, r.host("/breakwater/keys/owner.letter"))
	require.NoFileExists(t, r.host("~/.breakwater/places.conf"))
	_, err = standin.TypeAtBreakwater(r.Root, "sudo breakwater return "+name)
	require.NoError(t, err)
	text := func(at string) string {
		b, err := os.ReadFile(r.host(at))
		require.NoError(t, err)
		return string(b)
	}
	require.Contains(t, text("/breakwater/release"), "4.8.0")
	require.Equal(t, "[Desk]\naccent=#112233\n", text("~/.breakwater/desk.conf"))
	answer, err := standin.TypeAtBreakwater(r.Root, "breakwater marks")
	require.NoError(t, err)
	require.Equal(t, name, answer, "marks stay")
	require.NoError(t, os.Truncate(r.host("/breakwater/marks/"+name+"/files.tar"), 700))
	require.ErrorContains(t, standin.Return(r.Root, name), "cannot be read")
	require.Error(t, standin.Return(r.Root, "../.."))
	for range 3 {
		_, err = standin.Update(r.Root)
		require.NoError(t, err)
	}
	_, err = standin.Update(r.Root)
	require.NoError(t, err)
	_, err = standin.Update(r.Root)
	require.ErrorContains(t, err, "no newer")
}

// TestPlacesKeepTheirPictures (rule 10): what a place shows it keeps, until that is taken out; what
// is read of it says so.
func TestPlacesKeepTheirPictures(t *testing.T) {
	r := rigOf(t)
	r.locked("5.1.3")
	require.NoError(t, os.MkdirAll(r.host("~/Music"), 0o755))
	r.put("/breakwater/volumes.conf", "[Volumes]\nTIDE=stick\n")
	music, stick := "/home/mara/.breakwater/place-pictures/Shingle/folder-music.png", "/srv/stick.png"
	r.picture("~/.breakwater/place-pictures/Shingle/folder-music.png")
	r.put(stick, "one")
	read := func() reading.Reading {
		d := r.desk()
		s, _ := d.Surface("breakwater-places")
		f, _ := s.Facet(desk.FacetIcons)
		return reading.Told(d, s, f)
	}
	require.Equal(t, "Foreshore", read().Value)
	require.Equal(t, "default", read().Source.Kind)
	r.put("~/.breakwater/places.conf", "# mine\n[Folders]\n~/Music="+music+"\n[Volumes]\nTIDE="+stick+"\n")
	now := read()
	require.Equal(t, "Shingle", now.Value)
	require.Equal(t, reading.Origin{Kind: "file", Path: "/home/mara/.breakwater/places.conf", Line: 3, Key: "~/Music"}, now.Source)
	require.Equal(t, "machine", now.Pending)
	require.Equal(t, []reading.Single{{Key: "TIDE", Value: stick, Path: "/home/mara/.breakwater/places.conf", Line: 5}}, now.Singles, "it was set by itself")
	require.NoError(t, standin.Breakwater.Start(r.Root))
	require.Empty(t, read().Pending)
	require.Nil(t, read().Problem)
	r.put(stick, "two")
	require.NoError(t, standin.Breakwater.Start(r.Root), "which changes nothing: it shows what it has kept")
	require.Equal(t, reading.OldPicture, read().Problem.Code)
	b, err := os.ReadFile(r.host("~/.breakwater/pictures.conf"))
	require.NoError(t, err)
	kept := fmt.Sprintf("TIDE=%x\n", sha256.Sum256([]byte("one")))
	require.Contains(t, string(b), kept)
	r.put("~/.breakwater/pictures.conf", strings.Replace(string(b), kept, "", 1))
	require.NoError(t, standin.Breakwater.Start(r.Root))
	require.Nil(t, read().Problem)
}

// TestTheHelperMayNotComeBack (rule 11; Ledge, rule 2): without it there is no bar.
func TestTheHelperMayNotComeBack(t *testing.T) {
	for release, bar := range map[string]string{"4.8.0": "Ledge", "5.2.1": "Ledge", "5.3.0": "none"} {
		r := rigOf(t)
		r.locked(release)
		r.put("/usr/share/ledge/ledge.conf", "[Ledge]\nreleases=>= 4, < 5.3\n")
		require.NoError(t, standin.Breakwater.Start(r.Root))
		require.Equal(t, bar, r.says("bar"), release)
		d := r.desk()
		s, _ := d.Surface("ledge")
		require.True(t, reading.Started(d, s))
		require.Equal(t, bar == "none", reading.Unfit(d, s).Code != "", release)
		require.NoError(t, os.Remove(r.host("/etc/xdg/autostart/ledge.desktop")))
		require.NoError(t, standin.Breakwater.Start(r.Root))
		require.Equal(t, "its own", r.says("bar"))
	}
}

// TestACardIsOpened (rule 2): what it says goes into the person's settings, the rest of which stays, and
// counts from the next start.
func TestACardIsOpened(t *testing.T) {
	r := rigOf(t)
	r.locked("5.1.3", "Cobble")
	r.put("~/.breakwater/desk.conf", "[Desk]\nlook=Basalt\nshade=dark\n")
	_, err := standin.TypeAtBreakwater(r.Root, "breakwater open Cobble")
	require.ErrorContains(t, err, "has no card")
	r.put("/breakwater/looks/Cobble.card", "[Card]\nlook=Cobble\naccent=#112233\n")
	require.NoError(t, standin.List(r.Root))
	require.NoError(t, standin.Breakwater.Start(r.Root))
	require.Equal(t, "Basalt", r.says("look"))
	_, err = standin.TypeAtBreakwater(r.Root, "breakwater open Cobble")
	require.NoError(t, err)
	require.Equal(t, "Basalt", r.says("look"), "nothing is taken but at a start")
	require.NoError(t, standin.Breakwater.Start(r.Root))
	for key, want := range map[string]string{"look": "Cobble", "programs": "Cobble", "accent": "#112233", "shade": "dark"} {
		require.Equal(t, want, r.says(key))
	}
}
