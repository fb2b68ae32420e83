# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions as sentences to be built: lines of words, of which some are menus or numbers that give back the model changed.

A condition stands at a *place*: a field of the document (``program.mixes[3].when``, ``program.guard.holds[0]``) or a named
condition of the model's own. What is made on the way has no name and is read as part of the sentence that uses it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from hypsos.core.base.errors import DocumentError
from hypsos.core.conditions.edit import (
    ConditionPlace,
    WordChoice,
    asked_at,
    chosen,
    compared_by,
    kinds,
    put_text,
    without_orphans,
)
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.parts.condition_values import Combine, Compare, Counter, Delay, Latch, LogicSwitch, asked
from hypsos.core.wording.describe_condition import (
    COMPARED,
    JOINED,
    UNNAMED,
    compared_signals,
    condition_path,
    mode_label,
    node_named,
    phrase,
    signal_label,
    timer_named,
)
from hypsos.core.wording.time_words import timer_label
from hypsos.core.wording.words import GUARD_WORDS, STICK_SIDES, power_percent, said_name

LASTING = {"on_delay": "once for", "off_delay": "until", "pulse": "for"}
DEEPEST = 12


class PlainWord(NamedTuple):
    """A word that only stands there."""

    text: str


class Menu(NamedTuple):
    """A word to choose: the one that stands there, what it is about, the others, and the model with one of them."""

    text: str
    about: str
    choices: tuple[WordChoice, ...]
    put: Callable[[str], Model]


class Number(NamedTuple):
    """A number to set as it is said: what it is about, value, unit, bounds, and the model with another value. ``sides`` are
    the words for less and more than nothing. ``signal`` is what it is compared with, whose present value belongs beside it."""

    about: str
    value: float
    unit: str
    low: float
    high: float
    put: Callable[[float], Model]
    signal: str = ""
    sides: tuple[str, str] | None = None


Word = PlainWord | Menu | Number


class SentenceLine(NamedTuple):
    """A line of a sentence: how far it is set in, its words, and the condition whose truth it tells, as text."""

    indent: int
    words: tuple[Word, ...]
    text: str


# -- the lines of a sentence ----------------------------------------------------------------------------------------------


def sentence(model: Model, place: ConditionPlace) -> tuple[SentenceLine, ...]:
    """The lines of the condition at a place, outermost first."""
    return tuple(_Reader(model).place(place, 0, ()))


