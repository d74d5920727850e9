# Two commands do everything on a fresh machine: `make demo` and `make test`. Each sets up what it needs.
VENV    := .venv
PY      := $(VENV)/bin/python
RUNS    := $(VENV)/.installed
STAMP   := $(VENV)/.installed-with-tools
PYTHON  ?= python3.11
APT     := ffmpeg xvfb xauth libegl1 libgl1 libopengl0 libglib2.0-0 libxkbcommon-x11-0 libdbus-1-3 libxcb-cursor0 \
           libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-xinerama0 libxcb-image0 libxcb-render-util0 \
           libxcb-randr0 libfontconfig1 libpulse0 libpulse-mainloop-glib0 python3-venv

.PHONY: setup demo test test-slow check bench shots mutants
setup: $(STAMP)

$(RUNS): pyproject.toml tools/system_packages.sh
	sh tools/system_packages.sh $(APT)
	test -x $(PY) || $$(command -v $(PYTHON) || command -v python3) -m venv $(VENV)
	$(PY) -m pip install --quiet --upgrade pip
	$(PY) -m pip install --quiet --editable .
	@echo 'Compiling the kernels, once'
	$(PY) -m glintor.demo.warm
	touch $(RUNS)

# What developers work with is not on a user's machine.
$(STAMP): $(RUNS)
	$(PY) -m pip install --quiet --editable '.[dev]'
	touch $(STAMP)

demo: $(RUNS)
	sh tools/demo.sh

test: setup
	QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n 2 --dist worksteal -m "not slow"

# Brute force, of which `make test` tries a part.
test-slow: setup
	QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n 2 --dist worksteal -m slow

check: setup
	$(VENV)/bin/ruff check src tests bench tools
	$(VENV)/bin/ruff format --check src tests bench tools
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports

bench: setup
	$(PY) -m bench.run

# Breaks forty lines, one after the other: every one must be noticed by a test.
mutants: setup
	$(PY) -m tools.mutants

shots: setup
	QT_QPA_PLATFORM=offscreen $(PY) -m tools.shots docs/screenshots
