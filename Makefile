# One command each: everything is set up first where it is not yet.
PYTHON ?= python3.11
BIN = .venv/bin
STEP = node_modules/.package-lock.json
PAGE = src/pale_static/web/app/index.html
CODE = src tests bench
# Independent targets run side by side.
MAKEFLAGS += --jobs=2
# Let Python keep its bytecode; otherwise each process of a test run compiles all sources again.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: help setup demo run dev test chromium check check-python check-frontend fix bench fuzz soak api guide wheel clean

help: ## List these commands
	@sed -n 's/^\([a-z-]*\):.*## \(.*\)/make \1\t\2/p' Makefile | expand -t 18

setup: .venv/begun $(PAGE) ## Set up what running needs

VENV = test -x $(BIN)/python || $$(command -v $(PYTHON) || command -v python3) -m venv .venv
PIP = $(BIN)/pip install --quiet --disable-pip-version-check
# uv fetches and unpacks side by side, four times as fast as pip. If only pip is set up to reach a
# package index, pip does it. Neither compiles modules; Python does that at the first import.
INSTALL = { $(PIP) uv==0.13.9 && $(BIN)/uv pip install --quiet --python $(BIN)/python $(1); } || \
	$(PIP) --no-compile $(1)

.venv/run: pyproject.toml
	$(VENV)
	$(call INSTALL,--editable .)
	touch .venv/run

# One core is free while the page is built. It compiles the modules that the server imports, and
# then kernels, which the server would compile itself.
.venv/begun: .venv/run
	$(BIN)/python -c "import pale_static.serving, pale_static.demo.fill"
	nice -n 15 $(BIN)/python -m pale_static.jobs.compiling --until $(PAGE)
	touch .venv/begun

# The packages for testing include those for running, so one installation is enough.
.venv/packages: pyproject.toml
	$(VENV)
	$(call INSTALL,--editable '.[test]')
	touch .venv/run .venv/packages

.venv/ready: .venv/packages
	@echo "Compiling kernels (once)…"
	$(BIN)/python -m pale_static.jobs.compiling
	touch .venv/ready

ifneq ($(filter demo run setup,$(MAKECMDGOALS)),)
.venv/packages: | .venv/run
endif

frontend/$(STEP): frontend/package-lock.json
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch frontend/$(STEP)

$(PAGE): frontend/$(STEP) $(shell find frontend/src frontend/public frontend/index.html frontend/*.ts frontend/*.tsx -type f 2>/dev/null)
	cd frontend && npm run --silent build -- --logLevel warn
	touch $@

demo: setup ## Fill the demo and start the application
	$(BIN)/pale-static serve --demo --data demo-data

run: setup ## Start the application on a library of your own, in data/
	$(BIN)/pale-static serve --data data

dev: .venv/ready $(PAGE) ## Serve the demo; reload the page and restart the server on changes
	$(BIN)/watchfiles --filter python --target-type command \
		'$(BIN)/pale-static serve --demo --data demo-data --port 8710' src & \
	trap "kill $$!" EXIT; cd frontend && npm run --silent dev

test: .venv/ready $(PAGE) check-python check-frontend chromium ## Check, then run all tests
	$(BIN)/pytest --numprocesses $$(( $$(nproc) + 1 )) --dist loadfile --no-loadscope-reorder

chromium:
	./tests/need-chromium

check: check-python check-frontend ## Run all linters and type checks

check-python: .venv/packages
	$(BIN)/ruff check $(CODE)
	$(BIN)/ruff format --check $(CODE)
	$(BIN)/mypy

check-frontend: frontend/$(STEP)
	cd frontend && npm run --silent types && npm run --silent lint && npm run --silent format
	cd frontend && npm run --silent test -- --reporter=dot

fix: .venv/ready frontend/$(STEP) ## Format the code, and fix what linters can fix
	$(BIN)/ruff check --quiet --fix $(CODE)
	$(BIN)/ruff format --quiet $(CODE)
	cd frontend && npx eslint . --fix && npx prettier --log-level warn --write .

bench: .venv/ready $(PAGE) ## Measure speed; "make bench ROWS='starting films'" for a part
	$(BIN)/python -m bench $(ROWS)

SECONDS ?= 600
MINUTES ?= 30

fuzz: .venv/ready ## Throw broken files, bodies, formulas and addresses at it; SECONDS, SEED
	$(BIN)/python -m tests.attack $(SECONDS) $(SEED)
	EXAMPLES=explore $(BIN)/pytest -m hypothesis

soak: .venv/ready $(PAGE) ## Play, change and render for MINUTES; nothing may grow
	$(BIN)/python -m tests.attack.soak $(MINUTES)

api: .venv/ready frontend/$(STEP) ## Write the API's description, types and formats
	$(BIN)/python -m pale_static.web.describe frontend docs/formats
	cd frontend && npm run --silent api

guide: .venv/ready ## Write the pages of steps and macros
	$(BIN)/python -m pale_static.guide docs/guide/steps
	$(BIN)/python -m pale_static.demo.sheet docs/screenshots/macros.png docs/guide/macros

wheel: setup ## Build a wheel that carries the page, in dist/
	$(BIN)/pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .

clean: ## Remove all that was set up and built
	rm -rf .venv frontend/node_modules src/pale_static/web/app dist build
	find $(CODE) -name __pycache__ -prune -exec rm -rf {} +
