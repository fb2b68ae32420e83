# SPDX-License-Identifier: GPL-3.0-or-later
"""A design in which some things can't change any more: conditions that are always or never so,
controls that stand still, signals that are one figure.

Whatever hangs on them is settled and taken out: lines that never act, modes that are never flown,
conditions whose truth is known. What is left flies just as the whole would with these things held
fast."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hypsos.core.conditions.combine import Combine
from hypsos.core.conditions.compare import Compare
from hypsos.core.conditions.condition_base import ConditionBase
from hypsos.core.conditions.counter import Counter
from hypsos.core.conditions.gate import Gate
from hypsos.core.conditions.latch import Latch
from hypsos.core.document.document import Model
from hypsos.core.document.program import FULL, Axis, Setting
from hypsos.core.engine.shaping import response_curve
from hypsos.core.parts.condition_text import asked, opposite
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import switch_value

NEVER = Compare(kind="above", name="never", label="Never", a="full", x=150.0)


class Fixed:
    """What is held fast: ``truths`` of conditions by name (``mode:x``, ``link`` too), ``positions``
    of switches, ``values`` of signals in percent."""

    def __init__(
        self,
        truths: Mapping[str, bool] | None = None,
        positions: Mapping[str, int] | None = None,
        values: Mapping[str, float] | None = None,
    ) -> None:
        self.truths = dict(truths or {})
        self.positions = dict(positions or {})
        self.values = dict(values or {})

    def truth(self, text: str) -> bool | None:
        """Whether a condition holds; None where that may change."""
        question = asked(text)
        found: bool | None = self.truths.get(question.key)
        if question.position is not None and question.name in self.positions:
            found = self.positions[question.name] == question.position
        if found is None:
            return None
        return found != question.negated


def held_fast(model: Model, fixed: Fixed) -> Model:
    """The model with these things held fast, and all that this settles taken out."""
    for name, place in fixed.positions.items():
        control = model.transmitter.control(name)
        if control is not None:
            fixed.values[name] = switch_value(place, len(control.positions))
    _settle_logic(model, fixed)
    program = model.program
    logic = []
    for x in program.logic:
        if x.name in fixed.truths or x.name in fixed.values:
            continue
        logic.append(_condition(x, fixed))
    lines: list[MixLine] = []
    for line in program.mixes:
        made = _line(line, fixed)
        if made is not None:
            lines.append(made)
    fields: dict[str, Any] = {
        "logic": tuple(logic),
        "mixes": tuple(lines),
        "modes": _modes(program.modes, fixed),
        "axes": tuple(_axis(axis, fixed) for axis in program.axes),
        "announcements": tuple(
            x for x in program.announcements if fixed.truth(x.when) is not False
        ),
        "timers": tuple(x for x in program.timers if fixed.truth(x.when) is not False),
    }
    made_model = model.changed({"program": program.changed({**fields, "guard": None})})
    made_model = _with_guard(made_model, model, fixed)
    made_model = _with_values(made_model, model, fixed)
    return _with_never(made_model)


def _settle_logic(model: Model, fixed: Fixed) -> None:
    """Find the conditions whose truth is known now, and gates that are one figure."""
    known = -1
    while known != len(fixed.truths) + len(fixed.values):
        known = len(fixed.truths) + len(fixed.values)
        _settle_modes(model, fixed)
        for x in model.program.logic:
            if x.name in fixed.truths or x.name in fixed.values:
                continue
            if isinstance(x, Gate):
                _settle_gate(x, fixed)
                continue
            truth = _settled(x, fixed)
            if truth is not None:
                fixed.truths[x.name] = truth
            if truth is not None and isinstance(x, Counter):
                # what never begins is never counted
                fixed.positions[x.name] = 0


def _settle_modes(model: Model, fixed: Fixed) -> None:
    """Find the modes that are never flown, and one that is always flown."""
    flown = _modes(model.program.modes, fixed)
    there = {mode.name for mode in flown}
    for mode in model.program.modes:
        if mode.name not in there:
            fixed.truths[f"mode:{mode.name}"] = False
    if len(flown) == 1:
        fixed.truths[f"mode:{flown[0].name}"] = True


def _settle_gate(gate: Gate, fixed: Fixed) -> None:
    truth = fixed.truth(gate.when)
    if truth is False:
        fixed.values[gate.name] = gate.parked
    elif truth and gate.source in fixed.values:
        fixed.values[gate.name] = fixed.values[gate.source]


def _settled(x: ConditionBase, fixed: Fixed) -> bool | None:
    """The truth of a condition, where it is known."""
    if isinstance(x, Combine):
        return x.settled([fixed.truth(text) for text in x.of])
    if isinstance(x, Latch):
        on, off = fixed.truth(x.set), fixed.truth(x.reset)
        if x.edges:
            return False if on is not None else None
        if off or on is False:
            return False
        return True if on and off is False else None
    if isinstance(x, Compare):
        return _compared(x, fixed)
    texts = [text for _, text in x.asks()]
    truths = [fixed.truth(text) for text in texts]
    if truths and None not in truths:
        # a delay of what never changes has run out; a pulse of it never began
        return bool(truths[0]) and x.kind in ("on_delay", "off_delay")
    return None


def _compared(x: Compare, fixed: Fixed) -> bool | None:
    if any(name not in fixed.values for name in x.signals()):
        return None
    a, b = fixed.values[x.a], fixed.values[x.b] if x.b else 0.0
    if x.kind == "above":
        return a > x.x
    if x.kind == "below":
        return a < x.x
    if x.kind == "beyond":
        return abs(a) > x.x
    if x.kind == "difference":
        return a - b > x.x
    return x.x <= a <= (x.x if x.y is None else x.y)


def _text(text: str, fixed: Fixed) -> str:
    """A condition's text, with what is known said by *never* and its contrary."""
    truth = fixed.truth(text)
    if truth is None:
        return text
    return opposite(NEVER.name) if truth else NEVER.name