class _Reader:
    def __init__(self, model: Model) -> None:
        self.model = model

    def place(self, place: ConditionPlace, indent: int, seen: tuple[str, ...]) -> Iterator[SentenceLine]:
        if place.name:
            node = node_named(self.model, place.name)
            if node is None:
                raise DocumentError(f"there is no condition called {place.name}", "program.logic")
            if isinstance(node, Combine) and node.kind != "not" and len(node.of) == 1:
                yield from self.place(
                    ConditionPlace(f"{condition_path(self.model, place.name)}.of[0]"), indent, (*seen, place.name)
                )
            else:
                yield from self._node(place, node, place.name, None, False, indent, (*seen, place.name))
            return
        text: str | None = get_at(self.model, place.path)
        if text is None:
            yield SentenceLine(indent, (self._kind(place, place.none),), "")
            return
        negated, realm, name, position = asked(text)
        node = None if realm else node_named(self.model, name)
        if node is not None and node.label == UNNAMED and name not in seen and indent < DEEPEST:
            yield from self._node(place, node, text, position, negated, indent, (*seen, name))
            return
        yield SentenceLine(indent, tuple(self._plain(place, text)), text)

    def _plain(self, place: ConditionPlace, text: str) -> Iterator[Word]:
        """A position, a mode, the link, the power, a named condition."""
        negated, realm, name, position = asked(text)
        model, control = self.model, self.model.transmitter.control(name)
        if realm == "guard":
            yield self._kind(place, "the motor")
            yield self._is(place, text, ("is", "is not"))
            states = tuple(WordChoice(f"guard:{w}", w) for w in GUARD_WORDS.values())
            yield Menu(name, "in which state", states, self._putting(place, "!" if negated else ""))
        elif realm == "timer":
            yield self._kind(place, "the timer")
            timers = tuple(WordChoice(f"timer:{x.name}", timer_label(x)) for x in model.program.timers)
            yield Menu(timer_named(model, name), "which timer", timers, self._putting(place, "!" if negated else ""))
            yield self._is(place, text, ("has run out", "has not run out"))
        elif realm:
            yield self._kind(place, "the flight mode")
            yield self._is(place, text, ("is", "is not"))
            modes = tuple(WordChoice(f"mode:{m.name}", m.label) for m in model.program.modes)
            yield Menu(mode_label(model, name), "which mode", modes, self._putting(place, "!" if negated else ""))
        elif control is not None and position is not None:
            yield self._kind(place, control.label)
            yield self._is(place, text, ("is at", "is not at"))
            places = tuple(WordChoice(f"{name}@{i}", p) for i, p in enumerate(control.positions))
            shown = control.positions[position] if position < len(control.positions) else str(position + 1)
            yield Menu(shown, f"position of {control.label}", places, self._putting(place, "!" if negated else ""))
        elif name in ("link", "power"):
            yield self._kind(place, "the link" if name == "link" else "the receiver")
            yield self._is(place, text, ("is up", "is lost") if name == "link" else ("has power", "has no power"))
        else:
            node = node_named(model, name)
            yield self._kind(place, name if node is None else said_name(node.label, UNNAMED, name))
            if isinstance(node, Counter):
                yield self._is(place, text, ("stands at", "does not stand at"))
                yield self._step(place, node, text, position or 0)
            else:
                yield self._is(place, text, ("holds", "does not hold"))

    def _node(
        self, place: ConditionPlace, node: LogicSwitch, text: str, position: int | None, negated: bool, indent: int,
        seen: tuple[str, ...],
    ) -> Iterator[SentenceLine]:  # fmt: skip
        at = condition_path(self.model, node.name)
        words: list[Word] = []
        below: list[str] = []
        if isinstance(node, Compare):
            words = list(self._compared(place, node, at, text))
        elif isinstance(node, Combine):
            words = [self._kind(place, "not:" if node.kind == "not" else JOINED[node.kind])]
            below = [f"{at}.of[{k}]" for k in range(len(node.of))]
        elif isinstance(node, Delay):
            words = [self._kind(place, LASTING[node.kind]), self._number(f"{at}.seconds", "for how long", "s", 0, 300)]
            words.append(PlainWord({"on_delay": "this has held:", "off_delay": "after this has ended:",
                               "pulse": "from the moment when:"}[node.kind]))  # fmt: skip
            below = [f"{at}.of"]
        elif isinstance(node, Latch):
            how = (WordChoice("edges", "begins"), WordChoice("levels", "holds"))
            words = [self._kind(place, "from when the first of these"),
                     Menu("begins" if node.edges else "holds", "by what it is set", how,
                          lambda key: with_at(self.model, f"{at}.edges", key == "edges")),
                     PlainWord("until the second does:")]  # fmt: skip
            below = [f"{at}.set", f"{at}.reset"]
        elif isinstance(node, Counter):
            words = [self._kind(place, "counting")]
            if not place.name:
                words.append(self._step(place, node, text, position or 0))
            words += [PlainWord("of"), self._number(f"{at}.count", "how many steps", "steps", 2, 32),
                      PlainWord("one further each time:")]  # fmt: skip
            below = [f"{at}.of"]
        else:
            words = [self._kind(place, "the value of"), self._signal(f"{at}.source", node.source), PlainWord("passes, else"),
                     self._number(f"{at}.parked", "its value else", "%", -150, 150), PlainWord("while:")]  # fmt: skip
            below = [f"{at}.when"]
        if negated:
            words.insert(0, self._is(place, text, ("", "not this:")))
        yield SentenceLine(indent, tuple(words), text)
        for path in below:
            yield from self.place(ConditionPlace(path), indent + 1, seen)
        if isinstance(node, Combine) and node.kind != "not":
            yield SentenceLine(indent + 1, (self._more(node, at),), "")

    def _compared(self, place: ConditionPlace, node: Compare, at: str, text: str) -> Iterator[Word]:
        model = self.model
        yield self._kind(place, signal_label(model, node.a))
        kinds = tuple(WordChoice(k, w) for k, w in COMPARED.items())
        yield Menu(COMPARED[node.kind], "how it is compared", kinds, lambda key: compared_by(model, node.name, key))
        yield self._level(f"{at}.x", "with what it is compared", node, node.a)
        if node.kind == "within":
            yield PlainWord("and")
            yield self._level(f"{at}.y", "the upper end", node)
        if node.kind == "difference":
            yield PlainWord("above")
            yield self._signal(f"{at}.b", node.b or node.a)
        yield PlainWord("and off again")
        share = 0.5 if _by_power(node) else 1.0
        back = self._number(f"{at}.hysteresis", "so much further back it ends", "%", 0, 100)
        yield back._replace(value=back.value * share, high=100 * share, put=lambda value: back.put(value / share))
        yield PlainWord("further back")

    def _level(self, path: str, about: str, node: Compare, signal: str = "") -> Number:
        """A level as its signal is said: the throttle stick in % of its way, a sprung stick to its sides."""
        made = self._number(path, about, "%", -150, 150, signal)
        if _by_power(node):
            return made._replace(
                value=power_percent(made.value), low=0, high=100, put=lambda value: made.put(2 * value - 100)
            )
        beyond = node.kind in ("beyond", "difference")
        return made._replace(sides=None if beyond else STICK_SIDES.get(node.a), low=0 if beyond else -150)

    def _number(self, path: str, about: str, unit: str, low: float, high: float, signal: str = "") -> Number:
        found = get_at(self.model, path)
        whole = unit == "steps"

        def put(value: float) -> Model:
            if not whole:
                return with_at(self.model, path, value)
            name = get_at(
                self.model, path.rsplit(".", 1)[0]
            ).name  # who asks for a step that goes asks for the last one
            fewer = with_at(self.model, path, round(value))
            return asked_at(fewer, name, lambda step: min(step, round(value) - 1))

        return Number(about, float(0.0 if found is None else found), unit, low, high, put, signal)

    def _signal(self, path: str, name: str) -> Menu:
        choices = tuple(WordChoice(n, signal_label(self.model, n)) for n in compared_signals(self.model))
        return Menu(signal_label(self.model, name), "which signal", choices, lambda key: with_at(self.model, path, key))

    def _is(self, place: ConditionPlace, text: str, words: tuple[str, str]) -> Menu:
        """Whether it is to be so, or is not."""
        negated = asked(text).negated
        yes, no = words
        choices = (WordChoice("yes", yes or "this:"), WordChoice("no", no))
        rest = text.lstrip("!")
        return Menu(words[negated] or "this:", "whether it is so", choices,
                    lambda key: put_text(self.model, place, ("!" if key == "no" else "") + rest))  # fmt: skip

    def _step(self, place: ConditionPlace, node: Counter, text: str, position: int) -> Menu:
        mark = "!" if asked(text).negated else ""
        choices = tuple(WordChoice(f"{node.name}@{i}", f"step {i + 1}") for i in range(node.count))
        return Menu(f"step {position + 1}", "at which step", choices, self._putting(place, mark))

    def _putting(self, place: ConditionPlace, mark: str) -> Callable[[str], Model]:
        return lambda key: put_text(self.model, place, mark + key)

    def _kind(self, place: ConditionPlace, shown: str) -> Menu:
        """The word that says what the condition is about; another one makes another condition of it."""
        return Menu(shown, "what it hangs on", kinds(self.model, place), lambda key: chosen(self.model, place, key))

    def _more(self, node: Combine, at: str) -> Menu:
        choices = [c for c in kinds(self.model, ConditionPlace(f"{at}.of[0]")) if not c.key.startswith("wrap:")]
        if len(node.of) > 1:
            choices += [WordChoice(f"drop:{k}", phrase(self.model, c), "Take out") for k, c in enumerate(node.of)]

        def put(key: str) -> Model:
            if key.startswith("drop:"):
                k = int(key[5:])
                return without_orphans(self.model, with_at(self.model, f"{at}.of", node.of[:k] + node.of[k + 1 :]))
            longer = with_at(self.model, f"{at}.of", (*node.of, "link"))
            return chosen(longer, ConditionPlace(f"{at}.of[{len(node.of)}]"), key)

        return Menu("and more …", "one more, or one less", tuple(choices), put)


def _by_power(node: Compare) -> bool:
    """Whether a level is said in % of the throttle stick's way, from low to full."""
    return node.a == "throttle_stick" and node.kind in ("above", "below", "within")
