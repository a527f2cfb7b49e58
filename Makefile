# Everything is built and tested through here, so that the build tag for
# SQLite's full-text index is set in one place, and that a statement which is kept
# prepared stays so: without “query planner stability” SQLite makes most of ours anew
# with each value that is bound (https://www.sqlite.org/queryplanner-ng.html#qpstab).
export GOFLAGS := -buildvcs=false -tags=sqlite_fts5
export CGO_ENABLED := 1
export CGO_CFLAGS := -O2 -g -DSQLITE_ENABLE_QPSG

UI_SOURCES := $(shell find ui/src ui/index.html ui/public ui/vite.config.ts ui/package.json -type f 2>/dev/null)
GO_SOURCES := $(shell find cmd internal -name '*.go' -o -name '*.sql' | grep -v '/dist/')

.PHONY: demo serve test fuzz-briefly lint bench bench-scale learning shots types check-types clean

demo: bin/ebbe
	./bin/ebbe demo

serve: bin/ebbe
	./bin/ebbe serve

test: bin/ebbe check-types
	go test -timeout 75m ./...
	$(MAKE) fuzz-briefly

# Every fuzz target goes on from its kept corpus for a second.
fuzz-briefly:
	@for target in $$(grep -rEo '^func Fuzz[A-Za-z]+' internal --include='*_test.go' | sed 's/:func /:/'); do \
		pkg=./$$(dirname $${target%%:*}); echo "$$pkg $${target##*:}"; \
		go test $$pkg -run '^$$' -fuzz "^$${target##*:}\$$" -fuzztime 1s >/tmp/ebbe-fuzz.log 2>&1 || { cat /tmp/ebbe-fuzz.log; exit 1; }; \
	done

lint: ui/node_modules internal/webui/dist/index.html
	test -z "$$(gofmt -l cmd internal e2e bench learning)" || (gofmt -l cmd internal e2e bench learning; exit 1)
	go mod tidy -diff
	go vet ./...
	go tool staticcheck ./...
	cd ui && npm run --silent lint

# All figures, or those of some rows: make bench ROW=importing
bench: bin/ebbe
	go run ./bench $(ROW)

# How it grows, for a quarter of an hour: with letters, persons, sign-ins.
bench-scale: bin/ebbe
	go run -tags=sqlite_fts5,sqlite_dbstat ./bench scale

# How well letters are sorted and ranked, written to docs/learning.md.
learning:
	go run ./learning

shots: bin/ebbe
	go run ./e2e/shots

# Without the interface, which may need the new types to be built.
types: ui/node_modules
	go run ./cmd/ebbe api > api/openapi.json
	go run ./cmd/ebbe api --tables > ui/src/api/tables.ts
	cd ui && npm run --silent types

# The description and the types made from it are checked in; this fails when
# they are stale.
check-types: bin/ebbe ui/node_modules
	./bin/ebbe api | cmp - api/openapi.json
	./bin/ebbe api --tables | cmp - ui/src/api/tables.ts
	cd ui && npx openapi-typescript ../api/openapi.json | cmp - src/api/schema.d.ts

bin/ebbe: $(GO_SOURCES) go.mod go.sum internal/webui/dist/index.html
	go build -o bin/ebbe ./cmd/ebbe

internal/webui/dist/index.html: ui/node_modules $(UI_SOURCES)
	rm -rf internal/webui/dist/assets
	cd ui && npm run --silent build

# Not “npm ci”: where a registry lacks packages for other systems, the lock file
# lacks them too, and ci refuses it; install takes the locked versions as well.
ui/node_modules: ui/package.json ui/package-lock.json
	cd ui && npm install --no-save --no-fund --no-audit --loglevel=error
	touch ui/node_modules

clean:
	rm -rf bin ui/node_modules internal/webui/dist/assets internal/webui/dist/index.html*
