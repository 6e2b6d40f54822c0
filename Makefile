# Everything a developer runs. `make test` needs Go and Node.js and gets the
# rest itself.
.PHONY: test build tools vet go-test front e2e bench fuzz explore mutate soak judge screenshots

export CHROMIUM ?= /usr/bin/chromium

test: tools vet go-test front e2e

# npm packages and a Chromium for the browser tests, where they are missing.
tools:
	@test -d node_modules/playwright-core -a node_modules -nt package-lock.json || npm ci
	@test -x $(CHROMIUM) || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends chromium; }

# Formatting, what the compiler doubts, and code that no command reaches.
vet:
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "gofmt would change:"; gofmt -l $$(git ls-files '*.go'); exit 1; }
	go vet ./...
	go tool staticcheck ./...
	@dead="$$(go tool deadcode ./cmd/...)"; test -z "$$dead" || { echo "No command reaches:"; echo "$$dead"; exit 1; }

# Everything that is drawn is drawn from one seed here, so that a failure is the
# change's; make explore draws what nobody has seen.
go-test: export RAPID_SEED = 1
go-test: export RAPID_NOFAILFILE = true
go-test:
	go test -race -timeout 40m ./...
	go test ./cmd/valleyside -run TestAStudioTravels -count=1 # how much memory it takes, which the race detector hides

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
	go test ./core/lesson -fuzz FuzzStepID -fuzztime 30s
	for form in MusicXML MXL MIDI Tab Words; do go test ./formats -run xxx -fuzz Fuzz$$form\$$ -fuzztime 60s -fuzzminimizetime 1x || exit 1; done
	go test ./formats/table -fuzz FuzzRead -fuzztime 30s

# What nobody has seen: ten minutes each of hands, tunings and sheets in the core, of
# what is sent to the pages, and of exports with one value changed; and of everything that
# is drawn, more, from new seeds.
explore:
	go test ./core/words -run xxx -fuzz FuzzWhatever -fuzztime 10m -fuzzminimizetime 1x
	VALLEYSIDE_EXPLORE=10m go test ./web -run 'TestWhateverIsSent|TestExportsWithOneValueChanged' -count=1 -timeout 60m -v | grep -v "^time="
	VALLEYSIDE_EXPLORE=10m go test ./formats -run TestOddStructures -count=1 -timeout 60m -v
	RAPID_CHECKS=3000 go test ./core/... ./formats/... -timeout 120m

# The share of small changes to the core that its tests notice: those of the list, and
# some that are drawn.
mutate:
	go run ./cmd/mutate -n 40

# The power goes off 204 times, at random moments of everything that writes.
soak:
	VALLEYSIDE_SOAK=34 go test ./cmd/valleyside -run TestSoak -count=1 -v | grep -v "^=== "

screenshots:
	npm run -s screenshots
