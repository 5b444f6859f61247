module ivelt

go 1.26.0

require (
	github.com/Masterminds/semver/v3 v3.5.0
	github.com/adrg/xdg v0.5.3
	github.com/aymanbagabas/go-udiff v0.4.1
	github.com/bodgit/sevenzip v1.6.5
	github.com/chromedp/cdproto v0.159.0
	github.com/chromedp/chromedp v0.23.0
	github.com/fsnotify/fsnotify v1.10.1
	github.com/github/go-spdx/v2 v2.8.0
	github.com/go-chi/chi/v5 v5.5.0
	github.com/go-text/typesetting v0.3.5
	github.com/godbus/dbus/v5 v5.2.4
	github.com/jezek/xgb v1.1.1
	github.com/klauspost/compress v1.20.4
	github.com/klauspost/readahead v1.4.0
	github.com/lucasb-eyer/go-colorful v1.4.1
	github.com/mikelolasagasti/xz v1.0.1
	github.com/pelletier/go-toml/v2 v2.4.3
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	github.com/spf13/cobra v1.10.2
	github.com/srwiley/rasterx v0.0.0-20220730225603-2ab79fcdd4ef
	github.com/stretchr/testify v1.12.1
	github.com/tailscale/hujson v0.0.0-20260727124030-b80ff77dac4f
	github.com/tdewolff/parse/v2 v2.8.20
	github.com/ulikunitz/xz v0.5.15
	go.yaml.in/yaml/v3 v3.0.6
	golang.org/x/image v0.47.0
	golang.org/x/sync v0.25.0
	golang.org/x/sys v0.50.0
	golang.org/x/text v0.43.0
	golang.org/x/tools v0.52.0
	gorm.io/driver/sqlite v1.6.0
	gorm.io/gorm v1.31.2
	modernc.org/sqlite v1.62.0
)

require (
	aead.dev/minisign v0.3.0
	github.com/CycloneDX/cyclonedx-go v0.10.0
	github.com/golang/freetype v0.0.0-20170609003504-e2365dfdc4a0
	github.com/invopop/jsonschema v0.14.0
	github.com/leonelquinteros/gotext v1.7.2
)

require (
	github.com/bahlo/generic-list-go v0.2.0 // indirect
	github.com/buger/jsonparser v1.1.2 // indirect
	github.com/cpuguy83/go-md2man/v2 v2.0.6 // indirect
	github.com/pb33f/ordered-map/v2 v2.3.1 // indirect
	github.com/russross/blackfriday/v2 v2.1.0 // indirect
	go.yaml.in/yaml/v4 v4.0.0-rc.2 // indirect
	golang.org/x/crypto v0.46.0 // indirect
	golang.org/x/mod v0.42.0 // indirect
)

require (
	github.com/andybalholm/brotli v1.2.2 // indirect
	github.com/bodgit/plumbing v1.3.0 // indirect
	github.com/bodgit/windows v1.0.1 // indirect
	github.com/dustin/go-humanize v1.1.0 // indirect
	github.com/go-json-experiment/json v0.0.0-20260213210345-44df1a37e875 // indirect
	github.com/google/uuid v1.6.0 // indirect
	github.com/hashicorp/golang-lru/v2 v2.0.7 // indirect
	github.com/inconshreveable/mousetrap v1.1.0 // indirect
	github.com/jinzhu/inflection v1.0.0 // indirect
	github.com/jinzhu/now v1.1.5 // indirect
	github.com/mattn/go-isatty v0.0.24 // indirect
	github.com/mattn/go-sqlite3 v1.14.22 // indirect
	github.com/ncruces/go-strftime v1.1.0
	github.com/pierrec/lz4/v4 v4.1.27
	github.com/remyoudompheng/bigfft v0.0.0-20230129092748-24d4a6f8daec // indirect
	github.com/spf13/afero v1.15.0 // indirect
	github.com/spf13/pflag v1.0.9
	github.com/stangelandcl/ppmd v0.1.1 // indirect
	go4.org v0.0.0-20260112195520-a5071408f32f // indirect
	modernc.org/libc v1.80.1 // indirect
	modernc.org/mathutil v1.7.1 // indirect
	modernc.org/memory v1.12.1 // indirect
)
