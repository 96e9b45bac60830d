# The commands of the project. Each works on a fresh Debian machine with Go and Node; as root they install what is missing.
.PHONY: demo test lint race laws oracle chaos mutants bench assets build pictures packages-server packages-test

SHELL := /bin/bash
ROWS ?= .

demo: packages-server build
	@exec bin/vineladder demo

build:
	@go build -o bin/vineladder ./cmd/vineladder

test: lint packages-server packages-test
	CGO_ENABLED=1 VINELADDER_CHECKS=10 go test -race -timeout 20m $(CONCURRENT)
	go test -timeout 40m ./...

# Layout and slips; what of it is the project's own stands in internal/house.
lint: node_modules
	go vet ./...
	go tool staticcheck ./...
	@test -z "$$(go tool gofumpt -l cmd internal e2e | tee /dev/stderr)" || (echo "run: go tool gofumpt -w cmd internal e2e"; exit 1)
	npm run --silent lint

# The packages in which things happen at once, with all their laws, under the race detector; “make test” has a tenth of the cases.
CONCURRENT := ./internal/store ./internal/web/gate ./internal/web/public
race: packages-server packages-test
	CGO_ENABLED=1 go test -race -count=1 -timeout 60m $(CONCURRENT) ./internal/web/workbench ./internal/demo

# The random laws, long and with a fresh seed; “make test” has them with a fixed one, so that a landing does not hang on luck.
laws: packages-server
	VINELADDER_SEED=0 VINELADDER_CHECKS=$${VINELADDER_CHECKS:-2000} go test -count=1 -timeout 60m ./internal/core/... ./internal/formats/...
	VINELADDER_SEED=0 VINELADDER_CHECKS=300 go test -count=1 -timeout 60m ./internal/store ./internal/web/...

# The consequences of 100,000 drafts against every answer of the public site; “make test” has 4,000.
oracle:
	VINELADDER_ORACLE=100000 VINELADDER_SEED=$${VINELADDER_SEED:-$$RANDOM} go test -count=1 -v -timeout 120m ./internal/oracle

# A hundred kills at random moments; “make test” has ten of them.
chaos: packages-server
	VINELADDER_CHAOS=100 go test -count=1 -v -timeout 40m ./internal/chaos

# Breaks the program on purpose: 200 times at random and 40 by hand, and says which breaks no test finds. It takes about an hour.
mutants: packages-server
	go run ./internal/mutants $(MUTANTS)

bench: packages-server
	go run ./internal/bench -rows '$(ROWS)'

assets: node_modules
	node internal/web/assets/build.mjs

pictures: packages-server packages-test
	VINELADDER_PICTURES=$(CURDIR)/docs/screenshots go test ./e2e -count=1 -run Pictures

# From the lock file. Not “npm ci”: it refuses a lock file without entries for platforms whose packages a registry lacks.
node_modules: package-lock.json
	npm install --no-save --no-audit --no-fund --ignore-scripts
	@touch node_modules

# Debian's packages, installed only where they are missing.
packages-server:
	@ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || tools/install postgresql

packages-test:
	@command -v chromium >/dev/null 2>&1 || tools/install chromium
	@command -v nginx >/dev/null 2>&1 || tools/install nginx-light
	@command -v rapper >/dev/null 2>&1 || tools/install raptor2-utils
	@ls /usr/share/wordnet/data.noun >/dev/null 2>&1 || tools/install wordnet-base
	@command -v argon2 >/dev/null 2>&1 || tools/install argon2
	@command -v xmllint >/dev/null 2>&1 || tools/install libxml2-utils
	@command -v gcc >/dev/null 2>&1 || tools/install gcc libc6-dev
	@command -v java >/dev/null 2>&1 || tools/install default-jre-headless
