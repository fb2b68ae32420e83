# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions of a model taken apart into rules of two things at the most.

Sought: rules that hold in the same frames as the model's conditions, in the order in which they can
be typed. A comparison with a way back becomes two thresholds and a latch; a condition of many
becomes a chain of pairs; a counter stays one.

What must stay true: members of a circle through a latch see that latch as it was in the frame
before, as the design has it. So what they ask of it carries ``was:``; everything else is asked as it
is in this frame."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from hypsos.core.conditions.combine import Combine
from hypsos.core.conditions.compare import Compare
from hypsos.core.conditions.counter import Counter
from hypsos.core.conditions.delay import Delay
from hypsos.core.conditions.gate import Gate
from hypsos.core.conditions.latch import Latch
from hypsos.core.dependencies.evaluation_order import logic_order
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.schools.figures import in_steps
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.stand_in.parts import Rule, RuleKind, reference

LASTING: dict[str, RuleKind] = {"on_delay": "lasts", "off_delay": "lingers", "pulse": "pulse"}
GUARD_NAMES = {"armed": "guard_armed", "locked": "guard_locked", "cut": "guard_cut"}


def turned_round(text: str) -> str:
    """The reference that holds where this one does not."""
    return text[1:] if text.startswith("!") else f"!{text}"


class RuleBook:
    """The rules of a translation, in the order in which they were written; every name once."""

    def __init__(self, taken: Iterable[str]) -> None:
        self.rules: list[Rule] = []
        self._taken = set(taken)
        self._made: dict[tuple[object, ...], str] = {}

    def free(self, wanted: str) -> str:
        """A name that nothing has yet."""
        name, number = wanted[:40], 1
        while name in self._taken:
            number += 1
            name = f"{wanted[:37]}_{number}"
        self._taken.add(name)
        return name

    def add(self, wanted: str, kind: RuleKind, a: str, b: str = "", **more: float | bool) -> str:
        """Write a rule down, and hand out its name; one that says the same is not written twice."""
        key = (kind, a, b, tuple(sorted(more.items())))
        known = self._made.get(key)
        if known is not None:
            return known
        name = self.free(wanted)
        self._made[key] = name
        self.rules.append(Rule(name=name, kind=kind, a=a, b=b, **more))
        return name

    def named(self, name: str, kind: RuleKind, a: str, b: str = "", **more: float | bool) -> None:
        """Write a rule down under the very name by which others ask for it."""
        self.rules.append(Rule(name=name, kind=kind, a=a, b=b, **more))

    def chain(self, kind: RuleKind, texts: Sequence[str], wanted: str) -> str:
        """All of them (``and``), or any (``or``), in pairs; of a single one that one itself."""
        found = texts[0]
        for text in texts[1:]:
            found = self.add(wanted, kind, found, text)
        return found

    def used(self, roots: Iterable[str]) -> tuple[Rule, ...]:
        """The rules on which these references hang, in their order."""
        found: set[str] = set()
        for text in roots:
            behind = self._behind(reference(text).name) if text else frozenset()
            # what a timer tells is set at the timer, and no rule
            if not any(name.startswith("timer_") for name in behind):
                found |= behind
        return tuple(rule for rule in self.rules if rule.name in found)

    def _behind(self, root: str) -> set[str]:
        """A rule and all on which it hangs."""
        by_name = {rule.name: rule for rule in self.rules}
        open_, found = [root], set[str]()
        while open_:
            name = open_.pop()
            if name in found:
                continue
            found.add(name)
            rule = by_name.get(name)
            if rule is not None and rule.kind not in ("above", "below"):
                open_ += [reference(text).name for text in (rule.a, rule.b) if text]
        return found


