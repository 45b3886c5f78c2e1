# Two commands on a fresh machine: `make demo` and `make test`.
PY = .venv/bin/python
DATA ?= $(CURDIR)/data
export SHAPKEEN_DATA ?= $(DATA)
export NUMBA_CACHE_DIR ?= $(CURDIR)/.venv/kernels

.PHONY: scripts help setup demo footage run worker test test-core check bench rates reliability acts kinds sounds suspicions fuzz tools clean
help:  ## list the targets
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

.venv/ok: requirements.txt requirements-dev.txt requirements-bootstrap.txt pyproject.toml
	@echo "Making the environment in .venv …"
	@test -x $(PY) || python3 -m venv .venv
	@.venv/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements-bootstrap.txt
	@.venv/bin/uv pip install -q --python $(PY) --require-hashes --compile-bytecode -r requirements.txt -r requirements-dev.txt
	@.venv/bin/uv pip install -q --python $(PY) --no-deps --no-build-isolation --config-settings editable_mode=compat -e .
	@$(PY) -m compileall -q shapkeen
	@echo "Compiling the loops …"
	@$(PY) -m shapkeen.core.measured.frame_statistics.warm
	@touch $@

setup: .venv/ok  ## make the environment in .venv, with the shapkeen command

demo: .venv/ok  ## fill the library with the demo, start everything
	@exec $(PY) manage.py serve --demo --greeting "  Log in as editor with the password orrery-keeper"

footage: .venv/ok  ## render and encode the demo's footage anew; ships with the application
	@$(PY) -m shapkeen.demo.shipped

run: .venv/ok  ## start the web server and a worker on the data as it is
	@exec $(PY) manage.py serve

worker: .venv/ok  ## start one more background worker
	@exec $(PY) manage.py db_worker --queue-name '*' --interval 0.3 --no-reload

DEBIAN = chromium mkvtoolnix openssl poppler-utils libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0

tools:
	@{ command -v chromium && command -v mkvmerge && command -v openssl && command -v pdftotext && \
	  ldconfig -p | grep libpangoft2-1.0 && ldconfig -p | grep libharfbuzz-subset; } >/dev/null || \
	  { [ "$$(id -u)" = 0 ] && apt-get update -q >/dev/null && DEBIAN_FRONTEND=noninteractive \
	  apt-get install -y -q --no-install-recommends $(DEBIAN) >/dev/null; } || \
	  { echo "The tests need Chromium, mkvmerge, openssl, pdftotext and Pango; only root can install them:"; \
	    echo "sudo apt-get install $(DEBIAN)"; exit 1; }

test: .venv/ok tools  ## every test: core, web, browser
	@folder=$$(mktemp -d) && trap 'rm -rf "$$folder"' EXIT && \
	  TMPDIR=$$folder SHAPKEEN_DATA=$$folder SHAPKEEN_TEST_FOOTAGE=$(CURDIR)/.venv/footage \
	  OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(PY) -W ignore manage.py test --parallel 4

test-core: .venv/ok tools  ## the core's tests: no database
	@$(PY) -W ignore manage.py test tests.core tests.cli --parallel 2

TYPES = .venv/scripts/node_modules/typescript/bin/tsc

$(TYPES): tools/scripts/package-lock.json
	@command -v npm >/dev/null || { [ "$$(id -u)" = 0 ] && apt-get update -q >/dev/null && \
	  DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends nodejs npm >/dev/null; } || \
	  { echo "Typing the scripts needs npm; only root can install it: sudo apt-get install nodejs npm"; exit 1; }
	@mkdir -p .venv/scripts && cp tools/scripts/package*.json .venv/scripts/
	@npm ci --prefix .venv/scripts --silent --no-audit --no-fund && touch $@

scripts: $(TYPES)  ## types of the pages' scripts
	@node $(TYPES) -p tools/scripts

check: .venv/ok scripts  ## format, lint, types, import contracts, migrations
	@.venv/bin/ruff format --check -q . || { echo "run: .venv/bin/ruff format ."; exit 1; }
	@.venv/bin/ruff check -q .
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-logo
	@$(PY) manage.py makemigrations --check --dry-run -v0

bench: .venv/ok  ## measure speed, as ratios within one run
	@$(PY) -m benchmarks.read
	@$(PY) -m benchmarks.compare
	@$(PY) -m benchmarks.survey
	@$(PY) -m benchmarks.first_look
	@$(PY) -m benchmarks.hd
	@$(PY) -m benchmarks.immersive
	@$(PY) -m benchmarks.look
	@$(PY) -m benchmarks.stills
	@$(PY) -m benchmarks.cure
	@$(PY) -m benchmarks.pages
	@$(PY) -m benchmarks.load
	@$(PY) -m benchmarks.cluster

rates: .venv/ok  ## acts on spheres and eyes through the encoder: named rightly, how many
	@$(PY) -W ignore -m tests.rates

reliability: .venv/ok  ## of the causes that are named, how many are right, on pictures that nothing was tuned on
	@$(PY) -W ignore -m tests.reliability

acts: .venv/ok tools  ## acts that the tests share out over the photographs: every one on each
	@SHAPKEEN_EVERY_CASE=1 $(PY) -W ignore -m unittest \
	  tests.core.judged.test_conversions tests.core.judged.test_detail_acts \
	  tests.core.judged.test_damage tests.core.judged.test_eyes_acts \
	  tests.core.judged.test_sphere_acts tests.core.judged.test_rates \
	  tests.core.judged.test_shots tests.core.judged.test_broken_streams \
	  tests.core.measured.test_timing tests.core.measured.test_anchors \
	  tests.core.measured.test_registration tests.core.measured.test_sharpness \
	  tests.core.measured.test_sound tests.core.judged.test_sound \
	  tests.core.cured.test_tables tests.core.cured.versions.test_making

kinds: .venv/ok  ## kinds of export that are easily taken for another; SIDE=aside and others: those kept aside
	@$(PY) -W ignore -m tests.kinds $(SIDE)

sounds: .venv/ok  ## acts on sound: named rightly, how many; SIDE=aside: music and voices kept aside
	@$(PY) -W ignore -m tests.sounds $(SIDE)

suspicions: .venv/ok  ## what an export alone is suspected of: rightly, how often; SIDE=aside: those kept aside
	@$(PY) -W ignore -m tests.suspicions $(SIDE)

fuzz: .venv/ok  ## 100 000 mutated files through every reader
	@$(PY) -W ignore -m tests.fuzz

clean:  ## remove the environment and the demo's data
	rm -rf .venv data
