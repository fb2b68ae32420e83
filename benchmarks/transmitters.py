# SPDX-License-Identifier: GPL-3.0-or-later
"""Every demo model on every transmitter that ships: what it lacks, what rounding does, what was
played, how long that took on two cores; and how many slips of the finger its checks show."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.keying import keying, proved
from hypsos.core.schools.proof_memory import ProofMemory
from hypsos.core.sheet.chosen_checks import choose_checks
from hypsos.hangar.places import demo_hangar


def proved_again(model: Model, profile: Profile, memory: ProofMemory) -> Iterator[float]:
    """Seconds for the proof after each of some edits."""
    for edited in edits(model):
        begin = time.perf_counter()
        found = proved(keying(edited, profile), memory=memory)
        assert found.fault is None
        yield time.perf_counter() - begin


def edits(model: Model) -> Iterator[Model]:
    """The model with one figure changed: every travel, every expo of a first setting, and each
    preset of the first flight mode."""
    program = model.program
    for i, lead in enumerate(model.leads):
        other = lead.changed({"travel_pos": lead.travel_pos - 2.0})
        yield model.changed({"leads": (*model.leads[:i], other, *model.leads[i + 1 :])})
    for i, axis in enumerate(program.axes):
        first = axis.settings[0]
        if first is not None:
            felt = first.changed({"expo": first.expo + 5.0})
            other_axis = axis.changed({"settings": (felt, *axis.settings[1:])})
            axes = (*program.axes[:i], other_axis, *program.axes[i + 1 :])
            yield model.changed({"program": program.changed({"axes": axes})})
    if program.modes:
        first_mode = program.modes[0]
        for name, value in first_mode.presets.items():
            mode = first_mode.changed({"presets": {**first_mode.presets, name: value + 2.0}})
            modes = (mode, *program.modes[1:])
            yield model.changed({"program": program.changed({"modes": modes})})


def main() -> None:
    """The table. Names of models after the command: those only."""
    wanted = {name.casefold() for name in sys.argv[1:]}
    with tempfile.TemporaryDirectory() as folder:
        hangar = demo_hangar(Path(folder))
        models = [hangar.load(name) for name in hangar.names()]
        hangar.close()
    print(
        "| model | transmitter | lacks | of a motor | rounding µs | mm | situations | minutes | seconds "
        "| after an edit: median | most | equal "
        "| looks | slips | shown |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|")
    for model in models:
        if wanted and model.name.casefold() not in wanted:
            continue
        for profile in shipped():
            begin = time.perf_counter()
            made, memory = keying(model, profile), ProofMemory()
            found = proved(made, memory=memory)
            took = time.perf_counter() - begin
            again = sorted(proved_again(model, profile, memory))
            checks = choose_checks(made)
            assert checks is not None
            motors = sum(x.motor for x in made.reduced.lacks)
            print(
                f"| {model.name} | {profile.name} | {len(made.reduced.lacks)} | {motors} "
                f"| {found.rounding.us:.1f} | {found.rounding.mm:.2f} | {found.situations} "
                f"| {found.seconds / 60:.0f} | {took:.1f} "
                f"| {again[len(again) // 2]:.1f} | {again[-1]:.1f} | {'yes' if found.fault is None else 'NO'} "
                f"| {len(checks.looks)} | {checks.slips} | {100 * checks.found / max(1, checks.slips):.0f} % |",
                flush=True,
            )


if __name__ == "__main__":
    main()
