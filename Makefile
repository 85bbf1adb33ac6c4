# make demo    sets up all that is needed and starts Winnow on the demo shoot
# make test    sets up all that is needed and runs every check and test
# make coverage  the same tests, and which branches they leave out
# make setup   the set-up alone; the other two call it

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
NPM := npm --prefix web
WEB_SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts web/tsconfig.json -type f)

.PHONY: demo test coverage setup debian check check-style check-types check-windows check-web lock types screenshots docs clean
.DELETE_ON_ERROR:

demo: setup
	$(BIN)/winnow demo

setup: .stamps/python .stamps/web

# Tests are shared out to the cores, and whoever is done first takes over from the other. Compiled modules are kept, whatever the
# environment says: the tests start hundreds of processes.
test: setup debian check
	PYTHONDONTWRITEBYTECODE= $(BIN)/python -m pytest --numprocesses auto --dist worksteal

# Which branches of the core, the store and the handoff tests go through.
coverage: setup debian
	rm -rf /tmp/winnow-coverage && mkdir /tmp/winnow-coverage
	$(BIN)/coverage run -m pytest --numprocesses auto --dist worksteal
	$(BIN)/coverage combine --quiet
	$(BIN)/coverage report --skip-covered

# Side by side: none of them keeps a processor busy all the time.
check: .stamps/typegen
	$(MAKE) --jobs 2 --output-sync=target check-types check-windows check-web check-style

check-style:
	$(BIN)/ruff check winnow tests
	$(BIN)/ruff format --check winnow tests
	$(BIN)/lint-imports

check-types:
	$(BIN)/mypy

check-windows:
	$(BIN)/mypy --platform win32 --cache-dir .mypy_cache/win32

check-web:
	$(NPM) run check
	$(NPM) test

.stamps/python: requirements.lock pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation -e .
	mkdir -p .stamps && touch $@

.stamps/node: web/package-lock.json
	npm --prefix web ci
	mkdir -p .stamps && touch $@

.stamps/typegen: web/typegen/package-lock.json
	npm --prefix web/typegen ci
	mkdir -p .stamps && touch $@

.stamps/web: .stamps/node $(WEB_SOURCES)
	$(NPM) run build
	mkdir -p .stamps && touch $@

# What the tests need from Debian: a browser to drive, two independent readers of metadata, one of PDF, readers of desktop entries and
# units, the library that decodes JPEGs to planes, and a compiler for the disk that does not answer.
debian:
	@if ! command -v chromium >/dev/null || ! command -v chromedriver >/dev/null || \
	    ! command -v desktop-file-validate >/dev/null || ! command -v systemd-analyze >/dev/null || \
	    ! command -v gcc >/dev/null || ! command -v exiftool >/dev/null || ! command -v exiv2 >/dev/null || ! command -v pdftotext >/dev/null || \
	    ! dpkg -s libturbojpeg0 >/dev/null 2>&1; then \
	  root=$$(test "$$(id -u)" = 0 || echo sudo); \
	  $$root apt-get update -q && $$root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q \
	    --no-install-recommends chromium chromium-driver libimage-exiftool-perl exiv2 poppler-utils \
	    libturbojpeg0 desktop-file-utils systemd gcc libc6-dev; \
	fi

# After a change of pyproject.toml's dependencies.
lock:
	$(PYTHON) -m pip install --quiet uv
	$(PYTHON) -m uv pip compile pyproject.toml --all-extras --generate-hashes --no-header --no-emit-index-url \
	  --no-emit-find-links --python-version 3.11 --quiet -o requirements.lock

# After a change of the API: the document and the interface's types follow.
types: .stamps/typegen
	$(BIN)/python -m winnow.api.schema > web/openapi.json
	$(NPM) run types

# After a change of a screen: look at each before it is committed.
screenshots: setup debian
	$(BIN)/python -m tests.browser.screenshots

# The documentation as pages: open site/index.html.
docs: .stamps/python
	$(BIN)/python -m mkdocs build --strict --quiet

clean:
	rm -rf $(VENV) .stamps site web/node_modules web/typegen/node_modules winnow/api/static
