# make demo   builds what is missing and serves the sample data
# make test   installs what tests need and runs everything

.PHONY: demo test build deps deps-test web generate lint count screenshots coverage mutants faults attack bench check-outside fuzz offline clean

GO      ?= go
LOCAL   := .local
BINARY  := build/nextround
VERSION := $(shell git describe --always --dirty 2>/dev/null || echo unversioned)
GO_SOURCES  := $(shell find cmd core internal web -name '*.go' -not -path '*/node_modules/*' 2>/dev/null) $(wildcard internal/store/migrations/*.sql internal/calc/schemas/*.json)
WEB_SOURCES := $(shell find web/src web/public -type f -not -name 'core.wasm.gz' -not -name wasm_exec.js 2>/dev/null) web/index.html web/vite.config.ts web/package.json

demo: deps $(BINARY)
	@exec $(BINARY) demo $(DEMO)

build: $(BINARY)

test: deps-test $(BINARY) build/tools/golangci-lint build/tools/oapi-codegen
	@scripts/test

# The toolchains are looked at first, so that a wrong one ends in one line and not in many.
$(BINARY) web build/npm.stamp build/tools/golangci-lint build/tools/oapi-codegen: | toolchains
.PHONY: toolchains
toolchains:
	@scripts/need go
	@scripts/need node

# What Debian's packages bring; nothing is done when it is there.
deps:
	@scripts/need postgresql
deps-test: deps
	@scripts/need chromium
	@scripts/need cc
	@scripts/need pgbouncer

$(BINARY): $(GO_SOURCES) go.mod go.sum build/web.stamp
	$(GO) build -trimpath -ldflags "-X main.version=$(VERSION)" -o $@ ./cmd/nextround

web: build/web.stamp
build/web.stamp: build/npm.stamp build/core.stamp $(WEB_SOURCES)
	cd web && npm run --silent build -- --logLevel warn
	@mkdir -p build && touch $@
# The core for the browser: what a visit works out without network.
CORE_SOURCES := $(shell find core cmd/corewasm internal/calc internal/contract internal/defaults internal/optional internal/visit internal/wording -name '*.go' -not -name '*_test.go') $(wildcard internal/calc/schemas/*.json)
build/core.stamp: $(CORE_SOURCES) go.mod
	@mkdir -p build web/public
	GOOS=js GOARCH=wasm $(GO) build -trimpath -ldflags "-s -w" -o build/core.wasm ./cmd/corewasm
	gzip -9nc build/core.wasm > web/public/core.wasm.gz
	cp "$$($(GO) env GOROOT)/lib/wasm/wasm_exec.js" web/public/wasm_exec.js
	@touch $@
build/npm.stamp: web/package-lock.json web/.npmrc
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@mkdir -p build && touch $@

# The contract is the one source of the Go types, the server's routes and the TypeScript client.
generate: build/tools/oapi-codegen build/npm.stamp
	build/tools/oapi-codegen -config api/types.yaml api/openapi.yaml
	build/tools/oapi-codegen -config api/server.yaml api/openapi.yaml
	cd web && npm run --silent generate
	$(GO) run ./internal/wording/typescript web/src/api/facts.gen.ts
	cd web && npx --no-install prettier --write --log-level warn src/api/facts.gen.ts
	$(GO) run ./internal/calc/schemawriter

# Tools live in a module of their own, so that they do not weigh on the product's.
build/tools/golangci-lint: tools/go.mod tools/go.sum
	cd tools && $(GO) build -o ../$@ github.com/golangci/golangci-lint/v2/cmd/golangci-lint
build/tools/oapi-codegen: tools/go.mod tools/go.sum
	cd tools && $(GO) build -o ../$@ github.com/oapi-codegen/oapi-codegen/v2/cmd/oapi-codegen

lint: build/tools/golangci-lint build/npm.stamp
	@scripts/lint

# docs/plans.md and docs/house-rules.md: the first plan for each coil, place and soil, and what each answer of practice changes.
.PHONY: tables
tables:
	$(GO) test ./internal/proof/tables -run TestTheTablesOfPlansAndRulesAreCurrent -update

# Lines of code and of tests: non-blank Go, TypeScript, Vue and SQL; generated code and test data left out.
count:
	@scripts/count

screenshots: deps-test $(BINARY)
	@mkdir -p docs/screenshots
	$(GO) run ./e2e/screenshots docs/screenshots

# How fast it is with a hundred thousand units; takes a few minutes. See docs/performance.md.
bench: deps
	NEXTROUND_SPEED=1 $(GO) test -run XXX -bench . -benchtime 1s -timeout 30m ./e2e/speed

# What others' programs make of our files; the values kept in testdata are compared on every test run.
check-outside: deps $(BINARY)
	@scripts/need openpyxl
	@scripts/need R
	@scripts/need icalendar
	@scripts/need glpsol
	$(GO) run ./internal/pg/withpostgres scripts/check-outside

# Runs every fuzzer for a while, each line telling its executions; what it finds is kept and run by every test from then on.
# Inputs that reach new code are not made smaller: with a database behind them that alone would take the whole time.
FUZZ ?= -fuzztime 60s -fuzzminimizetime 1x
fuzz:
	$(GO) test -run XXX -fuzz FuzzPlan $(FUZZ) ./core/round
	for f in FuzzReadRegister FuzzReadVisits; do $(GO) test -run XXX -fuzz $$f $(FUZZ) ./internal/exchange || exit 1; done
	$(GO) run ./internal/pg/withpostgres $(GO) test -run XXX -fuzz FuzzImport $(FUZZ) -parallel 1 ./internal/register
	$(GO) run ./internal/pg/withpostgres $(GO) test -run XXX -fuzz FuzzSubmitVisit $(FUZZ) -parallel 1 ./internal/api

# make demo and make test with the network cut off, once everything has been installed.
offline:
	scripts/offline

coverage: $(BINARY)
	$(GO) test -coverprofile=build/core.cover ./core/... && $(GO) tool cover -func=build/core.cover | tail -1

# Kills servers and their database under 2,000 visits; make test does it under 800.
faults: deps-test $(BINARY)
	NEXTROUND_FAULTS=2000 $(GO) run ./internal/pg/withpostgres $(GO) test -count=1 -v ./e2e/faults

# Tries on a started server what somebody with bad intent would, and prints what held.
attack: deps-test
	$(GO) run ./e2e/attack

# Breaks the code in the ways of mutants/patches, one at a time, and tells which break no test has noticed.
mutants: deps
	$(GO) run ./internal/pg/withpostgres $(GO) run ./mutants $(MUTANTS)

clean:
	rm -rf build $(LOCAL) web/node_modules web/public/core.wasm.gz web/public/wasm_exec.js
	find web/dist -mindepth 1 -not -name placeholder.txt -delete