def _condition(x: ConditionBase, fixed: Fixed) -> ConditionBase:
    """A condition without what is known of it."""
    if isinstance(x, Combine) and x.kind in ("all", "any"):
        left = tuple(text for text in x.of if fixed.truth(text) is None)
        return x.changed({"of": left}) if left != x.of else x
    changes: dict[str, Any] = {}
    for field, text in x.asks():
        if fixed.truth(text) is not None and "[" not in field:
            changes[field] = _text(text, fixed)
    if isinstance(x, Combine):
        changes["of"] = tuple(_text(text, fixed) for text in x.of)
    return x.changed(changes) if changes else x


def _line(line: MixLine, fixed: Fixed) -> MixLine | None:
    """A line without what is known of it; None where it never does anything."""
    if line.when is not None:
        truth = fixed.truth(line.when)
        if truth is False:
            return None
        if truth:
            line = line.changed({"when": None})
    if line.differential_off in fixed.values:
        off = min(100.0, max(0.0, fixed.values[line.differential_off or ""]))
        less = line.differential * (1.0 - off / 100.0)
        line = line.changed({"differential_off": None, "differential": less})
    if line.source in fixed.values:
        return _as_constant(line, fixed.values[line.source])
    return line


def _as_constant(line: MixLine, value: float) -> MixLine | None:
    """A line whose source is one figure, as one that gives that figure."""
    if line.response is not None and line.response.live_from is None:
        curve = response_curve(line.response)
        assert isinstance(curve, Curve)
        value = float(curve(value))
    gives = line.gain * value / 100.0
    if line.differential and (gives > 0) == (line.differential > 0):
        gives *= 1.0 - abs(line.differential) / 100.0
    fields = {"source": "full", "response": None, "gain": gives, "differential": 0.0}
    made = line.changed({**fields, "differential_from": None})
    return made if gives or line.combine != "add" else None


def _modes(modes: tuple[FlightMode, ...], fixed: Fixed) -> tuple[FlightMode, ...]:
    """The modes that may be flown; the last one is flown where no other is."""
    found: list[FlightMode] = []
    for mode in modes:
        truth = True if mode.when is None else fixed.truth(mode.when)
        if truth is False or fixed.truths.get(f"mode:{mode.name}") is False:
            continue
        found.append(mode.changed({"when": None}) if truth else mode)
        if truth:
            break
    return tuple(found)


