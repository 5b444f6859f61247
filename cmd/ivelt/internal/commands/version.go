package commands

import "runtime/debug"

// released is the version of a release; the linker sets it.
var released string

// version is that of a release, else what the program was built from: its module's version, or
// the commit.
func version() string {
	if released != "" {
		return released
	}
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "not known"
	}
	said := map[string]string{}
	for _, s := range info.Settings {
		said[s.Key] = s.Value
	}
	v := info.Main.Version
	if commit := said["vcs.revision"]; (v == "" || v == "(devel)") && len(commit) >= 12 {
		v = "commit " + commit[:12]
		if said["vcs.modified"] == "true" {
			v += ", changed since"
		}
	}
	if v == "" {
		v = "not known"
	}
	return v + " (" + info.GoVersion + ")"
}
