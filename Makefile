# `make test` installs what the tests need and passes them.

GO ?= go
export CGO_ENABLED ?= 0
# No path of this computer is in what is built: a release shares what tests compiled.
export GOFLAGS += -trimpath

.PHONY: dist install uninstall test build test-pages test-truth test-rest truth languages torture lint bench deps screenshots vendor-web fuzz

# What the tests need is installed while Ivelt is built. Then the pages in a browser, what is held
# against other programs, and all the rest run beside each other: much of each is waiting. What is
# swept up late takes a fifth less, and no debugger looks at these programs, so that they are
# linked in half the time. lint vets.
test:
	$(MAKE) --no-print-directory --output-sync=line -j2 deps build
	$(MAKE) --no-print-directory --output-sync=line -j3 test-pages test-truth test-rest

build:
	GOGC=off GOMEMLIMIT=1500MiB $(GO) build ./...

test-pages test-truth test-rest: export GOFLAGS += -ldflags=-s

PAGES = ivelt/web
FAULTS = ivelt/core/apply ivelt/core/planning

test-pages:
	TMPDIR=$$(sh scripts/tmp) GOGC=400 $(GO) test -vet=off -timeout 40m $(PAGES) -skip '^TestStory'

# The stories in a browser come after it: so no processor waits for the pages alone.
test-truth:
	TMPDIR=$$(sh scripts/tmp) GOGC=400 $(GO) test -vet=off -timeout 40m -parallel 3 -v ivelt/truth # says how much was compared
	TMPDIR=$$(sh scripts/tmp) GOGC=400 $(GO) test -vet=off -timeout 40m $(PAGES) -run '^TestStory'

test-rest:
	TMPDIR=$$(sh scripts/tmp) GOGC=400 $(GO) test -vet=off -timeout 40m -p 1 $$($(GO) list ./... | grep -v -x $(PAGES:%=-e %) $(FAULTS:%=-e %) -e ivelt/truth)
	TMPDIR=$$(sh scripts/tmp) GOGC=400 $(GO) test -vet=off -timeout 40m -p 1 -v $(FAULTS) # says what was let go wrong

# Packages for both architectures, in dist; the same sources give the same bytes.
dist:
	$(GO) run ./scripts/dist

PREFIX ?= /usr/local
install:
	@$(GO) run ./scripts/dist -install "$(PREFIX)" -destdir "$(DESTDIR)"
uninstall:
	@$(GO) run ./scripts/dist -remove "$(PREFIX)" -destdir "$(DESTDIR)"

# Readings held against the real programs in many more generated homes, 20,000
# comparisons, and every theme, parcel and font of the real makers' packages, with tables
# of both; settings files of this machine read as other parsers read them.
# Then whole sessions in a box: 300 and more outfits, and 100 and more kills.
truth: deps
	$(GO) test -v ./truth -count 1 -timeout 60m -run 'TestReadings|TestProgramsWith|TestTheDesktopsSettings|TestWhatIsWritten|TestRenderingIs|TestTheDisplaysPointer|TestTheSheetThatIsWorn|TestFontsA|TestReal|TestQt|TestIconsAreDrawn|TestElementsAre|TestSettingsFiles|TestSystemFiles|TestAProgramsSettings|TestLooksAre|TestComputedStyles|TestWhatASandboxed|TestGrantsAreThose|TestWhatPackages|TestAFleet' -args -times 10 -all
	$(GO) test -v ./truth -count 1 -timeout 60m -run 'TestASessionInABox|TestKilledWhile|TestThePointerOver' -args -times 15

# Every page in every made-up language; the tests take them in turn.
languages: deps
	TMPDIR=$$(sh scripts/tmp) $(GO) test -v $(PAGES) -count 1 -run TestPagesAreAccessible -args -everything

# Everything that can go wrong while a plan is carried out, many times over, with a
# count of each: calls that fail, kills, lost power, others that write meanwhile,
# and random lives of two desks with edits between any two changes, two tabs, two
# processes, panics, clocks and zones turned, damaged databases and kept contents,
# desks unplugged, attributes; and made-up descriptors.
torture: deps
	$(GO) test -v ./core/apply -count 1 -timeout 60m -run TestFaults -args -torture 12
	$(GO) test -v ./core/planning -count 1 -timeout 60m -run TestEveryDescriptor -args -descriptors 3000
	TMPDIR=$$(sh scripts/tmp) $(GO) test -v ./cmd/ivelt -count 1 -timeout 60m -run 'TestKilledCommand|TestAKilledAdministrator' -args -every 1
	TMPDIR=$$(sh scripts/tmp) $(GO) test -v ./app -count 1 -timeout 60m -run 'TestRandomLives' -args -sequences 400

# What only developers need has its own list of modules, tools.mod. Both checks hold a
# great deal for a short time, and are a third faster if it is swept up when there is much.
lint:
	@unformatted=$$(gofmt -l $$(git ls-files '*.go')); [ -z "$$unformatted" ] || { echo "not gofmt-clean:"; echo "$$unformatted"; exit 1; }
	GOGC=off GOMEMLIMIT=1500MiB $(GO) vet ./...
	GOGC=off GOMEMLIMIT=6GiB $(GO) tool -modfile=tools.mod staticcheck ./...
	$(GO) run ./scripts/catalogue
	$(GO) run ./scripts/templatefmt web/templates/*.html web/templates/*/*.html web/static/css/*.css web/static/js/*.js

# What the tests hold Ivelt against, from Debian's packages.
deps:
	@sh scripts/deps

bench:
	sh scripts/bench

# Every parser that reads strangers' bytes, 60 s each.
fuzz:
	for p in outfit imagefile specimen svgraster keyfile settingsfile icontheme xcursor fontfile curfile gtkcss gtkrc gresource gvariant xresources xsettings; do $(GO) test ./core/$$p -run '^$$' -fuzz FuzzParse -fuzztime 60s -fuzzminimizetime 20x || exit 1; done
	$(GO) test ./core/imagefile -run '^$$' -fuzz FuzzPhotograph -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/pointerset -run '^$$' -fuzz FuzzConvert -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/market -run '^$$' -fuzz FuzzRead -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/market -run '^$$' -fuzz FuzzManifest -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/planning -run '^$$' -fuzz FuzzDescriptor -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/parcel -run '^$$' -fuzz FuzzNested -fuzztime 60s -fuzzminimizetime 20x
	$(GO) test ./core/parcel -run '^$$' -fuzz FuzzOpen -fuzztime 60s -fuzzminimizetime 20x # its unpacking runs ahead, so what it covers varies

# One current picture of each main view, from the demo data.
screenshots: deps
	mkdir -p docs/screenshots
	$(GO) test ./web -count 1 -run 'TestStory|TestShortlistAndCompare|TestPlansByMouse|TestDunlin|TestAWrong|TestTheTerminals|TestGrantsOn|TestALookTravels|TestAProgramIsLearned' -args -screenshots $(CURDIR)/docs/screenshots
	cd docs/screenshots && convert -delay 260 -loop 0 find.png parcel.png compose.png ask.png judge.png review.png match.png history.png -resize 960x600 -layers OptimizePlus -colors 96 +dither ../tour.gif

vendor-web:
	node scripts/vendor-web.mjs
