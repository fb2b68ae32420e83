# Two commands do everything: `make demo` and `make test`.
PYTHON ?= python3
BIN := .venv/bin
export PIP_DISABLE_PIP_VERSION_CHECK = 1

.PHONY: demo test bench prover measure covered mutants shots clean

demo: .venv/ready
	@$(BIN)/python -P -m hypsos.desk.display -- $(BIN)/hypsos --demo

test: .venv/ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/lint-imports
	$(BIN)/python tools/run_tests.py

bench: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python benchmarks/run.py
	QT_QPA_PLATFORM=offscreen $(BIN)/python benchmarks/window.py
	$(BIN)/python benchmarks/random_guard.py
	$(BIN)/python benchmarks/shakedown.py
	$(BIN)/python benchmarks/transmitters.py
	$(BIN)/python benchmarks/random_shakedown.py 30 2000

# every figure, flag and line of every settings file changed: hours
prover: .venv/ready
	$(BIN)/python benchmarks/prover.py

measure: .venv/ready
	$(BIN)/python tools/measure.py

covered: .venv/ready
	$(BIN)/python tools/covered.py

mutants: covered
	$(BIN)/python tools/mutants.py

shots: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/hypsos shots docs/screenshots

.venv/ready: pyproject.toml constraints.txt tools/prepare.sh
	@PYTHON=$(PYTHON) sh tools/prepare.sh
	@touch $@

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache
