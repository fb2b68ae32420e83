# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions as sentences to be built: lines of words, of which some are menus or numbers that give
back the model changed.

A condition stands at a *place*: a field of the document (``program.mixes[3].when``,
``program.guard.holds[0]``) or a named condition of the model's own. What is made on the way has no
name and is read as part of the sentence that uses it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

from hypsos.core.base.errors import DocumentError
from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import ConditionBase, LogicSwitch
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.condition_choices import (
    ConditionPlace,
    WordChoice,
    asked_at,
    chosen,
    kinds,
    put_text,
    without_orphans,
)
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter import Control
from hypsos.core.wording.describe_condition import (
    compared_signals,
    condition_path,
    mode_label,
    node_named,
    phrase,
    signal_label,
    timer_named,
)
from hypsos.core.wording.time_words import timer_label
from hypsos.core.wording.words import GUARD_WORDS

DEEPEST = 12


class PlainWord(NamedTuple):
    """A word that only stands there."""

    text: str


class Menu(NamedTuple):
    """A word to choose: the one that stands there, what it is about, the others, and the model with
    one of them."""

    text: str
    about: str
    choices: tuple[WordChoice, ...]
    put: Callable[[str], Model]


class Number(NamedTuple):
    """A number to set as it is said: what it is about, value, unit, bounds, and the model with
    another value. ``sides`` are the words for less and more than nothing. ``signal`` is what it is
    compared with, whose present value belongs beside it."""

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
    """A line of a sentence: how far it is set in, its words, and the condition whose truth it
    tells, as text."""

    indent: int
    words: tuple[Word, ...]
    text: str


# -- the lines of a sentence --------------------------------------------------------------------


def sentence(model: Model, place: ConditionPlace) -> tuple[SentenceLine, ...]:
    """The lines of the condition at a place, outermost first."""
    return tuple(_Reader(model).place(place, 0, ()))