def _axis(axis: Axis, fixed: Fixed) -> Axis:
    """An axis; a switch of its rates that stands still leaves one setting."""
    settings = [_setting(s, fixed) for s in axis.settings]
    changes: dict[str, Any] = {"settings": tuple(settings)}
    if axis.switch in fixed.positions:
        place = fixed.positions[axis.switch or ""]
        one = settings[place] if place < len(settings) else None
        changes |= {"switch": None, "settings": (one or FULL,)}
    return axis.changed(changes)


def _setting(setting: Setting | None, fixed: Fixed) -> Setting | None:
    if setting is None or setting.from_when is None:
        return setting
    truth = fixed.truth(setting.from_when)
    if truth is None:
        return setting
    if truth:
        return setting.changed({"from_when": None})
    return setting.changed({"from_when": None, "rate_from": None, "expo_from": None})


def _with_guard(made: Model, model: Model, fixed: Fixed) -> Model:
    guard = model.program.guard
    if guard is None:
        return made
    changes: dict[str, Any] = {
        "holds": tuple(_text(x, fixed) for x in guard.holds if fixed.truth(x) is not False),
        "start_check": tuple(
            x
            for x in guard.start_check
            if x.control not in fixed.positions and x.control not in fixed.values
        ),
    }
    if guard.also is not None and fixed.truth(guard.also) is not None:
        changes["also"] = None if fixed.truth(guard.also) else NEVER.name
    engines = []
    for engine in guard.engines:
        truth = None if engine.high_when is None else fixed.truth(engine.high_when)
        if truth is False:
            engine = engine.changed({"high_idle": None, "high_when": None})
        elif truth:
            idle = engine.high_idle or engine.idle
            engine = engine.changed({"idle": idle, "high_idle": None, "high_when": None})
        engines.append(engine)
    changes["engines"] = tuple(engines)
    return made.changed({"program": made.program.changed({"guard": guard.changed(changes)})})


def _with_values(made: Model, model: Model, fixed: Fixed) -> Model:
    """Shared values without hands that stand still, and without conditions that are known."""
    flown = {mode.name for mode in made.program.modes}
    values = []
    for x in model.program.tunables:
        a = x.adjuster
        if a is not None:
            texts = [t for t in (a.when, a.up, a.down) if t is not None]
            gone = a.control in fixed.values or (
                a.when is not None and fixed.truth(a.when) is False
            )
            gone = gone or (a.kind == "step" and all(fixed.truth(t) is not None for t in texts))
            if gone:
                x = x.changed({"adjuster": None})
            else:
                when = None if a.when is not None and fixed.truth(a.when) else a.when
                steps = {
                    field: _text(text, fixed)
                    for field, text in (("up", a.up), ("down", a.down))
                    if text is not None
                }
                modes = tuple(m for m in a.modes if m in flown)
                x = x.changed({"adjuster": a.changed({"when": when, "modes": modes, **steps})})
        values.append(x.changed({"by_mode": {m: v for m, v in x.by_mode.items() if m in flown}}))
    axes = []
    for axis in made.program.axes:
        if axis.trim is not None and axis.trim.by_mode:
            own = {m: c for m, c in axis.trim.by_mode.items() if m in flown}
            axis = axis.changed({"trim": axis.trim.changed({"by_mode": own})})
        axes.append(axis)
    program = made.program.changed({"tunables": tuple(values), "axes": tuple(axes)})
    return made.changed({"program": program})


def _with_never(model: Model) -> Model:
    """The model with the condition *never*, where something asks for it."""
    from hypsos.core.dependencies.graph import readers

    named = {asked(text).name for _, _, reader in readers(model) for _, text in reader.asks()}
    there = any(x.name == NEVER.name for x in model.program.logic)
    if NEVER.name not in named or there:
        return model
    logic = (*model.program.logic, NEVER)
    return model.changed({"program": model.program.changed({"logic": logic})})


