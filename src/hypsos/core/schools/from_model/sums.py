# SPDX-License-Identifier: GPL-3.0-or-later
"""The axes and mixes of a reduced design as commands and sums of lines.

Helpers are made where one line says two things: a differential that brakes suppress, what keeps an
engine at its idle, what a motor would be told."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hypsos.core.conditions.gate import Gate
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines, line_order
from hypsos.core.document.program import Axis, Engine, Setting
from hypsos.core.engine.shaping import setting_at, stored_setting
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.schools.figures import Bend
from hypsos.core.schools.from_model.guard_rules import ARMED
from hypsos.core.schools.from_model.hardware import Steps, hands, lever_name, levers
from hypsos.core.schools.from_model.rule_book import ConditionRules, RuleBook
from hypsos.core.schools.stand_in.parts import Command, HandFeel, Share, Sum

IDLE = -100.0
FADES_WITH = Bend(points=((0.0, 100.0), (100.0, 0.0)))
"""All of it at nothing, nothing of it at 100 %."""


def _texts(found: object) -> tuple[str, ...]:
    assert isinstance(found, tuple)
    return found


class DesignSums:
    """The sums of a design, made as they are asked for.

    ``by_mode``: shared values in rates and expo are said as figures for each flight mode, where a
    transmitter has no shared values."""

    def __init__(self, model: Model, steps: Steps, by_mode: bool = False) -> None:
        self._model, self._steps, self._by_mode = model, steps, by_mode
        self._motors = {motor.name for motor in model.airframe.motors}
        self._lines: dict[str, list[MixLine]] = {}
        for placed in all_lines(model):
            self._lines.setdefault(placed.line.target, []).append(placed.line)
        self._gates = {x.name: x for x in model.program.logic if isinstance(x, Gate)}
        self._modes = [mode.name for mode in model.program.modes]
        self.channels: dict[str, Sum] = {}
        self._asked: dict[str, tuple[Share, ...]] = {}
        """Engine -> what is asked of it, before its idle."""
        self.book = RuleBook(self._names())
        self.conditions = ConditionRules(model, self.book, steps)
        self.guarded = model.program.guard is not None and bool(self._motors)
        for name in self._in_order():
            self._add_channel(name)

    def _names(self) -> Iterator[str]:
        """Every name that the model has given."""
        program = self._model.program
        yield from (x.name for x in program.logic)
        yield from program.signal_labels()
        yield from (p.name for p in self._model.airframe.moved())
        yield from (h.name for h in hands(self._model))
        yield from (x.name for x in levers(self._model))
        yield from ("full", "link", "power", "link_quality", "flight_battery")
        yield from (a.command for a in program.axes)

    def ref(self, text: str) -> str:
        """A condition of the model as a reference."""
        return self.conditions.as_asked(text)

    def commands(self) -> tuple[Command, ...]:
        """What each hand asks for."""
        program = self._model.program
        return tuple(self._command(program.felt(axis)) for axis in program.axes)

    def told(self) -> Mapping[str, tuple[str, ...]]:
        """Motor -> the channels that say what it would be told."""
        return {motor: self._told(motor) for motor in sorted(self._motors)}

    # -- inputs --------------------------------------------------------------------------------------

    def _command(self, axis: Axis) -> Command:
        """An axis: a way of feeling it for each position of its switch."""
        control = self._model.transmitter.control(axis.switch) if axis.switch else None
        count = len(control.positions) if control is not None else 1
        settings = [setting_at(axis, i) for i in range(count)]
        if len(set(settings)) == 1:
            count = 1
        feels: list[HandFeel] = []
        for place, setting in enumerate(settings[:count]):
            when = (f"{axis.switch}@{place}",) if count > 1 else ()
            feels += self._feels(axis, setting, when)
        trim = axis.trim
        lever = lever_name(axis.command) if trim is not None and trim.scope != "lever" else ""
        return Command(name=axis.command, feels=tuple(feels), trim=lever)

    def _feels(self, axis: Axis, setting: Setting, when: tuple[str, ...]) -> Iterator[HandFeel]:
        steps = self._steps
        thrust = axis.command == "thrust"
        bare = {
            "control": axis.control,
            "turned": axis.command == "pitch",
            "bend": steps.bend(axis.curve),
            "pivot": -100 if thrust else 0,
        }
        own = bare | {"expo": steps.percent(setting.expo)}
        above = own | {"weight": steps.percent(setting.rate_pos), "when": when}
        if self._by_mode and (setting.rate_from or setting.expo_from):
            yield from self._feels_by_mode(own | {"when": when}, setting, thrust)
            return
        if setting.rate_from or setting.expo_from:
            named = above | {
                "weight_by": setting.rate_from or "",
                "expo_by": setting.expo_from or "",
            }
            if setting.from_when is None:
                yield from self._sides(named, setting, thrust or bool(setting.rate_from))
                return
            named["when"] = (*when, self.ref(setting.from_when))
            yield from self._sides(named, setting, thrust or bool(setting.rate_from))
        yield from self._sides(above, setting, thrust)

    def _feels_by_mode(
        self, fields: dict[str, object], setting: Setting, thrust: bool
    ) -> Iterator[HandFeel]:
        """The feel in each flight mode, as shared values are stored for it; while the condition of
        the shared values fails, the setting's own."""
        steps = self._steps
        when = _texts(fields["when"])
        if setting.from_when is not None:
            text = self.ref(setting.from_when)
            fields = fields | {"when": (*when, text)}
        for mode in self._modes or ["base"]:
            stored = stored_setting(self._model, setting, mode)
            here = fields | {
                "expo": steps.percent(stored.expo),
                "weight": steps.percent(stored.rate_pos),
                "modes": (mode,) if self._modes else (),
            }
            yield from self._sides(here, stored, thrust)
        if setting.from_when is not None:
            own = fields | {"when": when, "expo": steps.percent(setting.expo)}
            yield from self._sides(
                own | {"weight": steps.percent(setting.rate_pos)}, setting, thrust
            )

    def _sides(self, fields: dict[str, object], setting: Setting, one: bool) -> Iterator[HandFeel]:
        """A way of feeling an axis, for each side where they differ."""
        if one or setting.rate_neg == setting.rate_pos:
            yield HandFeel(**fields)
            return
        yield HandFeel(**fields | {"side": "above"})
        below = self._steps.percent(setting.rate_neg)
        yield HandFeel(**fields | {"side": "below", "weight": below})

    # -- channels ------------------------------------------------------------------------------------

    def _in_order(self) -> list[str]:
        """Gates and targets, each after those that it reads."""
        order = line_order(all_lines(self._model))
        parts = [p.name for p in self._model.airframe.moved()]
        targets = list(dict.fromkeys([*order.targets, *parts]))
        return [*self._gates, *targets]

    def _add_channel(self, name: str) -> None:
        if name in self._gates:
            self.channels[name] = self._gate(name)
            return
        shares: list[Share] = []
        for line in self._lines.get(name, ()):
            shares += self.shares(line)
        shares += self._presets(name)
        slowed = any(x.slow_in or x.slow_out for x in shares)
        motor = name in self._motors
        held = f"!{ARMED}" if motor and slowed and self.guarded else ""
        if motor:
            shares = self._above_idle(shares)
            shares = self._idling(name, shares, held)
        self.channels[name] = Sum(name=name, shares=tuple(shares), held=held)

    def _gate(self, name: str) -> Sum:
        gate = self._gates[name]
        text = self.conditions.as_asked(gate.when, name)
        closed = text[1:] if text.startswith("!") else f"!{text}"
        parked = self._steps.percent(gate.parked)
        shares = [Share(source=gate.source, when=(text,))]
        if parked:
            shares.append(Share(source="full", above=parked, below=parked, when=(closed,)))
        return Sum(name=name, shares=tuple(shares))

    def _presets(self, name: str) -> Iterator[Share]:
        for mode in self._model.program.modes:
            value = self._steps.percent(mode.presets.get(name, 0.0))
            if value:
                yield Share(source="full", above=value, below=value, modes=(mode.name,))

    @staticmethod
    def _above_idle(shares: list[Share]) -> list[Share]:
        """A motor is counted from idle. A single line that brings the whole thrust needs nothing
        more; else all is added up from nothing, and idle comes at the end."""
        if len(shares) == 1:
            only = shares[0]
            whole = only.changed({"from_low": False})
            if only.from_low and whole == Share(source="thrust"):
                return [whole]
        return [*shares, Share(source="full", above=IDLE, below=IDLE)]

    def _idling(self, name: str, shares: list[Share], held: str) -> list[Share]:
        """What keeps an engine at its idle while it is armed: what is asked for above standing
        still, the trim taken out, is laid between idle and full power; the trim goes about the
        idle."""
        guard = self._model.program.guard
        engine = guard.engine(name) if guard is not None else None
        if engine is None:
            return shares
        trimmed = self._thrust_trimmed()
        self._asked[name] = self._without_trim(name, shares) if trimmed else tuple(shares)
        above = self.book.free(f"{name}_above")
        less = [Share(source="thrust", above=-100, below=-100), Share(source="thrust", trim=False)]
        lifted = Share(source="full", above=-IDLE, below=-IDLE)
        raised = (*shares, *(less if trimmed else ()), lifted)
        self.channels[above] = Sum(name=above, shares=raised, held=held)
        made = []
        for idle, when in self._idles(engine):
            idle = self._steps.percent(idle)
            made.append(Share(source=above, above=100 - idle, below=0.0, when=when))
            base = IDLE + 2 * idle
            made.append(Share(source="full", above=base, below=base, when=when))
        if trimmed:
            made += [
                Share(source="thrust"),
                Share(source="thrust", trim=False, above=-100, below=-100),
            ]
        return made

    def _without_trim(self, name: str, shares: list[Share]) -> tuple[Share, ...]:
        """What is asked of an engine, less a trim that raises it: that is no power that somebody
        asks for."""
        trim = self.book.free(f"{name}_trim")
        both = (Share(source="thrust"), Share(source="thrust", trim=False, above=-100, below=-100))
        self.channels[trim] = Sum(name=trim, shares=both)
        return (*shares, Share(source=trim, above=-100, below=0))

    def _thrust_trimmed(self) -> bool:
        axis = self._model.program.axis("thrust")
        return axis is not None and axis.trim is not None and axis.trim.scope != "lever"

    def _idles(self, engine: Engine) -> Iterator[tuple[float, tuple[str, ...]]]:
        """The idles of an engine, each with the references under which it holds."""
        if engine.high_idle is None or engine.high_when is None:
            yield engine.idle, ()
            return
        text = self.ref(engine.high_when)
        yield engine.high_idle, (text,)
        yield engine.idle, (text[1:] if text.startswith("!") else f"!{text}",)

    # -- lines ---------------------------------------------------------------------------------------

    def shares(self, line: MixLine) -> Iterator[Share]:
        """A line of the model; with one that takes away on a side where that hangs on something."""
        whole = self._share(line)
        if line.differential and not (line.differential_off or line.differential_from):
            yield whole.changed(self._by_side(line))
            return
        yield whole
        if line.differential:
            yield self._taken_away(line, whole)

    def _share(self, line: MixLine) -> Share:
        steps = self._steps
        gain = steps.percent(line.gain)
        motor = line.target in self._motors
        when, modes = self._when(line.when)
        return Share(
            source=line.source,
            trim=line.with_trim,
            bend=steps.bend(line.response),
            from_low=motor and line.source == "thrust",
            when=when,
            modes=modes,
            slow_in=steps.seconds(line.in_s),
            slow_out=steps.seconds(line.out_s),
            above=gain,
            below=gain,
            by=line.gain_from or "",
            join={"add": "add", "scale": "multiply"}.get(line.combine, "replace"),
        )

    def _when(self, text: str | None) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """A line's condition as references and as modes."""
        if text is None:
            return (), ()
        question = asked(text)
        if question.realm != "mode":
            return (self.ref(text),), ()
        if question.negated:
            others = tuple(name for name in self._modes if name != question.name)
            # no other mode is left: then the reference itself says that it never holds
            return ((), others) if others else ((self.ref(text),), ())
        return (), (question.name,)

    def _less(self, line: MixLine) -> tuple[float, bool]:
        """How much a differential leaves on its side, in percent of the gain; and whether that is
        the side on which the source is above zero."""
        above = (line.gain > 0) == (line.differential > 0)
        return 100.0 - abs(line.differential), above

    def _by_side(self, line: MixLine) -> dict[str, float]:
        left, above = self._less(line)
        return {"above" if above else "below": self._steps.percent(line.gain * left / 100.0)}

    def _taken_away(self, line: MixLine, whole: Share) -> Share:
        """What a differential takes away on its side, in a channel of its own: by a shared value,
        and less of it the further the brakes are out."""
        left, above = self._less(line)
        name = self.book.free(f"{line.target}_{line.source}_less")
        taken = self._steps.percent(line.gain * (left - 100.0) / 100.0)
        side, other = ("above", "below") if above else ("below", "above")
        shares = [whole.changed({side: taken, other: 0.0})]
        if line.differential_from is not None:
            shares.append(Share(source="full", by=line.differential_from, join="multiply"))
        if line.differential_off is not None:
            off = Share(source=line.differential_off, bend=FADES_WITH, join="multiply")
            shares.append(off)
        self.channels[name] = Sum(name=name, shares=tuple(shares))
        return Share(source=name)

    def _told(self, motor: str) -> tuple[str, ...]:
        """The channels that say what a motor would be told: at the end of every slow, with the
        slows of its own lines at nothing, where they begin, and now."""
        if self._stick_decides(motor):
            return ()
        channel = self.channels[motor]
        if motor in self._asked:
            name = self.book.free(f"{motor}_asked")
            channel = self.channels[name] = Sum(name=name, shares=self._asked[motor])
        slow = [x for x in channel.shares if x.slow_in or x.slow_out]
        found = [self._ended(channel.name, True)]
        now = self._ended(channel.name, False)
        if now not in found:
            found.append(now)
        if slow and len(slow) < len(channel.shares) - 1:
            name = self.book.free(f"{motor}_at_first")
            ended = self._ended_shares(channel, False)
            begun = []
            for share, at_end in zip(channel.shares, ended, strict=True):
                begun.append(
                    at_end.changed({"above": 0.0, "below": 0.0}) if share in slow else at_end
                )
            self.channels[name] = Sum(name=name, shares=tuple(begun))
            found.append(name)
        return tuple(found)

    def _ended(self, name: str, upstream: bool) -> str:
        """The name of a channel that is this one with its slows at their end; ``upstream``: those
        of what it reads, too."""
        channel = self.channels.get(name)
        if channel is None:
            return name
        shares = self._ended_shares(channel, upstream)
        if shares == channel.shares:
            return name
        made = self.book.free(f"{name}_end")
        self.channels[made] = Sum(name=made, shares=shares)
        return made

    def _ended_shares(self, channel: Sum, upstream: bool) -> tuple[Share, ...]:
        shares = []
        for share in channel.shares:
            # what the guard holds is never asked as it is now: that would hang on its answer
            ended = upstream or self._is_held(share.source)
            source = self._ended(share.source, True) if ended else share.source
            shares.append(share.changed({"source": source, "slow_in": 0.0, "slow_out": 0.0}))
        return tuple(shares)

    def _is_held(self, name: str) -> bool:
        """Whether the guard holds the slows of a channel, or of one that it reads."""
        channel = self.channels.get(name)
        if channel is None:
            return False
        return bool(channel.held) or any(self._is_held(x.source) for x in channel.shares)

    def _stick_decides(self, motor: str) -> bool:
        """Whether a motor can't be told more than the stick's own place while the stick is low."""
        axis = self._model.program.axis("thrust")
        if axis is None or axis.trim is not None or axis.curve is not None:
            return False
        felt = self._model.program.felt(axis)
        for setting in felt.settings:
            if setting is not None and (
                setting.rate_from or setting.expo_from or setting.rate_pos > 100 or setting.expo > 0
            ):
                return False
        lines = self._lines.get(motor, [])
        guard = self._model.program.guard
        if guard is not None and guard.engine(motor) is not None:
            return False
        if any(mode.presets.get(motor) for mode in self._model.program.modes):
            return False
        plain = all(
            x.source == "thrust"
            and x.response is None
            and x.combine == "add"
            and x.gain_from is None
            and x.gain >= 0
            for x in lines
        )
        return plain and sum(x.gain for x in lines) <= 100
