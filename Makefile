# Two commands matter: `make demo` and `make test`. Both set everything up first; what is there already is not done again.
VENV := .venv
PYTHON := $(VENV)/bin/python
SETUP := $(VENV)/.setup
STATIC := src/ironstone/service/static/.built
WEB_SOURCES := $(shell find web/src -type f ) web/index.html web/package.json web/vite.config.ts
NPM := tools/npm
DEMO_REVIEW := demo/review/brake_flexure.ironstone

# Tests start some hundred processes: none of them is to compile again what another has compiled.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: docs demo test pool quick fix setup build check types looks front client client-check mutants demo-data screenshots browser bench faults

demo: setup build
	$(VENV)/bin/ironstone demo

# Python and Node are set up beside each other. The tests in a browser wait for the machine: nothing else runs beside them.
test:
	$(MAKE) --output-sync=target -j2 setup build front looks browser
	$(MAKE) -j2 types client-check
	$(MAKE) pool

pool: setup build browser
	$(PYTHON) -m pytest -n auto --dist load --maxschedchunk 1 --durations 10

# The loop of work: formatters, types, and the core's own tests.
quick: setup
	$(VENV)/bin/ruff check src demo tests tools bench
	$(VENV)/bin/mypy
	$(PYTHON) -m pytest -n auto tests/core tests/oracles

# What can be put right by itself.
fix: setup
	$(VENV)/bin/ruff format -q src demo tests tools bench
	$(VENV)/bin/ruff check -q --fix src demo tests tools bench
	cd web && ../$(NPM) exec --no -- biome check --write src tests

setup: $(SETUP)

$(SETUP): pyproject.toml constraints.txt
	python3 -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Python 3.11 or newer is needed")'
	test -x $(PYTHON) || python3 -m venv $(VENV)
	$(PYTHON) -m pip install --quiet --disable-pip-version-check --no-compile -c constraints.txt -e '.[dev]'
	touch $@

build: $(STATIC)

$(STATIC): web/node_modules/.installed $(WEB_SOURCES)
	cd web && ../$(NPM) run --silent build
	touch $@

web/node_modules/.installed: web/package-lock.json
	cd web && ../$(NPM) ci --silent --no-audit --no-fund
	touch $@

# Formatters, linters, types, and that the client is the one the service describes.
check: types looks client-check

types: setup
	$(VENV)/bin/ruff format --check src demo tests tools bench
	$(VENV)/bin/ruff check src demo tests tools bench
	$(VENV)/bin/mypy

looks: web/node_modules/.installed
	cd web && ../$(NPM) run --silent check

client-check: setup web/node_modules/.installed
	$(PYTHON) -m tools.check_client

# The front end's own functions.
front: web/node_modules/.installed
	cd web && ../$(NPM) run --silent test

browser:
	tools/chromium

demo-data: setup
	$(PYTHON) -m demo.flexure --mesh-check
	$(PYTHON) -m demo.flexure --stiffer
	$(PYTHON) -m demo.lug
	$(PYTHON) -m demo.gauges
	$(PYTHON) -m demo.truss
	$(PYTHON) -m demo.cases
	$(PYTHON) -m demo.grip
	$(PYTHON) -m demo.window
	$(PYTHON) -m demo.peel
	$(PYTHON) -m demo.mast
	$(PYTHON) -m demo.post
	$(PYTHON) -m demo.carrier
	$(PYTHON) -m demo.hood
	$(PYTHON) -m demo.untidy

# Takes about five minutes and 4 GB of a temporary folder.
bench: setup
	$(PYTHON) -m bench

# The guide and the reference as pages that are read offline.
docs: setup
	$(PYTHON) -m tools.docs_site

screenshots: setup build browser
	$(PYTHON) -m tools.screenshots


# The front end's client and colour tables, made anew from the service's own description and the package of colour maps.
client: setup web/node_modules/.installed
	$(PYTHON) -m tools.colour_maps
	$(PYTHON) -m ironstone.service.openapi > web/src/api/openapi.json
	$(PYTHON) -m tools.reading_words > web/src/bench/words.ts
	$(PYTHON) -m tools.addresses > web/tests/addresses.json
	cd web && ../$(NPM) run --silent api

# Rules of the core written wrongly, one at a time: does a test fail? About five minutes.
mutants: setup
	$(PYTHON) -m tools.mutants

# Attacks on reviews, files and the service: what survives that should not.
faults: setup
	$(PYTHON) -m bench.faults
