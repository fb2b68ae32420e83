# SPDX-License-Identifier: GPL-3.0-or-later
"""Every demo model on every transmitter that ships: what it lacks, what rounding does, what was
played, how long that took on two cores; and how many slips of the finger its checks show."""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from hypsos.core.edits.transmitters import shipped
from hypsos.core.schools.keying import keying, proved
from hypsos.core.sheet.chosen_checks import choose_checks
from hypsos.hangar.places import demo_hangar


def main() -> None:
    """The table. Names of models after the command: those only."""
    wanted = {name.casefold() for name in sys.argv[1:]}
    with tempfile.TemporaryDirectory() as folder:
        hangar = demo_hangar(Path(folder))
        models = [hangar.load(name) for name in hangar.names()]
        hangar.close()
    print(
        "| model | transmitter | lacks | of a motor | rounding µs | mm | situations | minutes | seconds | equal "
        "| looks | slips | shown |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|---|---|---|")
    for model in models:
        if wanted and model.name.casefold() not in wanted:
            continue
        for profile in shipped():
            begin = time.perf_counter()
            made = keying(model, profile)
            found = proved(made)
            took = time.perf_counter() - begin
            checks = choose_checks(made)
            assert checks is not None
            motors = sum(x.motor for x in made.reduced.lacks)
            print(
                f"| {model.name} | {profile.name} | {len(made.reduced.lacks)} | {motors} "
                f"| {found.rounding.us:.1f} | {found.rounding.mm:.2f} | {found.situations} "
                f"| {found.seconds / 60:.0f} | {took:.1f} | {'yes' if found.fault is None else 'NO'} "
                f"| {len(checks.looks)} | {checks.slips} | {100 * checks.found / max(1, checks.slips):.0f} % |",
                flush=True,
            )


if __name__ == "__main__":
    main()
