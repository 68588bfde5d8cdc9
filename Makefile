# Honest Ember. `make demo` and `make test` need nothing but a Debian with Python 3.11 and Node 20.
SHELL := /bin/bash
PY := .venv/bin/python
PORT ?= 8000
export PYTHONHASHSEED := 0

.PHONY: demo demo-reset web types test test-stack browser-packages check-python check-web test-core fuzz speed scale validate field shots lock clean
.DEFAULT_GOAL := demo

# The packages pinned, with hashes; each list holds the one before it. What is imported is compiled then.
INSTALL = $(PY) -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r

.venv/bin/python:
	@bash scripts/preflight.sh python
	@python3 -m venv .venv

.venv/run.stamp: requirements/run.txt | .venv/bin/python
	@echo "Installing the packages the application needs …"
	@$(INSTALL) $<
	@touch $@

.venv/demo.stamp: requirements/demo.txt | .venv/bin/python
	@echo "Installing the packages the application and the demo's stand-ins need …"
	@$(INSTALL) $<
	@touch .venv/run.stamp $@

.venv/dev.stamp: requirements/dev.txt | .venv/bin/python
	@echo "Installing the packages the tests need, and with them the application's …"
	@$(INSTALL) $<
	@touch .venv/run.stamp .venv/demo.stamp $@

web/dist/index.html: $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/package-lock.json web/vite.config.ts
	@bash scripts/preflight.sh node
	@echo "Building the screens …"
	@cd web && npm ci --silent --no-audit --no-fund && npm run --silent build
	@touch $@

web: web/dist/index.html  ## build the screens

demo: .venv/demo.stamp web/dist/index.html  ## set up, then start it with the demo systems
	@$(PY) manage.py demo --port $(PORT)

demo-reset: .venv/run.stamp  ## forget the demo's data; the next `make demo` makes it anew
	@rm -rf var/demo var/ember.sqlite3* var/queue.sqlite3* var/uploads
	@echo "The demo's data is gone."

test:  ## lint, types, import contracts, every test; what does not wait for each other side by side
	@$(MAKE) --no-print-directory -j3 --output-sync=target browser-packages check-python check-web test-stack
	EMBER_STACK=var/stack $(PY) manage.py test tests --parallel 3 --noinput

test-stack: .venv/dev.stamp web/dist/index.html  # the demo's data that the browser tests copy
	@DJANGO_SETTINGS_MODULE=server.settings.demo $(PY) -m tests.browser.stack var/stack

browser-packages:
	@bash scripts/preflight.sh python node chromium mosquitto

check-python: .venv/dev.stamp
	$(PY) -m ruff check .
	$(PY) -m ruff format --check .
	$(PY) -m mypy
	.venv/bin/lint-imports

check-web: web/dist/index.html
	cd web && npm run --silent lint && npm run --silent test

test-core: .venv/dev.stamp  ## the core's tests alone, without Django
	$(PY) -m unittest discover -s tests/core -t .

types: .venv/run.stamp  ## the screens' types anew from the API
	@$(PY) manage.py openapi > web/src/api/openapi.json
	@cd web && npm run --silent types

fuzz: .venv/dev.stamp web/dist/index.html  ## odd requests and files, kills, a full disk; some ten minutes
	$(PY) -m fuzz

speed: .venv/dev.stamp web/dist/index.html  ## measure against a plain notebook and against the limit
	$(PY) -m speed.run

scale: .venv/dev.stamp web/dist/index.html  ## the same of thousands of systems and hundreds of loggers; some half an hour
	$(PY) -m speed.scale

validate: .venv/dev.stamp  ## faults, quirks and uncertainty against the truth of the stand-ins
	$(PY) -m validation.run

field: .venv/dev.stamp  ## score logs from elsewhere: make field DIR=folder (docs/formats.md)
	@test -n "$(DIR)" || { echo "Which folder of systems? make field DIR=…"; exit 2; }
	$(PY) -m validation.field $(DIR) --write

shots: .venv/dev.stamp web/dist/index.html  ## refresh the pictures in docs/screenshots
	@bash scripts/preflight.sh chromium
	@$(PY) manage.py demo --prepare
	$(PY) scripts/shots.py

lock: .venv/dev.stamp  ## pin the packages anew from requirements/*.in (needs uv)
	.venv/bin/uv pip compile requirements/dev.in --universal --python-version 3.11 --generate-hashes --no-header --quiet -o requirements/dev.txt
	.venv/bin/uv pip compile requirements/demo.in --universal --python-version 3.11 --generate-hashes --no-header --quiet -c requirements/dev.txt -o requirements/demo.txt
	.venv/bin/uv pip compile requirements/run.in --universal --python-version 3.11 --generate-hashes --no-header --quiet -c requirements/dev.txt -o requirements/run.txt

clean:
	rm -rf .venv var web/dist web/node_modules .mypy_cache .ruff_cache .import_linter_cache .hypothesis