class ConditionRules:
    """The conditions of a model as rules of a book, under their own names."""

    def __init__(self, model: Model, book: RuleBook, steps: Steps) -> None:
        self._model, self._book, self._steps = model, book, steps
        order = logic_order(model)
        self._circle: dict[str, frozenset[str]] = {}
        for members in order.groups:
            latches = frozenset(m for m in members if m in order.breaks_circles)
            alone = len(members) == 1 and members[0] not in order.deps[members[0]]
            for member in members:
                self._circle[member] = frozenset() if alone else latches
        conditions = {x.name: x for x in model.program.logic}
        for members in order.groups:
            for member in members:
                if member in conditions:
                    self._write(conditions[member])

    def as_asked(self, text: str, by: str = "") -> str:
        """A condition's text as a reference; ``by``: who asks it."""
        question = asked(text)
        name = question.name
        if question.realm == "guard":
            name = GUARD_NAMES[question.name]
        elif question.realm == "mode":
            name = f"mode:{question.name}"
        elif question.realm == "timer":
            name = f"timer_{question.name}"[:40]
        if question.name in self._circle.get(by, ()):
            name = f"was:{name}"
        if question.position is not None:
            name = f"{name}@{question.position}"
        return f"!{name}" if question.negated else name

    def _write(self, x: object) -> None:
        if isinstance(x, Compare):
            self._compare(x)
        elif isinstance(x, Combine):
            self._combine(x)
        elif isinstance(x, Latch):
            self._latch(x)
        elif isinstance(x, Delay):
            of = self.as_asked(x.of, x.name)
            self._book.named(x.name, LASTING[x.kind], of, seconds=self._steps.seconds(x.seconds))
        elif isinstance(x, Counter):
            of = self.as_asked(x.of, x.name)
            self._book.named(x.name, "counts", of, level=float(x.count))
        else:
            assert isinstance(x, Gate)  # it gives a signal: a channel of its own

    def _compare(self, x: Compare) -> None:
        book, back = self._book, x.hysteresis
        level, upper = self._level(x.x), self._level(x.y if x.y is not None else x.x)
        if x.kind == "within":
            below = book.add(f"{x.name}_below", "below", x.a, level=level)
            over = book.add(f"{x.name}_above", "above", x.a, level=upper)
            if not back:
                book.named(x.name, "and", f"!{below}", f"!{over}")
                return
            inside = book.add(f"{x.name}_in", "and", f"!{below}", f"!{over}")
            low = book.add(f"{x.name}_off", "below", x.a, level=self._level(x.x - back))
            high = book.add(f"{x.name}_off", "above", x.a, level=self._level((x.y or 0.0) + back))
            book.named(x.name, "latch", inside, book.add(f"{x.name}_out", "or", low, high))
            return
        kind: RuleKind = "below" if x.kind == "below" else "above"
        more = {"size": True} if x.kind == "beyond" else {}
        other = (x.b or "") if x.kind == "difference" else ""
        if not back:
            book.named(x.name, kind, x.a, other, level=level, **more)
            return
        off = self._level(x.x + back if kind == "below" else x.x - back)
        on_at = book.add(f"{x.name}_on", kind, x.a, other, level=level, **more)
        off_at = book.add(f"{x.name}_stay", kind, x.a, other, level=off, **more)
        book.named(x.name, "latch", on_at, f"!{off_at}")

    def _level(self, value: float) -> float:
        return in_steps(value, self._steps.weight)

    def _combine(self, x: Combine) -> None:
        book = self._book
        of = [self.as_asked(text, x.name) for text in x.of]
        if x.kind == "not":
            book.named(x.name, "and", turned_round(of[0]), turned_round(of[0]))
        elif x.kind == "one":
            book.named(x.name, "or", *self._exactly_one(of, x.name))
        else:
            kind: RuleKind = "and" if x.kind == "all" else "or"
            first = book.chain(kind, of[:-1], f"{x.name}_part") if len(of) > 1 else of[0]
            book.named(x.name, kind, first, of[-1])

    def _exactly_one(self, of: list[str], name: str) -> tuple[str, str]:
        """Two rules one of which holds where exactly one of these does: the last one alone, or one
        of those before it without the last."""
        book = self._book
        if len(of) == 1:
            return of[0], of[0]
        one, none = of[0], turned_round(of[0])
        for text in of[1:-1]:
            alone = book.add(f"{name}_last", "and", none, text)
            before = book.add(f"{name}_one", "and", one, turned_round(text))
            one = book.add(f"{name}_one", "or", alone, before)
            none = book.add(f"{name}_none", "and", none, turned_round(text))
        alone = book.add(f"{name}_last", "and", none, of[-1])
        return alone, book.add(f"{name}_one", "and", one, turned_round(of[-1]))

    def _latch(self, x: Latch) -> None:
        on, off = self.as_asked(x.set, x.name), self.as_asked(x.reset, x.name)
        if x.edges:
            on = self._book.add(f"{x.name}_begins", "begins", on)
            off = self._book.add(f"{x.name}_ends", "begins", off)
        self._book.named(x.name, "latch", on, off)
