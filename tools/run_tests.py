"""All tests, in two processes side by side, one for each of two cores; what each has to say comes when it is done."""

from __future__ import annotations

import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
OTHERS = ["src/hypsos/core"]
"""Where examples in the text are tests, too."""
PARTS, SIDE_BY_SIDE = 14, 2
"""Into so many parts the tests are dealt; a process that has done its part takes the next one."""
SLOW = {
    "reference": 15, "shaking": 7, "door": 6, "look": 5, "hostile": 8, "shakedown": 4, "monkey": 4, "manners": 3,
    "guard_words": 3, "sentences": 3, "say": 3, "brute_force": 4, "shakedown_told": 2,
}  # fmt: skip
"""How many times as long as others of their size some files take, as it was measured once: the longest part comes first."""


def parts() -> list[list[str]]:
    """The files of tests in lists that take about the same time."""
    found = [
        (f.stat().st_size * SLOW.get(f.stem.removeprefix("test_"), 1), f) for f in (ROOT / "tests").glob("test_*.py")
    ]
    lists: list[list[str]] = [[] for _ in range(PARTS)]
    sizes = [0] * PARTS
    lists[-1] += OTHERS
    for size, file in sorted(found, key=lambda x: (-x[0], x[1].name)):
        least = sizes.index(min(sizes))
        lists[least].append(str(file.relative_to(ROOT)))
        sizes[least] += size
    return [files for _, files in sorted(zip(sizes, lists, strict=True), key=lambda x: -x[0])]


def run(number: int, files: list[str], more: list[str]) -> tuple[int, str]:
    """One part: its exit status, and what it has to say."""
    cache = f"cache_dir=.pytest_cache/part{number}"
    command = [sys.executable, "-X", "faulthandler", "-m", "pytest", "-o", cache, *more, *sorted(files)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    ended = f"ended with status {done.returncode}: {' '.join(files)}\n" if done.returncode else ""
    return done.returncode, done.stdout + done.stderr + ended


def main(more: list[str]) -> int:
    """Run them all; 0 where all passed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    worst = 0
    with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
        for status, said in pool.map(lambda x: run(x[0], x[1], more), enumerate(parts())):
            sys.stdout.write(said)
            sys.stdout.flush()
            worst = max(worst, abs(status))
    return worst


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
