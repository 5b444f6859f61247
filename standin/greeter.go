package standin

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"html"
	"image"
	_ "image/jpeg" // the pictures that login screens show
	_ "image/png"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// maxPixels bounds the pictures that the login screens show.
const maxPixels = 40_000_000

// dark tells why a login screen does not come up with what it is told, nil if it
// does.
func dark(d Root, id, description string, told func(key string) string) error {
	session := told("session")
	if !d.there("/usr/share/wayland-sessions/"+session+".desktop") && !d.there("/usr/share/xsessions/"+session+".desktop") {
		return fmt.Errorf("there is no session %q", session)
	}
	for _, key := range []string{"backdrop", "person"} {
		at := told(key)
		if at == "" {
			continue
		}
		if clean := filepath.Clean(at); !strings.HasPrefix(clean, "/usr/") && !strings.HasPrefix(clean, "/var/lib/") {
			return fmt.Errorf("%s is not where it gets at it", at)
		}
		raw, err := os.ReadFile(d.host(at))
		if err != nil {
			return fmt.Errorf("there is no picture %s", at)
		}
		if c, _, err := image.DecodeConfig(bytes.NewReader(raw)); err == nil && c.Width*c.Height > maxPixels {
			return fmt.Errorf("%s is too large for it", at)
		}
		if _, _, err := image.Decode(bytes.NewReader(raw)); err != nil {
			return fmt.Errorf("%s is no PNG or JPEG", at)
		}
	}
	if theme := told("theme"); theme != "Plain" {
		_, err := loginTheme(d, id, description, theme)
		return err
	}
	return nil
}

// loginTheme is the folder of a theme, if it is whole.
func loginTheme(d Root, id, description, theme string) (string, error) {
	for _, folder := range []string{"/usr/local/share/" + id + "/themes", "/usr/share/" + id + "/themes"} {
		at := filepath.Join(folder, theme)
		if theme == "" || !d.there(at) {
			continue
		}
		if !d.there(filepath.Join(at, description)) {
			return "", fmt.Errorf("%s has no %s", theme, description)
		}
		for _, key := range []string{"Backdrop", "Panel-Picture"} {
			file, ok, err := setting(d.host(filepath.Join(at, description)), "Login Theme", key)
			if err != nil {
				return "", err
			}
			if !ok {
				continue
			}
			if fi, err := os.Stat(d.host(filepath.Join(at, file))); err != nil || !filepath.IsLocal(file) || fi.Size() == 0 {
				return "", fmt.Errorf("%s has no %s", theme, file)
			}
		}
		return at, nil
	}
	return "", fmt.Errorf("there is no theme %q", theme)
}

// Screen draws what a login screen shows now, by its shown file and the files of
// its theme: black, with a text console on it, if it did not come up.
func (p Program) Screen(d Root) ([]byte, error) {
	shown := func(key string) string {
		value, _, _ := setting(d.host(p.Shown), "Loaded", key)
		return value
	}
	const w, h = 640, 400
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" font-family="sans-serif">`, w, h, w, h)
	switch {
	case !d.there(p.Shown):
		return nil, fmt.Errorf("%s: %w", p.ID, fs.ErrNotExist)
	case shown("dark") == "yes":
		fmt.Fprintf(&b, `<path d="M0 0H%dV%dH0Z"/><g fill="#c8c8c8" font-family="monospace" font-size="14"><text x="16" y="28">%s: %s</text><text x="16" y="72">Text console 3</text><text x="16" y="116">login: _</text></g></svg>`,
			w, h, p.ID, html.EscapeString(shown("why")))
		return []byte(b.String()), nil
	}
	ink, panel, ground := "#e8e8e8", "#303840", ""
	if theme := shown("theme"); theme != "Plain" {
		description := map[string]string{"lantern": "login.theme", "tollgate": "gate.theme"}[p.ID]
		at, err := loginTheme(d, p.ID, description, theme)
		if err != nil {
			return nil, errors.Join(err, fs.ErrNotExist) // it was taken away since
		}
		said := func(key, usual string, as takes) string {
			if value, ok, _ := setting(d.host(filepath.Join(at, description)), "Login Theme", key); ok && as(value) {
				return value
			}
			return usual
		}
		ink, panel = said("Ink", ink, aColour), said("Panel", panel, aColour)
		if file := said("Backdrop", "", func(string) bool { return true }); file != "" {
			ground = filepath.Join(at, file)
		}
	}
	if own := shown("backdrop"); own != "" {
		ground = own
	}
	fmt.Fprintf(&b, `<path d="M0 0H%dV%dH0Z" fill="#182028"/>`, w, h)
	if ground != "" {
		b.WriteString(d.picture(ground, `width="640" height="400"`))
	}
	fmt.Fprintf(&b, `<g transform="translate(200 90)"><rect width="240" height="210" rx="8" fill="%s" fill-opacity="0.86"/>`, panel)
	if icon := d.shutdown(shown("icons")); icon != "" {
		b.WriteString(d.picture(icon, `x="398" y="-72" width="24" height="24"`))
	}
	if person := shown("person"); person != "" {
		b.WriteString(`<clipPath id="round"><circle cx="120" cy="62" r="38"/></clipPath><g clip-path="url(#round)">` + d.picture(person, `x="82" y="24" width="76" height="76"`) + `</g>`)
	} else {
		fmt.Fprintf(&b, `<circle cx="120" cy="62" r="38" fill="none" stroke="%[1]s" stroke-width="2"/><circle cx="120" cy="52" r="12" fill="%[1]s"/><path d="M98 84a22 18 0 0 1 44 0" fill="%[1]s"/>`, ink)
	}
	fmt.Fprintf(&b, `<text x="120" y="124" fill="%s" font-size="15" text-anchor="middle">mara</text>`, ink)
	if shown("sign-in") == "by itself" {
		fmt.Fprintf(&b, `<text x="120" y="160" fill="%s" font-size="12" text-anchor="middle">signs in by itself</text>`, ink)
	} else {
		fmt.Fprintf(&b, `<rect x="32" y="140" width="176" height="30" rx="4" fill="none" stroke="%[1]s"/><g fill="%[1]s"><circle cx="48" cy="155" r="3"/><circle cx="60" cy="155" r="3"/><circle cx="72" cy="155" r="3"/></g>`, ink)
	}
	if shown("num-lock") == "on" {
		fmt.Fprintf(&b, `<text x="120" y="192" fill="%s" font-size="10" text-anchor="middle">number keys are on</text>`, ink)
	}
	b.WriteString(`</g>`)
	if shown("pane") == "shown" {
		fmt.Fprintf(&b, `<g transform="translate(0 368)"><path d="M0 0H%d V32H0Z" fill="%s" fill-opacity="0.86"/><g fill="%s" font-size="12"><text x="16" y="20">Session: %s</text><text x="624" y="20" text-anchor="end">Language: English</text></g></g>`, w, panel, ink, html.EscapeString(shown("session")))
	}
	b.WriteString(`</svg>`)
	return []byte(b.String()), nil
}

