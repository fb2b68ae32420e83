# SPDX-License-Identifier: GPL-3.0-or-later
"""What was last read and found right, kept word for word under tests/data/recorded.

Nothing here says that it is right; other tests do. It says that no figure and no word changes
unseen. After a change that is meant, write it anew and read what has changed:

    HYPSOS_RECORD=1 .venv/bin/python -m pytest tests/test_as_recorded.py tests/test_shakedown.py; git diff tests/data/recorded
"""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

RECORDED = Path(__file__).parent / "data" / "recorded"
ANEW = bool(os.environ.get("HYPSOS_RECORD"))


def as_it_is(name: str, text: str) -> None:
    """Compare a file with what was recorded, or record it."""
    path = RECORDED / name
    if ANEW:
        path.parent.mkdir(exist_ok=True)
        path.write_text(text)
    assert text == path.read_text(), f"{name} is not as it was recorded; see tests/recorded.py"


def entry_as_it_is(name: str, key: str, value: Any) -> None:
    """Compare one entry of a JSON file with what was recorded, or record it."""
    path = RECORDED / name
    kept = json.loads(path.read_text()) if path.exists() else {}
    if ANEW:
        kept[key] = value
        path.write_text(json.dumps(dict(sorted(kept.items())), indent=0, ensure_ascii=False) + "\n")
    assert value == kept[key], f"{key} in {name} is not as it was recorded; see tests/recorded.py"
