# SPDX-License-Identifier: GPL-3.0-or-later
"""Which lines of the product each test file runs, and which lines none runs: `make covered`.

Every test file is run in a process of its own under coverage, two side by side. Written down is,
for every module, which test files run which line; `tools/mutants.py` chooses with it the tests that
may notice a fault. Printed is how much of each part of the product is run, and with ``--lines``
every line that is not.

    .venv/bin/python tools/covered.py [--lines] [--workers 2] [--out .covered.json]

Code that a test starts as a program of its own is not seen here; `tools/mutants.py` names its
tests."""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from coverage import CoverageData
from coverage.parser import PythonParser

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "hypsos"
WRITTEN = ROOT / ".covered.json"


def run_alone(test: Path, data: Path) -> tuple[str, int]:
    """Run one test file under coverage; its name and its exit status."""
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen", "OPENBLAS_NUM_THREADS": "1"}
    command = [
        sys.executable,
        "-m",
        "coverage",
        "run",
        f"--data-file={data}",
        f"--source={SOURCE}",
        "-m",
        "pytest",
        "-q",
        "-p",
        "no:cacheprovider",
        "-o",
        "addopts=",
        str(test),
    ]
    done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, check=False)
    return test.stem, done.returncode


def lines_run(folder: Path) -> dict[str, dict[int, list[str]]]:
    """Module -> line -> the test files that run it; a statement over several lines is run as a
    whole."""
    found: dict[str, dict[int, list[str]]] = {}
    for file in sorted(folder.glob("*.data")):
        data = CoverageData(str(file))
        data.read()
        for measured in data.measured_files():
            lines = found.setdefault(module_of(Path(measured)), {})
            first_line = parsed(Path(measured)).first_line
            began = set(data.lines(measured) or ())
            count = len(Path(measured).read_text().splitlines())
            for line in range(1, count + 1):
                if first_line(line) in began:
                    lines.setdefault(line, []).append(file.stem)
    return found


def module_of(file: Path) -> str:
    """The name of a module as `tools/mutants.py` has it: ``core/engine/guard``."""
    return str(file.relative_to(SOURCE).with_suffix(""))


_parsed: dict[Path, PythonParser] = {}


def parsed(file: Path) -> PythonParser:
    """The statements of a file."""
    if file not in _parsed:
        _parsed[file] = PythonParser(text=file.read_text() or "\n")
        _parsed[file].parse_source()
    return _parsed[file]


def report(found: dict[str, dict[int, list[str]]], each_line: bool) -> None:
    """Print, for each part of the product, how many of its statements some test runs."""
    parts: dict[str, list[int]] = {}
    for file in sorted(SOURCE.rglob("*.py")):
        module = module_of(file)
        statements = parsed(file).statements
        missed = sorted(statements - set(found.get(module, {})))
        run, all_ = parts.setdefault(module.split("/")[0], [0, 0])
        parts[module.split("/")[0]] = [run + len(statements) - len(missed), all_ + len(statements)]
        if each_line and missed:
            print(f"{module}: {missed}")
    for part, (run, all_) in parts.items():
        print(f"{part:<12}{run:>7} of {all_} statements are run, {run / max(1, all_):.1%}")


def main() -> int:
    """Run all test files, write down what they run, print how much it is. 1 where a test fails."""
    ask = argparse.ArgumentParser()
    ask.add_argument("--lines", action="store_true")
    ask.add_argument("--workers", type=int, default=2)
    ask.add_argument("--out", type=Path, default=WRITTEN)
    given = ask.parse_args()
    tests = sorted((ROOT / "tests").glob("test_*.py"), key=lambda f: -f.stat().st_size)
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(given.workers) as pool:
        ended = list(pool.map(lambda t: run_alone(t, Path(folder) / f"{t.stem}.data"), tests))
        found = lines_run(Path(folder))
    given.out.write_text(json.dumps(found, sort_keys=True))
    report(found, given.lines)
    failed = [name for name, status in ended if status]
    if failed:
        print(f"Failed: {', '.join(failed)}")
    return int(bool(failed))


if __name__ == "__main__":
    sys.exit(main())
