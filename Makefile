# Two commands do everything on a fresh machine: "make demo" and "make test".
# Both install what is missing first.

SHELL := bash
export CGO_ENABLED := 1
BIN := bin/saltkettle
SOURCES := $(shell find app cmd core docs examples -name '*.go' -o -path 'docs/*.md' -o -path 'docs/*.json' -o -path 'app/web/*' -type f -o -name '*.json' -path '*/examples/*' -o -name 'library.json')
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)

.PHONY: demo build test check unit e2e docs bench nightly soak screenshots vendor clean tools browser

## demo: build and start with the demo data at http://127.0.0.1:8420/
demo: build
	$(BIN) demo

## build: the program in bin/
build: $(BIN)

$(BIN): $(SOURCES) go.mod go.sum | tools
	go build -o $@ ./cmd/saltkettle

## test: every check and test
test: check unit e2e

## check: format, vet, lint, generated documents
check: tools
	@unformatted=$$(gofmt -l app bench cmd core docs examples soak); [ -z "$$unformatted" ] || { echo "not gofmt-ed: $$unformatted"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	@echo "checks passed"

## unit: tests of the core and the application
unit: tools
	go test -timeout 40m ./...

## e2e: stories in a real browser
e2e: build browser
	cd e2e && npm test

## docs: write the validation table, the model reference and the table of units anew
docs: tools
	go test ./core/validation ./core/trial ./core/model ./core/quantity ./core/formula -run 'TestValidation|TestLongValidation|TestStatedErrors|TestTrialsTable|TestReference' -count=1 -update

## nightly: ten thousand random plans, the long runs of the demos and of the validation, and a while of fuzzing
nightly: tools
	KETTLE_CASES=10000 go test ./core/mesh -run TestManyPlans -count=1 -timeout 60m
	KETTLE_LONG=1 go test ./core/solve -run TestExamplesSettle -count=1 -timeout 60m
	KETTLE_LONG=1 go test ./core/validation -run TestLongValidation -count=1 -timeout 60m
	go test ./core/solid -run '^$$' -fuzz FuzzSTL -fuzztime 60s
	go test ./core/trace -run '^$$' -fuzz FuzzRead -fuzztime 60s
	go test ./core/table -run '^$$' -fuzz FuzzPlain -fuzztime 20s
	go test ./app/web -run '^$$' -fuzz FuzzPages -fuzztime 10m
	go test ./core/solve -run '^$$' -fuzz FuzzRun -fuzztime 10m

## soak: kills, two windows, 200 readers and a full disk, for five minutes (docs/reliability.md)
soak: build
	go run ./soak

## bench: benchmarks of meshing, assembly and solving
bench: tools
	go run ./bench

## screenshots: refresh docs/screenshots from the demo data
screenshots: build browser
	cd e2e && npm run screenshots

## vendor: fetch the third-party scripts, styles and fonts again
vendor:
	scripts/vendor.sh

tools:
	@command -v go > /dev/null || { echo "Go 1.26 or newer is needed: install it first."; exit 1; }
	@command -v gcc > /dev/null || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq gcc libc6-dev; }

browser: e2e/node_modules/.installed
	@command -v npm > /dev/null || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq nodejs npm; }
	@[ -x /usr/bin/chromium ] || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq chromium; }

e2e/node_modules/.installed: e2e/package.json e2e/package-lock.json
	@command -v npm > /dev/null || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq nodejs npm; }
	cd e2e && npm ci --silent && touch node_modules/.installed

clean:
	rm -rf bin e2e/node_modules
