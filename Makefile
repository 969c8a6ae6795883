# Both targets do all of their own set-up; nothing but Python 3.11 or later is needed.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test test-fast docs pictures fuzz attack fit figures bench bench-scale clean

demo: $(VENV)/installed
	$(BIN)/integrum demo demo-lakes

test: $(VENV)/installed-test
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/pytest

# what can be wrong after a small change, in under a minute; `make test` has it all
test-fast: $(VENV)/installed-test
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/pytest --fast

docs: $(VENV)/installed-docs
	$(BIN)/mkdocs build --site-dir site

pictures: $(VENV)/installed-test
	PYTHONPATH=tests $(BIN)/python tests/pictures.py

fuzz: $(VENV)/installed-test
	$(BIN)/python tests/fuzz.py 300 $(or $(LAST),5000)

attack: $(VENV)/installed-test
	PYTHONPATH=tests $(BIN)/python tests/attack.py 2000 300

fit: $(VENV)/installed-test
	$(BIN)/python tests/fit_names.py

figures: $(VENV)/installed-test
	$(BIN)/python tests/figures.py
	$(BIN)/python tests/value_figures.py

bench: $(VENV)/installed-test
	$(BIN)/python benchmarks/run.py
	$(BIN)/python benchmarks/budget.py
	$(BIN)/python benchmarks/ratios.py
	$(BIN)/python benchmarks/names.py
	$(BIN)/python benchmarks/values.py
	$(BIN)/python benchmarks/checks.py
	$(BIN)/python benchmarks/guesses.py
	$(BIN)/python benchmarks/again.py
	$(BIN)/python benchmarks/page.py
	$(BIN)/python benchmarks/database.py

bench-scale: $(VENV)/installed-test
	$(BIN)/python benchmarks/scale.py
	$(BIN)/python benchmarks/growth.py benchmarks/data docs/growth.png

clean:
	rm -rf $(VENV) demo-lakes benchmarks/data site

$(VENV)/bin/python:
	$(PYTHON) -m venv $(VENV)

$(VENV)/installed: pyproject.toml | $(VENV)/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[pages]'
	touch $@

$(VENV)/installed-docs: pyproject.toml | $(VENV)/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[docs]'
	touch $@ $(VENV)/installed

$(VENV)/installed-test: pyproject.toml | $(VENV)/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[test]'
	touch $@ $(VENV)/installed
