"""Which functions of the product every test file calls: a plugin for pytest, with which `tools/mutants.py --desk` finds the tests
that may notice a fault.

    HYPSOS_TOUCHED=touched.json .venv/bin/python -m pytest -p touched tests
"""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from types import CodeType, FrameType
from typing import Any

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = str(ROOT / "src" / "hypsos") + os.sep
_called: dict[str, set[CodeType]] = {}


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Any:
    """Watch a test from its first fixture to its last."""
    mine = _called.setdefault(item.path.stem, set())

    def watch(frame: FrameType, event: str, arg: object) -> None:
        if event == "call":
            mine.add(frame.f_code)

    sys.setprofile(watch)
    yield
    sys.setprofile(None)


def pytest_sessionfinish() -> None:
    """Write down module -> function -> test files."""
    out: dict[str, dict[str, list[str]]] = {}
    for stem, codes in sorted(_called.items()):
        for code in codes:
            if code.co_filename.startswith(SOURCE):
                module = code.co_filename[len(SOURCE) : -3].replace(os.sep, "/")
                out.setdefault(module, {}).setdefault(code.co_qualname, []).append(stem)
    Path(os.environ["HYPSOS_TOUCHED"]).write_text(json.dumps(out, indent=0, sort_keys=True))
