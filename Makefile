# Everything a developer runs. `make test` needs Go and Node.js and gets the
# rest itself.
.PHONY: test build tools vet go-test front e2e bench fuzz soak judge screenshots

export CHROMIUM ?= /usr/bin/chromium

test: tools vet go-test front e2e

# npm packages and a Chromium for the browser tests, where they are missing.
tools:
	@test -d node_modules/playwright-core -a node_modules -nt package-lock.json || npm ci
	@test -x $(CHROMIUM) || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends chromium; }

vet:
	@test -z "$$(gofmt -l cmd core demo docs formats store web)" || { echo "gofmt would change:"; gofmt -l cmd core demo docs formats store web; exit 1; }
	go vet ./...
	go tool staticcheck ./...

go-test:
	go test -race ./...

# web/static must be what web/frontend builds.
front:
	npm run -s check

e2e:
	npm run -s e2e

build:
	npm run -s build
	go build -o bin/valleyside ./cmd/valleyside

bench:
	go test -run xxx -bench . -benchmem ./core/... ./formats/... ./web/...

# The share of a teacher's answers that hold, by kind, and those that do not.
judge:
	@go test ./core/judge -count=1 -v | grep -E "^ |aim"

fuzz:
	go test ./core/sheet -fuzz FuzzParse -fuzztime 60s
	go test ./core/chord -fuzz FuzzParse -fuzztime 30s
	go test ./core/arrange -fuzz FuzzArrange -fuzztime 60s
	for form in MusicXML MXL MIDI Tab Words; do go test ./formats -run xxx -fuzz Fuzz$$form\$$ -fuzztime 60s -fuzzminimizetime 1x || exit 1; done
	go test ./formats/table -fuzz FuzzRead -fuzztime 30s

# The power goes off 204 times, at random moments of everything that writes.
soak:
	VALLEYSIDE_SOAK=34 go test ./cmd/valleyside -run TestSoak -count=1 -v | grep -v "^=== "

screenshots:
	npm run -s screenshots
