// Package core_test guards what the rules and the computation may reach.
package core_test

import (
	"os/exec"
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
