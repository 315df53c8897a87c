# Gwiazda: `make demo` opens the application on the demo plan, `make test` runs everything.
PYTHON ?= python3
VENV   := .venv
BIN    := $(VENV)/bin
READY  := $(VENV)/.ready

.PHONY: soak compiled setup demo test lint bench shots figures clean

setup: $(READY)

$(READY): requirements.lock pyproject.toml tools/setup.sh
	bash tools/setup.sh "$(PYTHON)" "$(VENV)"

# Some machines are told not to keep compiled modules, and then every start compiles them anew.
compiled: $(READY)
	@$(BIN)/python -m compileall -q src/gwiazda

demo: compiled
	bash tools/system_libs.sh window
	$(BIN)/gwiazda demo

test: $(READY)
	bash tools/system_libs.sh window xvfb
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n auto --maxprocesses 4 --dist worksteal

lint: $(READY)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy src/gwiazda
	$(BIN)/lint-imports

bench: compiled
	bash tools/system_libs.sh window xvfb
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks $(ONLY) $(if $(RECORD),--record)

shots: $(READY)
	bash tools/system_libs.sh window
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/shots.py docs/screenshots

figures: $(READY)
	$(BIN)/python tools/make_figures.py

clean:
	rm -rf $(VENV) out .pytest_cache .mypy_cache .ruff_cache .hypothesis

MINUTES ?= 5
soak: $(READY)
	bash tools/system_libs.sh window
	QT_QPA_PLATFORM=offscreen PYTHONPATH=tests $(BIN)/python -m soak $(MINUTES)