def without_unused(model: Model) -> Model:
    """The model without conditions, signals, shared values and lines on which nothing hangs that
    moves a part that is plugged in, is said, or stops a motor."""
    parts = {lead.target for lead in model.leads if lead.port is not None}
    while True:
        model = _without_unfed(model, parts)
        program = model.program
        read = {line.source for line in program.mixes} | {
            line.differential_off for line in program.mixes
        }
        for x in program.logic:
            read |= set(x.signals())
        lines = tuple(x for x in program.mixes if x.target in parts or x.target in read)
        asked_for = {
            asked(text).name for _, _, reader in readers_of(model) for _, text in reader.asks()
        }
        logic = tuple(
            x for x in program.logic if x.name in asked_for or (x.gives_signal and x.name in read)
        )
        if lines == program.mixes and logic == program.logic:
            break
        program = program.changed({"mixes": lines, "logic": logic})
        model = model.changed({"program": program})
    fed = {line.target for line in program.mixes}
    signals = tuple(s for s in program.signals if s.name in fed or s.name in read)
    used: set[str] = set()
    for line in program.mixes:
        used.update(line.reads_shared())
    for axis in program.axes:
        used.update(name for _, name in axis.shares())
    tunables = tuple(x for x in program.tunables if x.name in used)
    return model.changed({"program": program.changed({"signals": signals, "tunables": tunables})})


def through_names(model: Model) -> Model:
    """The model in which a condition that is no more than one other is said by that one: a
    condition of a single other, a latch that holds just while what sets it does."""
    same: dict[str, str] = {}
    for x in model.program.logic:
        if x.passes_on is not None:
            same[x.name] = x.passes_on
        elif isinstance(x, Latch) and not x.edges and x.reset == opposite(x.set):
            same[x.name] = x.set

    def through(text: str) -> str:
        for _ in same:
            question = asked(text)
            if question.name not in same or question.realm or question.position is not None:
                break
            inner = same[question.name]
            text = opposite(inner) if question.negated else inner
        return text

    if not same:
        return model
    program = model.program
    mixes = tuple(
        x.changed({"when": through(x.when)}) if x.when is not None else x for x in program.mixes
    )
    modes = tuple(
        m.changed({"when": through(m.when)}) if m.when is not None else m for m in program.modes
    )
    said = tuple(x.changed({"when": through(x.when)}) for x in program.announcements)
    logic = []
    for x in program.logic:
        if isinstance(x, Combine):
            x = x.changed({"of": tuple(through(text) for text in x.of)})
        logic.append(x)
    fields = {"mixes": mixes, "modes": modes, "announcements": said, "logic": tuple(logic)}
    return model.changed({"program": program.changed(fields)})


def _without_unfed(model: Model, parts: set[str]) -> Model:
    """The model without signals that nothing feeds any more: they are nothing, all the time."""
    program = model.program
    fed = {line.target for line in program.mixes} | parts
    own = set(program.signal_labels()) - fed
    read: set[str] = set()
    for line in program.mixes:
        read |= line.signals()
    for x in program.logic:
        read |= {name for _, name in x.reads()}
    if not own & read:
        return model
    return held_fast(model, Fixed(values=dict.fromkeys(own, 0.0)))


def asking_instead(model: Model, instead: Mapping[str, str]) -> Model:
    """The model in which captions, timers and conditions ask for other conditions."""

    def other(text: str) -> str:
        bare = text.removeprefix("!")
        if bare not in instead:
            return text
        return opposite(instead[bare]) if text.startswith("!") else instead[bare]

    program = model.program
    said = tuple(x.changed({"when": other(x.when)}) for x in program.announcements)
    clocks = []
    for x in program.timers:
        reset = other(x.reset) if x.reset is not None else None
        clocks.append(x.changed({"when": other(x.when), "reset": reset}))
    logic = []
    for condition in program.logic:
        if isinstance(condition, Combine):
            fields: dict[str, Any] = {"of": tuple(other(text) for text in condition.of)}
        else:
            fields = {field: other(text) for field, text in condition.asks()}
        logic.append(condition.changed(fields) if fields else condition)
    made = {"announcements": said, "timers": tuple(clocks), "logic": tuple(logic)}
    return model.changed({"program": program.changed(made)})


def readers_of(model: Model) -> Any:
    """Every part of a document that goes by others."""
    from hypsos.core.dependencies.graph import readers

    return readers(model)
