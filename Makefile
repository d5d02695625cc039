# make demo        start the application with demo data and the stand-in web
# make demo-reset  the same, afresh
# make test        what must pass     make test-all  with whole worlds, as CI does
# make check       style              make mistakes  do the tests notice?
# make hardening   what it bears      make fuzz      ten minutes of nonsense
# make bench       benchmarks         make screenshots  docs/screenshots

SHELL := /bin/bash
.DEFAULT_GOAL := build
.PHONY: build demo demo-reset test test-go test-e2e check mistakes bench measure screenshots tools e2e-tools clean \
	benchmarks hardening fuzz manual parts test-all test-race test-go test-e2e other-days

build:
	go build -o bin/ ./cmd/...

demo: build
	./bin/cleverniche demo

demo-reset: build
	./bin/cleverniche demo --reset

test: test-go test-e2e
	@echo "all tests passed"

# The same, with what looks at whole worlds even where nothing changed that it is about. CI does this.
test-all:
	WORLDS=all $(MAKE) test

# With the race detector: what several do at once.
test-race:
	go test -race -count=1 -timeout 20m ./ideatable ./store ./market ./study/... ./web/...

# The reference programs that Go tests compare with.
tools:
	@./scripts/need stemwords libstemmer-tools
	@./scripts/need /usr/share/mythes/th_en_US_v2.dat mythes-en-us
	@./scripts/need /usr/share/unicode/NormalizationTest.txt.bz2 unicode-data
	@./scripts/need soffice libreoffice-writer-nogui
	@./scripts/need /usr/lib/libreoffice/program/libsclo.so libreoffice-calc-nogui
	@./scripts/need /usr/lib/python3/dist-packages/docx python3-docx
	@./scripts/need /usr/lib/python3/dist-packages/openpyxl python3-openpyxl

test-go: tools
	WORLDS=$$(scripts/worlds-changed) CLEVERNICHE_REFERENCES=required go test -vet=off -count=1 ./...
	cd readers && go test -vet=off -count=1 ./...

# Do the tests hold on other days, in other zones? Build once, then five days: a quarter of an hour.
other-days: tools
	scripts/other-days go

# The browser and the packages that drive it.
e2e-tools:
	@./scripts/need chromium-headless-shell chromium-headless-shell || ./scripts/need chromium chromium
	cd e2e && { [ -d node_modules ] && cmp -s package-lock.json node_modules/.lock-used; } || \
		{ PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --loglevel=error && \
		cp package-lock.json node_modules/.lock-used; }

test-e2e: build e2e-tools
	cd e2e && npx playwright test

screenshots: build e2e-tools
	cd e2e && SCREENSHOTS=1 npx playwright test screenshots.spec.mjs

# Pages as they are served are validated in test-e2e.
check: e2e-tools
	@test -z "$$(gofmt -l .)" || { gofmt -l .; echo "run gofmt -w on these"; exit 1; }
	scripts/long-lines
	go vet ./... && cd readers && go vet ./...
	node scripts/indent.mjs $$(git ls-files web/*/*.html)
	go run honnef.co/go/tools/cmd/staticcheck@v0.7.0 ./...
	e2e/node_modules/.bin/prettier --check --log-level warn $$(git ls-files '*.mjs' '*.js' '*.css' | grep -v /static/lib/)
	@scripts/known-holes && echo "style is as it should be, and no holes are known" || { [ $$? = 3 ] && \
		echo "style is as it should be; known holes: NOT KNOWN, the database cannot be reached from here"; }

# What it bears: kills, a power cut, a budget, hostile and large requests, fifty people. Two minutes.
hardening: build
	HARDENING=1 go test -count=1 -timeout 10m -v -run Hardening ./cmd/cleverniche ./web | grep -v '^=== '

# Every reader and all routes, fed with what nobody sends. Ten minutes.
fuzz:
	scripts/fuzz

# The manual, from the same text as help: docs/man and docs/commands.md.
manual: build
	bin/cleverniche manual docs

# The third-party parts that are shipped: their licences, and a list in SPDX.
parts:
	scripts/licences
	scripts/parts

# Small deliberate mistakes, one at a time: which of them do the tests notice? Ten minutes.
mistakes:
	node scripts/mistakes.mjs

# What the browser takes: first load, a key to the drawer, start-up.
measure: build e2e-tools
	go test ./ideatable -run '^$$' -bench BenchmarkMillion/open -benchtime 1x
	CROWD=/tmp/cleverniche-crowd.db go test ./study -run '^$$' -bench BenchmarkTopics5k/cold -benchtime 1x
	cd e2e && node measure.mjs

# Ours against general-purpose references in one run, as ratios.
bench:
	@./scripts/need /usr/lib/python3/dist-packages/sklearn python3-sklearn
	@./scripts/need /usr/lib/python3/dist-packages/networkx python3-networkx
	@./scripts/need Rscript r-base-core
	@./scripts/need stemwords libstemmer-tools
	@./scripts/need sqlite3 sqlite3
	GOMAXPROCS=1 go run ./cmd/bench

benchmarks:
	go test -run '^$$' -bench . -benchmem ./... | grep -E '^(Benchmark|pkg)'

clean:
	rm -rf bin e2e/node_modules e2e/test-results
