# Everything that is done to Fernbrook, from a fresh clone on. `make help` lists it.
PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
DEMO := .demo
STAMPS := .stamps
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts

.PHONY: help demo test dev lint bench screenshots client clean web format chromium

help: ## This list
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

demo: $(STAMPS)/python web ## Install, build, make the demo mix, start the application
	$(BIN)/fernbrook serve --demo --data $(DEMO) --open

test: $(STAMPS)/python $(STAMPS)/node web chromium ## All tests, the page in Chromium included
	cd web && npm run --silent typecheck && npm run --silent test
	$(BIN)/pytest -n auto --dist loadfile --ignore tests/e2e
	$(BIN)/pytest tests/e2e

lint: $(STAMPS)/python $(STAMPS)/node ## Formatting, style and types of both sides
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	cd web && npm run --silent lint && npm run --silent typecheck

format: $(STAMPS)/python $(STAMPS)/node ## Lay out all code
	$(BIN)/ruff format . && $(BIN)/ruff check --fix .
	cd web && npm run --silent format

dev: $(STAMPS)/python $(STAMPS)/node ## Both sides with reload: the page at localhost:5173
	$(BIN)/python -m fernbrook.api.dev & trap "kill $$!" EXIT; cd web && npm run dev

bench: $(STAMPS)/bench ## Speed, memory and accuracy as ratios to a yardstick
	$(BIN)/python -m bench

screenshots: $(STAMPS)/python web chromium ## Pictures of the main views, from the demo mix
	$(BIN)/python -m tests.e2e.screenshots docs/screenshots --data $(DEMO)

client: $(STAMPS)/python $(STAMPS)/node ## The page's typed client, from the API's schema
	$(BIN)/python -m fernbrook.api.schema_file > web/openapi.json
	cd web && npm run --silent client

web: fernbrook/webapp/index.html ## The built page

clean: ## Remove all that was installed, built or made
	rm -rf $(VENV) $(STAMPS) $(DEMO) web/node_modules fernbrook/webapp *.egg-info

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV) || python3 -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

$(STAMPS)/bench: $(STAMPS)/python requirements-bench.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-bench.lock
	@touch $@

$(STAMPS)/node: web/package-lock.json
	@mkdir -p $(STAMPS)
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

fernbrook/webapp/index.html: $(STAMPS)/node $(WEB_SOURCES)
	cd web && npm run --silent build -- --logLevel warn
	@touch $@

chromium:
	@command -v chromium >/dev/null || { apt-get update -qq && apt-get install -y -qq chromium fonts-liberation; }