// shutdown is the sign for switching off in an icon pack, "" if the system's folders have none.
func (d Root) shutdown(pack string) (found string) {
	for _, name := range []string{pack, "hicolor"} {
		if strings.ContainsAny(name, `/*?[\`) {
			continue
		}
		for _, folder := range []string{"/usr/local/share/icons", "/usr/share/icons"} {
			for _, form := range []string{"svg", "png"} {
				if all, err := filepath.Glob(filepath.Join(d.host(folder), name, "*", "*", "system-shutdown."+form)); err == nil && len(all) > 0 {
					rel, err := filepath.Rel(d.System, all[0])
					if err == nil {
						return "/" + filepath.ToSlash(rel)
					}
				}
			}
		}
	}
	return ""
}

// picture is a picture of the desk that fills a place.
func (d Root) picture(at, place string) string {
	raw, err := os.ReadFile(d.host(at))
	if err != nil {
		return ""
	}
	kind := map[string]string{".svg": "image/svg+xml", ".jpg": "image/jpeg", ".jpeg": "image/jpeg"}[strings.ToLower(filepath.Ext(at))]
	if kind == "" {
		kind = "image/png"
	}
	return fmt.Sprintf(`<image %s preserveAspectRatio="xMidYMid slice" href="data:%s;base64,%s"/>`, place, kind, base64.StdEncoding.EncodeToString(raw))
}

// Type does what a line typed on a text console does, of those that matter to a
// login screen: sudo cp FROM TO, sudo rm FILE, and starting it again.
func (p Program) Type(d Root, again, line string) (answer string, err error) {
	words := strings.Fields(line)
	if strings.TrimSpace(line) == again {
		if err := p.Start(d); err != nil {
			return "", err
		}
		return p.ID + " is up.", nil
	}
	if len(words) < 3 || words[0] != "sudo" {
		return "", fmt.Errorf("%s: not found", firstWord(line))
	}
	for i, w := range words {
		words[i] = strings.Trim(w, `'"`)
	}
	switch {
	case words[1] == "cp" && len(words) == 4:
		raw, err := os.ReadFile(d.host(words[2]))
		if err != nil {
			return "", fmt.Errorf("cp: there is no %s", words[2])
		}
		return "", os.WriteFile(d.host(words[3]), raw, 0o644)
	case words[1] == "rm" && len(words) == 3:
		if err := os.Remove(d.host(words[2])); err != nil {
			return "", fmt.Errorf("rm: there is no %s", words[2])
		}
		return "", nil
	}
	return "", fmt.Errorf("%s: not found", words[1])
}

func firstWord(line string) string {
	if words := strings.Fields(line); len(words) > 0 {
		return words[0]
	}
	return "nothing"
}
