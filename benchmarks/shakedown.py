# SPDX-License-Identifier: GPL-3.0-or-later
"""How long a shakedown takes: the largest demo model, a made-up large one, after one edit, and with
conditions beside the point."""

from __future__ import annotations

import resource
import statistics
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import json

from faulty import demo_model

from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.review.findings import Ask, Shakedown
from hypsos.core.review.shakedown import ShakedownSearch, estimate


def took(shaker: ShakedownSearch, model: Model) -> tuple[float, Shakedown]:
    """Seconds, and what was found."""
    begun = time.perf_counter()
    found = shaker.run(Ask(model))
    return time.perf_counter() - begun, found


def large() -> Model:
    """24 channels, 80 lines, 8 flight modes, 64 conditions, 12 switches: the largest demo model,
    grown."""
    data = json.loads(demo_model("marram").model_dump_json())
    data["name"], data["not_asked"], data["scenarios"] = "Large", {}, []
    hands = data["transmitter"]["controls"]
    have = [c["name"] for c in hands if c["kind"] == "switch"]
    for i in range(12 - len(have)):
        hands.append(
            {
                "name": f"more_{i}",
                "label": f"More {i}",
                "kind": "switch",
                "hand": "left",
                "positions": ["a", "b", "c"],
            }
        )
    program = data["program"]
    logic = program["logic"]
    sources = ["aileron_stick", "elevator_stick", "rudder_stick", "camber_slider"]
    for i in range(64 - len(logic)):
        switch = f"more_{i % 6}@{i % 3}"
        level = {
            "kind": "above",
            "name": f"level_{i}",
            "a": sources[i % 4],
            "x": -60.0 + 20.0 * (i % 7),
            "hysteresis": 5.0,
        }
        chain = {"kind": ("all", "any", "on_delay")[i % 3], "name": f"chain_{i}"}
        if chain["kind"] == "on_delay":
            chain |= {"of": switch, "seconds": 0.5 + 0.25 * i}
        else:
            chain |= {"of": [switch, f"level_{i - 1}" if i % 2 else f"more_{(i + 1) % 6}@1"]}
        logic.append(level if i % 2 == 0 else chain)
    base = program["modes"][-1]
    for i in range(8 - len(program["modes"])):
        program["modes"].insert(
            -1, {**base, "name": f"mode_{i}", "label": f"Mode {i}", "when": f"more_{i}@2"}
        )
    plugged = len(data["leads"])
    for i in range(24 - plugged):
        name = f"light_{i}"
        data["airframe"]["devices"].append(
            {**data["airframe"]["devices"][0], "name": name, "label": f"Light {i}"}
        )
        lead = dict(
            data["leads"][-1], name=name, label=f"Light {i}", target=name, port=plugged + 1 + i
        )
        data["leads"].append(lead)
    data["receiver"]["ports"] = 24
    model = from_json(json.dumps(data))
    from hypsos.core.document.lines import all_lines

    missing, chains = (
        80 - len(all_lines(model)),
        [x["name"] for x in logic if x["name"].startswith("chain")],
    )
    for i in range(missing):
        target = (
            f"light_{i % 14}"
            if i % 3
            else ("left_mid_flap", "right_mid_flap", "left_aileron", "right_aileron")[i // 3 % 4]
        )
        when = chains[i % len(chains)]
        program["mixes"].append(
            {
                "name": f"Line {i}",
                "target": target,
                "source": sources[i % 4],
                "gain": 6.0,
                "when": when,
            }
        )
    return from_json(json.dumps(data))


def beside(count: int) -> Model:
    """A model with so many conditions on which nothing hangs."""
    model = demo_model("skerry")
    more = [
        {
            "kind": "above",
            "name": f"far_{i}",
            "label": f"Far {i}",
            "a": "rudder_stick",
            "x": float(i),
        }
        for i in range(count)
    ]
    nodes = [*(x.model_dump() for x in model.program.logic), *more]
    return from_json(with_at(model, "program.logic", nodes).model_dump_json())


def main() -> None:
    """Print the figures."""
    marram = demo_model("marram")
    runs = [took(ShakedownSearch(), marram) for _ in range(3)]
    seconds = statistics.median(t for t, _ in runs)
    print(f"shakedown of Marram: {seconds:.1f} s (wanted 3), {runs[0][1].situations:,} situations")
    shaker = ShakedownSearch()
    shaker.run(Ask(marram))
    edits = []
    now = marram
    for path, value in (
        ("program.mixes[3].gain", 90.0), ("program.mixes[0].gain", 95.0), ("program.recipes[1].yaw_share", 40.0),
        ("program.mixes[3].gain", 80.0), ("program.recipes[0].share", 95.0),
    ):  # fmt: skip
        now = with_at(now, path, value)
        edits.append((path, took(shaker, now)[0]))
    print("after one edit (wanted 0.3 s): " + ", ".join(f"{p} {t:.2f} s" for p, t in edits))
    pairs = [
        (took(ShakedownSearch(), beside(0))[0], took(ShakedownSearch(), beside(64))[0])
        for _ in range(9)
    ]
    ratio = statistics.median(b / a for a, b in pairs)
    print(f"64 conditions beside the point: {ratio:.2f} times as long (wanted 1.1)")
    big = large()
    foreseen = estimate(big)
    seconds, found = took(ShakedownSearch(), big)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    left = [s.statement for s in found.searched if not s.complete]
    print(
        f"the large one: {seconds:.0f} s (wanted 30), {memory:.0f} MiB at the most (wanted 1024), {found.situations:,} situations; "
        f"foreseen {foreseen.situations:,.0f}; not completely: {', '.join(left) or 'none'}"
    )


if __name__ == "__main__":
    main()
