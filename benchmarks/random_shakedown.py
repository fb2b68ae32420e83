# SPDX-License-Identifier: GPL-3.0-or-later
"""Random hands on every demo model and on random documents: what the shakedown called clean is
never broken."""

from __future__ import annotations

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from chance import ASKED, broken_by, clean, walk
from faulty import demo_model
from random_models import made

from hypsos.core.document.document import Model
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import ShakedownSearch

DEMOS = ("marram", "samphire", "sandpiper", "skerry", "sorrel", "tidewrack", "whinlark")
ROWS = 50


def tried(model: Model, acts: int, seed: int) -> tuple[set[str], list[str]]:
    """What was called clean, and what so many acts broke of it all the same."""
    wanted = clean(ShakedownSearch(most=600_000).run(Ask(model), ASKED))
    out: list[str] = []
    done = 0
    while wanted and done < acts:
        out += broken_by(model, wanted, walk(model, seed + done, ROWS, 100))
        done += ROWS * 100
    return wanted, out


def main() -> None:
    """Counts: models, statements called clean, acts, and what was broken."""
    documents, acts = (int(x) for x in (sys.argv[1:3] or ["300", "100000"]))
    first = int(sys.argv[3]) if len(sys.argv) > 3 else 0
    begun, statements, broken = time.perf_counter(), 0, 0
    named = [(n, demo_model(n)) for n in DEMOS] if first == 0 else []
    models = named + [(f"document {i}", made(i)) for i in range(first, first + documents)]
    total = dict.fromkeys(ASKED, 0)
    for at, (name, model) in enumerate(models, 1):
        try:
            wanted, out = tried(model, acts, 7)
        except Exception:
            print(name, flush=True)
            raise
        statements += len(wanted)
        for s in wanted:
            total[s] += 1
        broken += len(out)
        for line in sorted(set(out))[:4]:
            print(f"{name}: {line}", flush=True)
        if at % 20 == 0:
            print(
                f"{at} of {len(models)}: {statements} statements called clean, {broken} broken",
                flush=True,
            )
    took = time.perf_counter() - begun
    print(
        f"{len(models)} models, {acts:,} acts each, {statements} statements called clean ({total}), {broken} broken, {took:.0f} s"
    )


if __name__ == "__main__":
    main()
