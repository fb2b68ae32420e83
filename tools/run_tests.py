# SPDX-License-Identifier: GPL-3.0-or-later
"""All tests and the look at the types, three processes side by side on two cores, for some of them
wait; what each has to say comes when it is done."""

from __future__ import annotations

import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
OTHERS = ["src/hypsos/core"]
"""Where examples in the text are tests, too."""
TYPES = (
    ["-m", "mypy"],
    ["-m", "mypy", "--config-file", "tests/mypy.ini", "--cache-dir", ".mypy_cache/tests"],
)
"""The looks at the types, of the product and of the tests, are parts of their own: alone they would
leave the other core idle."""
PARTS, SIDE_BY_SIDE = 12, 3
"""Into so many parts the tests are dealt; a process that has done its part takes the next one."""
SECONDS = {
    "shaking": 110, "schools": 60, "shakedown": 97, "reference": 45, "acts_recorded": 42, "say": 40, "door": 40, "fields_store": 38,
    "as_recorded": 34, "manners": 32, "sentences": 30, "look": 27, "jobs_wing": 27, "timeline": 26, "guard_words": 24,
    "room": 22, "window_safety": 20, "hostile": 19, "compare_walk": 18, "hangar": 18, "voice": 17, "behaviours": 16,
    "window": 15, "place": 15, "failsafe": 14, "brute_force": 12, "hands_on": 12, "monkey": 11, "bench_recorded": 11,
}  # fmt: skip
"""How long the slow files of tests take, as it was measured once: the longest part comes first."""
LETTERS_A_SECOND = 4000
"""How long the others take, by their size."""


def seconds(file: Path) -> float:
    """About how long a file of tests takes."""
    measured = SECONDS.get(file.stem.removeprefix("test_"))
    return float(measured) if measured is not None else file.stat().st_size / LETTERS_A_SECOND


def parts() -> list[list[str]]:
    """The files of tests in lists that take about the same time."""
    found = [(seconds(f), f) for f in (ROOT / "tests").glob("test_*.py")]
    lists: list[list[str]] = [[] for _ in range(PARTS)]
    lengths = [0.0] * PARTS
    lists[-1] += OTHERS
    for length, file in sorted(found, key=lambda x: (-x[0], x[1].name)):
        least = lengths.index(min(lengths))
        lists[least].append(str(file.relative_to(ROOT)))
        lengths[least] += length
    return [files for _, files in sorted(zip(lengths, lists, strict=True), key=lambda x: -x[0])]


def tests(number: int, files: list[str], more: list[str]) -> list[str]:
    """The arguments of the process that runs one part of the tests."""
    cache = f"cache_dir=.pytest_cache/part{number}"
    return ["-X", "faulthandler", "-m", "pytest", "-o", cache, *more, *sorted(files)]


def run(arguments: list[str]) -> tuple[int, str]:
    """One process of Python: its exit status, and what it has to say."""
    done = subprocess.run(
        [sys.executable, *arguments], cwd=ROOT, capture_output=True, text=True, check=False
    )
    ended = (
        f"ended with status {done.returncode}: {' '.join(arguments)}\n" if done.returncode else ""
    )
    return done.returncode, done.stdout + done.stderr + ended


def main(more: list[str]) -> int:
    """Run them all; 0 where all passed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    work = [tests(number, files, more) for number, files in enumerate(parts())]
    work[SIDE_BY_SIDE:SIDE_BY_SIDE] = TYPES
    worst = 0
    with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
        for status, said in pool.map(run, work):
            sys.stdout.write(said)
            sys.stdout.flush()
            worst = max(worst, abs(status))
    return worst


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
