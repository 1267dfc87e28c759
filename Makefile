# One command each: everything is set up first where it is not yet.
PYTHON ?= python3.11
BIN = .venv/bin
STEP = node_modules/.package-lock.json
# What does not wait for each other is done side by side.
MAKEFLAGS += --jobs=2

.PHONY: setup demo run test bench api guide clean check-python check-frontend

setup: .venv/ready src/pale_static/web/app/index.html

.venv/ready: pyproject.toml
	test -x $(BIN)/python || $$(command -v $(PYTHON) || command -v python3) -m venv .venv
	$(BIN)/pip install --quiet --disable-pip-version-check --editable '.[test]'
	@echo "Compiling kernels (once)…"
	$(BIN)/python tools/compile_kernels.py
	touch .venv/ready

frontend/$(STEP): frontend/package-lock.json
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch frontend/$(STEP)

src/pale_static/web/app/index.html: frontend/$(STEP) $(shell find frontend/src frontend/public frontend/index.html frontend/vite.config.ts -type f 2>/dev/null)
	cd frontend && npm run --silent build -- --logLevel warn
	touch $@

demo: setup
	$(BIN)/pale-static serve --demo --data demo-data

run: setup
	$(BIN)/pale-static serve --data data

test: setup check-python check-frontend
	./tests/need-chromium
	$(BIN)/pytest --numprocesses 2 --dist loadfile --no-loadscope-reorder

check-python: .venv/ready
	$(BIN)/ruff check src tests bench tools
	$(BIN)/ruff format --check src tests bench tools
	$(BIN)/mypy

check-frontend: frontend/$(STEP)
	cd frontend && npm run --silent types && npm run --silent lint && npm run --silent format

bench: setup
	$(BIN)/python -m bench

api: .venv/ready frontend/$(STEP)
	$(BIN)/python -m pale_static.web.describe frontend docs/formats
	cd frontend && npm run --silent api

guide: .venv/ready
	$(BIN)/python -m pale_static.guide docs/guide/steps
	$(BIN)/python -m pale_static.demo.sheet docs/screenshots/macros.png docs/guide/macros

clean:
	rm -rf .venv frontend/node_modules src/pale_static/web/app
	find src tests bench -name __pycache__ -prune -exec rm -rf {} +