class _Reader:
    def __init__(self, model: Model) -> None:
        self.model = model

    def place(
        self, place: ConditionPlace, indent: int, seen: tuple[str, ...]
    ) -> Iterator[SentenceLine]:
        if place.name:
            node = node_named(self.model, place.name)
            if node is None:
                raise DocumentError(f"there is no condition called {place.name}", "program.logic")
            if node.passes_on is not None:
                inner = f"{condition_path(self.model, place.name)}.{node.asks()[0][0]}"
                yield from self.place(ConditionPlace(inner), indent, (*seen, place.name))
            else:
                yield from self._node(
                    place, node, place.name, None, False, indent, (*seen, place.name)
                )
            return
        text: str | None = get_at(self.model, place.path)
        if text is None:
            yield SentenceLine(indent, (self.kind(place, place.none),), "")
            return
        negated, realm, name, position = asked(text)
        node = None if realm else node_named(self.model, name)
        if node is not None and node.label == UNNAMED and name not in seen and indent < DEEPEST:
            yield from self._node(place, node, text, position, negated, indent, (*seen, name))
            return
        yield SentenceLine(indent, tuple(self._plain(place, text)), text)

    def _plain(self, place: ConditionPlace, text: str) -> Iterator[Word]:
        """A position, a mode, the link, the power, a named condition."""
        _, realm, name, position = asked(text)
        control = self.model.transmitter.control(name)
        if realm:
            yield from self._realm(place, text)
        elif control is not None and position is not None:
            yield from self._position(place, text, control, position)
        elif name in ("link", "power"):
            yield self.kind(place, "the link" if name == "link" else "the receiver")
            yield self._is(
                place,
                text,
                ("is up", "is lost") if name == "link" else ("has power", "has no power"),
            )
        else:
            yield from self._named(place, text)

    def _realm(self, place: ConditionPlace, text: str) -> Iterator[Word]:
        """The motor's state, a timer, or the flight mode."""
        negated, realm, name, _ = asked(text)
        model, mark = self.model, "!" if negated else ""
        if realm == "timer":
            yield self.kind(place, "the timer")
            timers = tuple(
                WordChoice(f"timer:{x.name}", timer_label(x)) for x in model.program.timers
            )
            yield Menu(timer_named(model, name), "which timer", timers, self._putting(place, mark))
            yield self._is(place, text, ("has run out", "has not run out"))
            return
        yield self.kind(place, "the motor" if realm == "guard" else "the flight mode")
        yield self._is(place, text, ("is", "is not"))
        if realm == "guard":
            states = tuple(WordChoice(f"guard:{w}", w) for w in GUARD_WORDS.values())
            yield Menu(name, "in which state", states, self._putting(place, mark))
        else:
            modes = tuple(WordChoice(f"mode:{m.name}", m.label) for m in model.program.modes)
            yield Menu(mode_label(model, name), "which mode", modes, self._putting(place, mark))

    def _position(
        self, place: ConditionPlace, text: str, control: Control, position: int
    ) -> Iterator[Word]:
        """A switch at a position."""
        yield self.kind(place, control.label)
        yield self._is(place, text, ("is at", "is not at"))
        places = tuple(
            WordChoice(f"{control.name}@{i}", p) for i, p in enumerate(control.positions)
        )
        shown = (
            control.positions[position] if position < len(control.positions) else str(position + 1)
        )
        mark = "!" if asked(text).negated else ""
        yield Menu(shown, f"position of {control.label}", places, self._putting(place, mark))

    def _named(self, place: ConditionPlace, text: str) -> Iterator[Word]:
        """A condition with a name, or a step of one that counts."""
        asks = asked(text)
        node = node_named(self.model, asks.name)
        yield self.kind(
            place, asks.name if node is None else said_name(node.label, UNNAMED, asks.name)
        )
        if node is not None and node.positions:
            yield self._is(place, text, ("stands at", "does not stand at"))
            yield self.step(place, node, text, asks.position or 0)
        else:
            yield self._is(place, text, ("holds", "does not hold"))

    def _node(
        self,
        place: ConditionPlace,
        node: LogicSwitch,
        text: str,
        position: int | None,
        negated: bool,
        indent: int,
        seen: tuple[str, ...],
    ) -> Iterator[SentenceLine]:
        writer = _Writer(self, place, node, text, position)
        node.write(writer)
        words = writer.words
        if negated:
            words.insert(0, self._is(place, text, ("", "not this:")))
        yield SentenceLine(indent, tuple(words), text)
        for path in writer.inner:
            yield from self.place(ConditionPlace(path), indent + 1, seen)
        if writer.last is not None:
            yield SentenceLine(indent + 1, (writer.last,), "")

    def _is(self, place: ConditionPlace, text: str, words: tuple[str, str]) -> Menu:
        """Whether it is to be so, or is not."""
        negated = asked(text).negated
        yes, no = words
        choices = (WordChoice("yes", yes or "this:"), WordChoice("no", no))
        rest = text.lstrip("!")
        return Menu(
            words[negated] or "this:",
            "whether it is so",
            choices,
            lambda key: put_text(self.model, place, ("!" if key == "no" else "") + rest),
        )

    def step(self, place: ConditionPlace, node: LogicSwitch, text: str, position: int) -> Menu:
        mark = "!" if asked(text).negated else ""
        choices = tuple(
            WordChoice(f"{node.name}@{i}", f"step {i + 1}") for i in range(node.positions)
        )
        return Menu(f"step {position + 1}", "at which step", choices, self._putting(place, mark))

    def _putting(self, place: ConditionPlace, mark: str) -> Callable[[str], Model]:
        return lambda key: put_text(self.model, place, mark + key)

    def kind(self, place: ConditionPlace, shown: str) -> Menu:
        """The word that says what the condition is about; another one makes another condition of
        it."""
        return Menu(
            shown,
            "what it hangs on",
            kinds(self.model, place),
            lambda key: chosen(self.model, place, key),
        )

    def more(self, node: LogicSwitch, field: str) -> Menu:
        """One more condition in a list of them, or one less."""
        path = f"{condition_path(self.model, node.name)}.{field}"
        those: tuple[str, ...] = get_at(self.model, path)
        choices = [
            c
            for c in kinds(self.model, ConditionPlace(f"{path}[0]"))
            if not c.key.startswith("wrap:")
        ]
        if len(those) > 1:
            choices += [
                WordChoice(f"drop:{k}", phrase(self.model, c), "Take out")
                for k, c in enumerate(those)
            ]

        def put(key: str) -> Model:
            if key.startswith("drop:"):
                k = int(key[5:])
                return without_orphans(
                    self.model, with_at(self.model, path, those[:k] + those[k + 1 :])
                )
            longer = with_at(self.model, path, (*those, "link"))
            return chosen(longer, ConditionPlace(f"{path}[{len(those)}]"), key)

        return Menu("and more …", "one more, or one less", tuple(choices), put)


