# Everything from a bare Debian machine with Python 3.11 or newer.
#   make demo   start the application on the demo songs
#   make test   run the whole test suite
#   make install PREFIX=/usr/local   install it with its libraries; make deb   a Debian package in build/
SHELL := /bin/bash
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)

PREFIX ?= /usr/local

.PHONY: install deb deb-test demo test lint format screenshots bench corpus floors reliability soak clean system

demo: $(STAMP) system
	$(BIN)/ychronos --demo

test: $(STAMP) system
	QT_QPA_PLATFORM=offscreen YCHRONOS_AUDIO=manual $(BIN)/python -m pytest -n 2 --dist loadfile --max-worker-restart 0
	bash packaging/xvfb-test.sh $(BIN)/python

lint: $(STAMP)
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/lint-imports
	$(BIN)/python tools/circles.py
	$(BIN)/mypy

# Under PREFIX, desktop entry, manual page and completions as well.
install:
	bash packaging/install.sh "$(PREFIX)"

deb:
	bash packaging/deb.sh build

deb-test:
	bash packaging/deb-test.sh

format: $(STAMP)
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .

screenshots: $(STAMP) system
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/screenshots.py

bench: corpus
	$(BIN)/python bench/accuracy.py
	$(BIN)/python bench/locality.py
	$(BIN)/python bench/speed.py
	QT_QPA_PLATFORM=offscreen $(BIN)/python bench/window.py

# The corpus, rendered from its specs on first use.
corpus: $(VENV)/.bench build/corpus/.made

build/corpus/.made: bench/corpus/specs $(wildcard bench/corpus/specs/*.json) packaging/apt-bench.txt
	@bash packaging/system.sh packaging/apt-bench.txt
	mkdir -p build/corpus
	cd bench/tools && ../../$(BIN)/python make_song.py ../corpus/specs/*.json --out ../../build/corpus
	touch $@

# Three songs with floors that no change may fall under; part of CI.
floors: $(VENV)/.bench
	$(BIN)/python bench/floors.py

# What is lost, what leaks, what freezes: a part that fits into CI, and hours of it.
reliability: $(STAMP) system
	@bash packaging/system.sh packaging/apt-bench.txt
	bash bench/reliability/ci.sh "$(CURDIR)/$(BIN)/python"

soak: $(STAMP) system
	@bash packaging/system.sh packaging/apt-bench.txt
	cd bench/reliability && P="$(CURDIR)/$(BIN)/python" && S=$${SEED:-$$(date +%j)} && \
	"$$P" kills.py --count 300 --sessions 1000 --cli 48 --seed $$S; \
	"$$P" fuzz_readers.py --count 10000 --cli 200 --seed $$S; \
	"$$P" faults.py --seed $$S; \
	"$$P" soak.py --seconds 3600 --edits 3000 --decided 400 --seed $$S

# System libraries that packaging/apt.txt lists and that are missing.
system:
	@bash packaging/system.sh

$(STAMP): requirements.lock pyproject.toml packaging/apt.txt
	@bash packaging/system.sh
	$(PYTHON) -c 'import sys; assert sys.version_info >= (3, 11), "Python 3.11 or newer is needed"'
	[ -x "$(BIN)/python" ] || $(PYTHON) -m venv "$(VENV)"
	"$(BIN)/python" -m pip install --quiet --disable-pip-version-check -r requirements.lock
	"$(BIN)/python" -m pip install --quiet --disable-pip-version-check --no-deps --editable .
	touch "$(STAMP)"

$(VENV)/.bench: $(STAMP) requirements-bench.lock
	"$(BIN)/python" -m pip install --quiet --disable-pip-version-check -r requirements-bench.lock
	touch "$@"

clean:
	rm -rf "$(VENV)" build .pytest_cache .mypy_cache .ruff_cache .hypothesis
