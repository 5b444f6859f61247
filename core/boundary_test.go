// Package core_test guards what the rules and the computation may reach.
package core_test

import (
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestCoreReachesNoInterfaceAndNoStore(t *testing.T) {
	out, err := exec.CommandContext(t.Context(), "go", "list", "-deps", "./...").Output()
	require.NoError(t, err)
	packages := strings.Fields(string(out))
	require.Contains(t, packages, "ivelt/core/plan")
	for _, p := range packages {
		switch p {
		case "net/http", "html/template", "gorm.io/gorm":
			t.Errorf("core imports %s", p)
		}
		if own, ok := strings.CutPrefix(p, "ivelt/"); ok && !strings.HasPrefix(own, "core/") && own != "core" {
			t.Errorf("core imports %s", p)
		}
	}
}

// TestTheDemoCanBeLeftOut: Ivelt can be built without the demo and its stand-ins.
func TestTheDemoCanBeLeftOut(t *testing.T) {
	for tags, with := range map[string]bool{"": true, "nodemo": false} {
		out, err := exec.CommandContext(t.Context(), "go", "list", "-deps", "-tags", tags, "ivelt/cmd/ivelt").Output()
		require.NoError(t, err)
		packages := strings.Fields(string(out))
		require.Contains(t, packages, "ivelt/app")
		for _, p := range []string{"ivelt/demo", "ivelt/standin"} {
			require.Equal(t, with, slices.Contains(packages, p), "%s with tags %q", p, tags)
		}
	}
}
