# make demo, make test, make jobs, make shots, make bench. Each sets up what it needs on a fresh Debian with Python 3.11.
SHELL := /bin/bash
PY := .venv/bin/python
PORT ?= 8765
export KEEN_COIL_DB ?= var/keen-coil.db
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo test check jobs shots bench vendor schema lock clean

PANGO := libpango-1.0-0 libpangoft2-1.0-0 fonts-dejavu-core
CAMERA := libgl1 libglib2.0-0
FACES := fonts-liberation fonts-freefont-ttf fonts-roboto-unhinted fonts-lato

demo: .venv/run.stamp
	@bash scripts/debian_packages.sh $(PANGO) || echo "Without these only PDF fails." >&2
	@bash scripts/debian_packages.sh $(CAMERA) || echo "Without these photographs of plates are kept and not read." >&2
	$(PY) -m keen_coil demo
	$(PY) -m keen_coil serve --port $(PORT)

test: .venv/dev.stamp
	@bash scripts/debian_packages.sh chromium-headless-shell ngspice poppler-utils $(PANGO) $(CAMERA)
	@command -v java >/dev/null || bash scripts/debian_packages.sh default-jre-headless
	@$(MAKE) --no-print-directory frontend/node_modules/.package-lock.json
	$(MAKE) --no-print-directory check
	$(PY) -m compileall -q src tests bench
	$(PY) -m pytest

frontend/node_modules/.package-lock.json: frontend/package-lock.json
	@command -v npm >/dev/null || bash scripts/debian_packages.sh npm
	cd frontend && npm ci --ignore-scripts --no-audit --no-fund

check: .venv/dev.stamp
	.venv/bin/ruff check src tests bench scripts jobs
	.venv/bin/ruff format --check src tests bench scripts jobs
	$(PY) scripts/face.py
	$(PY) scripts/unused.py
	$(PY) scripts/sizes.py
	.venv/bin/deptry src
	.venv/bin/mypy
	.venv/bin/lint-imports
	.venv/bin/djlint src/keen_coil/web/templates --lint --quiet

JOB ?=
DIR ?= jobs
OUT ?= var/jobs

jobs: .venv/dev.stamp
	@bash scripts/debian_packages.sh chromium-headless-shell poppler-utils $(PANGO)
	PYTHONPATH=. $(PY) -W ignore -m jobs --job "$(JOB)" --dir "$(DIR)" --out "$(OUT)"

shots: .venv/dev.stamp
	@bash scripts/debian_packages.sh chromium-headless-shell
	PYTHONPATH=. $(PY) scripts/shots.py

bench: .venv/dev.stamp
	@bash scripts/debian_packages.sh chromium-headless-shell $(PANGO) $(CAMERA) $(FACES)
	$(PY) -m pytest bench -n 0 -q -s

vendor:
	cd frontend && npm ci --ignore-scripts --no-audit --no-fund && python3 vendor.py

schema: .venv/run.stamp
	$(PY) -m keen_coil schema docs/schema

lock: .venv/dev.stamp
	.venv/bin/pip-compile -q $(LOCK) --allow-unsafe --extra dev --extra plates -o requirements-dev.txt pyproject.toml
	.venv/bin/pip-compile -q $(LOCK) -c requirements-dev.txt -o requirements.txt pyproject.toml
	.venv/bin/pip-compile -q $(LOCK) -c requirements-dev.txt --extra plates -o requirements-plates.txt pyproject.toml
LOCK := --generate-hashes --strip-extras --no-header --no-emit-index-url --no-emit-find-links --no-emit-trusted-host

.venv/bin/python:
	@bash scripts/debian_packages.sh python3-venv
	python3 -m venv .venv

.venv/run.stamp: requirements.txt requirements-plates.txt pyproject.toml | .venv/bin/python
	@test -e .venv/dev.stamp || $(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements.txt
	@test -e .venv/dev.stamp || $(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements-plates.txt \
		|| echo "Without these photographs of plates are kept and not read." >&2
	$(PY) -m pip install -q --disable-pip-version-check --no-deps -e .
	@touch $@

.venv/dev.stamp: requirements-dev.txt pyproject.toml | .venv/bin/python
	$(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements-dev.txt
	$(PY) -m pip install -q --disable-pip-version-check --no-deps -e .
	@touch $@ .venv/run.stamp

clean:
	rm -rf .venv var .pytest_cache .mypy_cache .ruff_cache .hypothesis
