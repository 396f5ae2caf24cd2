# make demo and make test are all that a newcomer needs.
.DEFAULT_GOAL := build
.PHONY: build demo dev test check check-go check-targets check-web dist raced chromium bench chaos fuzz soak screenshots api fonts clean

# What is compiled says nothing about where, so that another work tree of the same has it too.
export GOFLAGS := $(strip $(shell go env GOFLAGS) -trimpath)

WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/panel.html web/vite.config.ts web/svelte.config.js web/tsconfig.json

build: web/dist/index.html
	CGO_ENABLED=0 go build -o bin/synaptor ./cmd/synaptor

web/node_modules/.installed: web/package-lock.json
	cd web && npm ci --ignore-scripts --no-audit --no-fund
	touch $@

web/dist/index.html: web/node_modules/.installed $(WEB_SOURCES)
	cd web && npm run --silent build

# The demo show with the simulated devices, in a data folder made anew.
demo: build
	rm -rf data/demo
	bin/synaptor serve --demo --data data/demo

# The interface with reload on change, in front of a demo that runs beside it.
dev: web/node_modules/.installed
	cd web && npm run dev

# What tests need besides: a browser, the small one where it can be had, and ip, which lays the cables of test/cable and test/network.
chromium:
	@command -v chromium-headless-shell >/dev/null && command -v ip >/dev/null || \
	{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium-headless-shell iproute2; } || \
	{ command -v chromium >/dev/null && command -v ip >/dev/null; }

# Formatting, types, vet, and what is generated.
check: check-go check-targets check-web

# All is compiled and looked through for each system that make dist builds for, and for the smaller word: nothing depends on more.
check-targets: web/dist/index.html
	@for t in linux/arm windows/amd64 darwin/arm64; do \
		GOOS=$${t%/*} GOARCH=$${t#*/} GOARM=7 CGO_ENABLED=0 go vet ./... || { echo "on $$t"; exit 1; }; done

check-go: web/dist/index.html
	@test -z "$$(gofmt -l cmd docs internal test tools web/*.go)" || { echo "gofmt these:"; gofmt -l cmd docs internal test tools web/*.go; exit 1; }
	go vet ./...
	go tool staticcheck ./...

check-web: web/dist/index.html
	cd web && npm run --silent format:check
	cd web && npx --no-install openapi-typescript ../internal/web/openapi.json -o /tmp/synaptor-schema.d.ts >/dev/null && cmp /tmp/synaptor-schema.d.ts src/api/schema.d.ts
	cd web && npm run --silent check

RACED := ./internal/engine/... ./internal/mirror/... ./internal/edit/... ./internal/link/... ./internal/feed/... ./internal/journal/... ./internal/attach/... ./internal/incident/...
LONG := ./test/ui ./internal/app ./test/edges ./test/truth ./test/kill ./test/model

# Where tests keep their files: in memory, where that has room and runs programs, since disks that others use make them wait; else nowhere special.
MEMORY = $(shell d=/dev/shm/synaptor-room; rm -rf $$d; mkdir $$d 2>/dev/null && cp /bin/true $$d && $$d/true && \
	[ $$(df -Pm $$d | awk 'END {print $$4}') -gt 4000 ] && echo TMPDIR=/dev/shm GOTMPDIR=/tmp; rm -rf $$d)

# Tests are over before the garbage that they leave matters: it is collected seldom.
SELDOM := GOGC=400

raced:
	$(MEMORY) $(SELDOM) go test -count=1 -timeout 30m -vet=off -race $(RACED)

# Every check and test: much of what is checked needs one core, so it is done side by side. The race detector watches what runs at the
# same time. What takes longest begins first, and the rest runs beside it. What go vet says is said by check.
test:
	$(MAKE) -j3 -O --no-print-directory chromium check-web check-go check-targets raced
	$(MEMORY) $(SELDOM) go test -count=1 -timeout 30m -vet=off -p 3 $(LONG) $$(go list ./... | grep -vxF "$$(go list $(RACED) $(LONG))")

# What people download, for every target: archives, Debian packages, checksums; then it is looked at, started (other processors
# are emulated), and as root installed into a Debian of its own.
dist: web/dist/index.html
	rm -rf dist
	go run ./tools/dist dist
	@test "$$(id -u)" != 0 || { command -v debootstrap && command -v qemu-arm-static; } >/dev/null || \
	{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends debootstrap qemu-user-static; }
	DIST=$(CURDIR)/dist go test -count=1 -timeout 60m -v ./test/dist

bench: web/dist/index.html
	go run ./test/bench
	go run ./test/bench sweep
	go run ./test/bench shows
	go run ./test/bench crowd
	go run ./test/bench reflexes
	go run ./test/bench preflight
	go run ./test/bench journal
	go run ./test/bench overlay

# Two hundred kills instead of fifteen, ten minutes of the model instead of ten seconds, in memory and over sockets, 5,000 macros and
# gestures held against the devices instead of 200 and 500, and 400 nights judged again instead of 12. Files are damaged, a disk is filled and made read-only, and memory is short;
# for those two it mounts a disk and makes a control group, as root.
chaos: web/dist/index.html
	KILLS=200 go test -count=1 -timeout 30m ./test/kill
	MODEL_SECONDS=600 go test -count=1 -timeout 30m ./test/model
	MODEL_SECONDS=600 MODEL_SOCKETS=true go test -count=1 -timeout 30m ./test/model
	TRUTH=5000 go test -count=1 -timeout 60m ./test/truth
	NIGHTS=400 go test -count=1 -timeout 60m ./internal/engine -run WouldHaveDone
	DAMAGES=500 DISK=true MEMORY=true go test -count=1 -timeout 30m ./test/edges

# Half an hour of random inputs, edits and faults; memory and goroutines stay flat.
soak: web/dist/index.html
	go run ./test/soak

FUZZTIME ?= 5m
fuzz:
	@for target in internal/link/osc:FuzzDecode internal/link/osc:FuzzFrames internal/link/lines:FuzzReader internal/link/jsonrpc:FuzzUnderstand \
		internal/link/httpdev:FuzzEvents internal/core/device:FuzzParse internal/core/device:FuzzMatch internal/core/expr:FuzzTemplate \
		internal/sheet:FuzzDeviceSheet internal/sheet:FuzzControllerSheet internal/media:FuzzTake internal/archive:FuzzRead internal/link/mqtt:FuzzBounded \
		internal/core/face:FuzzFit internal/core/show:FuzzLoad internal/store:FuzzWAL internal/wire:FuzzRead internal/bridge:FuzzLine; do \
		echo "$$target"; go test ./$${target%%:*} -run '^$$' -fuzz "^$${target##*:}$$" -fuzztime $(FUZZTIME) || exit 1; \
	done

screenshots: web/dist/index.html chromium
	go run ./test/screenshots docs/screenshots

# Generated: the types of the API, and the face font in the form the server reads.
api: web/node_modules/.installed
	cd web && npm run --silent api

fonts: web/node_modules/.installed
	go generate ./internal/core/face

clean:
	rm -rf bin web/dist web/node_modules data/demo
