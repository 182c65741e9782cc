# make demo: everything with demo data · make start: without · make lan: for the shop's own network · make cluster: on three database nodes and two web servers, with demo data · make test: the whole check · make bench: figures
# make core, cli, server, web, e2e: one layer's tests, or T=… for a file or a test · make coverage: how much of the core its tests take
# make lock: newer libraries · make mutants: what no test of sizing, verdicts, states and tracing notices
# make person: add someone who can sign in · make people: list them · make disable, make password: of NAME=…
# make upgrade: the newest release in the place of the one that runs, or everything as it was
# make tidy: ended sessions, changes too old to be undone and files of no photo · make backup: everything into one file · make restore FILE=…: into an empty place · make reset: delete all data, after asking
SHELL := /bin/bash
PYTHON ?= python3
PY := .venv/bin/python
RUN_PACKAGES := python3-venv python3-dev gcc pkg-config libmariadb-dev mariadb-server-core mariadb-client
CLUSTER_PACKAGES := mariadb-server mariadb-backup galera-4 haproxy socat lsof rsync
TEST_PACKAGES := chromium git ngspice caddy haproxy systemd
PINNED := --quiet --upgrade --allow-unsafe --generate-hashes --strip-extras --no-emit-index-url --no-emit-find-links --no-emit-options
WEB_SOURCES := $(shell find web -path web/node_modules -prune -o -path web/dist -prune -o -type f -print)

.PHONY: demo start lan cluster cluster-test person people tidy disable password backup restore upgrade built reset test bench check format api lock mutants coverage core cli server web e2e

demo start: .venv/run web/dist/built-of
	@exec $(PY) -m ops $@

# Everything that serving needs, built and not started.
built: .venv/run web/dist/built-of

cluster: export PERCORSO_STATE ?= $(CURDIR)/.percorso-cluster
cluster: .venv/run web/dist/built-of
	@ops/debian.sh $(CLUSTER_PACKAGES)
	@exec $(PY) -m ops cluster

lan: .venv/run web/dist/built-of
	@ops/debian.sh caddy
	@exec $(PY) -m ops lan

person people tidy backup reset: .venv/run
	@$(PY) -m ops $@

upgrade:
	@exec $(PY) -m ops upgrade

restore: .venv/run
	@$(PY) -m ops restore "$(FILE)"

disable password: .venv/run
	@$(PY) -m ops $@ "$(NAME)"

.venv/debian: Makefile ops/debian.sh
	@ops/debian.sh $(RUN_PACKAGES)
	@$(PYTHON) -m venv .venv
	@touch $@

.venv/run: .venv/debian requirements.txt core/pyproject.toml core/setup.py $(wildcard core/percorso/*/*.pyx core/percorso/*/*.pxd) cli/pyproject.toml
	@echo "Installing Python packages"
	@$(PY) -m pip install -qq --disable-pip-version-check --require-hashes -r requirements.txt
	@$(PY) -m pip install -qq --disable-pip-version-check --no-deps --no-build-isolation -e core -e cli
	@touch $@

.venv/test: .venv/run requirements-dev.txt
	@ops/debian.sh $(TEST_PACKAGES)
	@$(PY) -m pip install -qq --disable-pip-version-check --require-hashes -r requirements-dev.txt
	@touch $@

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	@echo "Installing front-end packages"
	@npm --prefix web ci --silent
	@touch $@

web/dist/built-of: .venv/run web/node_modules/.package-lock.json $(WEB_SOURCES)
	@echo "Building the front end"
	@npm --prefix web run --silent build -- --logLevel warn
	@$(PY) -m whitenoise.compress --quiet web/dist/static
	@$(PY) -m ops.front_end

SERVER_TESTS := server/percorso_server ops bench

test: check web/dist/built-of
	@npm --prefix web run --silent test
	@$(PY) -m ops test e2e
	@$(PY) -m ops test $(SERVER_TESTS) cli/tests core/tests

cluster-test: .venv/test web/dist/built-of
	@ops/debian.sh $(CLUSTER_PACKAGES)
	@$(PY) -m ops test ops.tests.cluster

core: .venv/test
	@$(PY) -m ops test $(or $(T),core/tests)

coverage: .venv/test
	@$(PY) -m ops coverage

cli: .venv/test
	@$(PY) -m ops test $(or $(T),cli/tests)

server: .venv/test web/dist/built-of
	@$(PY) -m ops test $(or $(T),$(SERVER_TESTS))

web: web/node_modules/.package-lock.json web/dist/built-of
	@npm --prefix web run --silent lint
	@npm --prefix web run --silent types
	@npm --prefix web run --silent test

e2e: .venv/test web/dist/built-of
	@$(PY) -m ops test $(or $(T),e2e)

check: .venv/test web/node_modules/.package-lock.json
	@.venv/bin/ruff check .
	@.venv/bin/ruff format --check --quiet .
	@cd server && PERCORSO_SECRET_KEY=types ../.venv/bin/mypy --config-file ../pyproject.toml
	@PYTHONPATH=server .venv/bin/lint-imports --no-cache
	@ops/contract.sh
	@npm --prefix web run --silent lint
	@npm --prefix web run --silent types

# Writes anew what is generated from the code: the typed contract, the schema of job files, lists of rules and tables.
api: .venv/test web/node_modules/.package-lock.json
	@ops/contract.sh --write
	@.venv/bin/percorso schema > docs/job-file.schema.json
	@.venv/bin/percorso rules > docs/findings.md
	@.venv/bin/percorso tables > docs/tables.md

format: .venv/test web/node_modules/.package-lock.json
	@.venv/bin/ruff check --fix --quiet . ; .venv/bin/ruff format --quiet .
	@npm --prefix web run --silent format

# Takes what is new in the libraries, within the bounds of requirements*.in and package.json.
lock: .venv/test web/node_modules/.package-lock.json
	@$(PY) -m piptools compile $(PINNED) --output-file=requirements.txt requirements.in
	@$(PY) -m piptools compile $(PINNED) --output-file=requirements-dev.txt requirements-dev.in
	@npm --prefix web update --silent
	@node -e 'const fs = require("fs"), f = "web/package-lock.json", lock = JSON.parse(fs.readFileSync(f)); \
		for (const each of Object.values(lock.packages)) delete each.funding; /* addresses of others */ \
		fs.writeFileSync(f, JSON.stringify(lock, null, 2) + "\n")'

bench: .venv/test web/dist/built-of
	@$(PY) -m bench

# Takes hours; MUTANTS=200 tries so many of them, chosen by chance.
mutants: .venv/test
	@$(PY) -m pip install -qq --disable-pip-version-check cosmic-ray
	@$(PY) -m bench.mutants $(MUTANTS)
