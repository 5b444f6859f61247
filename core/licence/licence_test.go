package licence_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"ivelt/core/licence"
)

// TestTextsOfLicences holds what is told of the texts that Debian ships (base-files)
// against their names there, and of packages' copyright files against what those
// say.
func TestTextsOfLicences(t *testing.T) {
	for file, want := range map[string]string{
		"Apache-2.0": "Apache-2.0", "Artistic": "Artistic-1.0-Perl", "BSD": "BSD-3-Clause", "CC0-1.0": "CC0-1.0", "GFDL-1.2": "GFDL-1.2-only", "GFDL-1.3": "GFDL-1.3-only",
		"GPL-1": "GPL-1.0-only", "GPL-2": "GPL-2.0-only", "GPL-3": "GPL-3.0-only", "LGPL-2": "LGPL-2.0-only", "LGPL-2.1": "LGPL-2.1-only", "LGPL-3": "LGPL-3.0-only",
		"MPL-1.1": "MPL-1.1", "MPL-2.0": "MPL-2.0",
	} {
		text, err := os.ReadFile(filepath.Join("/usr/share/common-licenses", file))
		require.NoError(t, err)
		require.Equal(t, want, licence.Of(string(text)), file)
	}
	for pkg, want := range map[string]string{"fonts-lato": "OFL-1.1", "desktop-file-utils": "GPL-2.0-or-later", "shellcheck": "GPL-3.0-or-later", "hicolor-icon-theme": "GPL-2.0-or-later", "tango-icon-theme": "public-domain", "adwaita-icon-theme": "CC-BY-SA-3.0 OR LGPL-3.0-only"} {
		text, err := os.ReadFile(filepath.Join("/usr/share/doc", pkg, "copyright"))
		require.NoError(t, err)
		require.Equal(t, want, licence.Of(string(text)), pkg)
	}
}

func TestNamesOfLicences(t *testing.T) {
	for text, want := range map[string]string{
		"CC0-1.0\n": "CC0-1.0", "/* SPDX-License-Identifier: GPL-2.0-or-later */": "GPL-2.0-or-later", "SPDX-License-Identifier: MIT OR Apache-2.0\nmore": "MIT OR Apache-2.0",
		"Shingle is by Maud Pell, under CC-BY-SA-4.0.\n": "CC-BY-SA-4.0", "GPL-3+": "GPL-3.0-or-later", "! ebb, a palette. LicenseRef-Own-Use": "LicenseRef-Own-Use", "Expat": "", "This Font Software is licensed under the SIL Open Font License, Version 1.1.": "OFL-1.1",
		"Files: debian/*\nLicense: GPL-2+\n\nFiles: *\nLicense: GPL-3+ or CC-BY-SA-4.0\n": "GPL-3.0-or-later OR CC-BY-SA-4.0",
		"All rights reserved.": "", "": "", "Ask me.": "",
	} {
		require.Equal(t, want, licence.Of(text), text)
	}
}
