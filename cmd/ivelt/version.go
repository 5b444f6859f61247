package main

import "runtime/debug"

// version is what the program was built from: its module's version, or the commit.
func version() string {
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