class _Writer:
    """Takes down the words of one condition; see ``SentenceWriter``."""

    def __init__(
        self,
        reader: _Reader,
        place: ConditionPlace,
        node: LogicSwitch,
        text: str,
        position: int | None,
    ) -> None:
        self._reader, self._model = reader, reader.model
        self._place, self._node, self._text, self._position = place, node, text, position
        self._path = condition_path(reader.model, node.name)
        self.signals = tuple(compared_signals(reader.model))
        self.words: list[Word] = []
        self.inner: list[str] = []
        """The paths of the conditions that stand further in."""
        self.last: Menu | None = None

    def kind(self, shown: str) -> None:
        self.words.append(self._reader.kind(self._place, shown))

    def kind_of_signal(self, name: str) -> None:
        self.kind(signal_label(self._model, name))

    def plain(self, text: str) -> None:
        self.words.append(PlainWord(text))

    def number(
        self,
        field: str,
        about: str,
        unit: str,
        low: float,
        high: float,
        *,
        signal: str = "",
        sides: tuple[str, str] | None = None,
        show: Callable[[float], float] = float,
        store: Callable[[float], float] = float,
    ) -> None:
        path = f"{self._path}.{field}"
        stored: float | None = get_at(self._model, path)
        shown = show(0.0 if stored is None else float(stored))
        put = lambda value: with_at(self._model, path, store(value))  # noqa: E731
        self.words.append(Number(about, shown, unit, low, high, put, signal, sides))

    def steps(self, field: str, about: str, most: int) -> None:
        path = f"{self._path}.{field}"

        def put(value: float) -> Model:
            count = round(value)
            return asked_at(
                with_at(self._model, path, count),
                self._node.name,
                lambda step: min(step, count - 1),
            )

        self.words.append(Number(about, float(get_at(self._model, path)), "steps", 2, most, put))

    def signal(self, field: str) -> None:
        path = f"{self._path}.{field}"
        choices = tuple(WordChoice(name, signal_label(self._model, name)) for name in self.signals)
        shown = signal_label(self._model, get_at(self._model, path))
        self.words.append(
            Menu(shown, "which signal", choices, lambda key: with_at(self._model, path, key))
        )

    def choice(
        self,
        about: str,
        shown: str,
        labels: Mapping[str, str],
        made: Callable[[str], ConditionBase],
    ) -> None:
        choices = tuple(WordChoice(key, words) for key, words in labels.items())
        self.words.append(
            Menu(shown, about, choices, lambda key: with_at(self._model, self._path, made(key)))
        )

    def step_asked(self) -> None:
        if not self._place.name:
            self.words.append(
                self._reader.step(self._place, self._node, self._text, self._position or 0)
            )

    def below(self, field: str) -> None:
        self.inner.append(f"{self._path}.{field}")

    def more(self, field: str) -> None:
        self.last = self._reader.more(self._node, field)
