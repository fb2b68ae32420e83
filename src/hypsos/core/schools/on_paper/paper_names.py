# SPDX-License-Identifier: GPL-3.0-or-later
"""What things are called on a sheet: hands, sums, conditions, curves; and references in words."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Mapping, Sequence

from hypsos.core.base.figure_words import plain, said_name
from hypsos.core.base.lookup import first_free
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.schools.figures import Bend
from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.parts import FULL, REFERENCE, Rule, reference
from hypsos.core.wording.describe_condition import signal_labels

FIXED = "Fixed"
"""What the source is called that always gives 100 %."""
GUARD = "guard_"
RULE_ENDINGS = {"_on": "begins", "_stay": "stays"}
"""Endings of conditions that a hysteresis is made of."""
NAMELESS = re.compile(r"when_[0-9_a-z]+")
"""Conditions that the translation has made of a sentence."""
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


def capitalized(text: str) -> str:
    """The text with a capital at its head."""
    return text[:1].upper() + text[1:]


class Names:
    """Names of everything that settings speak of.

    ``rules`` and ``signals``: the conditions and the sums of the settings, in the order in which
    they are keyed in. No two signals have one name. ``kept``: numbers and letters that conditions,
    shared values and curves have in a transmitter already, by name or by points: they keep them."""

    def __init__(
        self,
        model: Model,
        settings: Settings,
        rules: Sequence[Rule],
        signals: Iterable[str],
        kept: Mapping[str, str],
    ) -> None:
        self.model, self.settings = model, settings
        self._codes = _numbered("C", [rule.name for rule in rules], kept)
        self._modes = {mode.name: mode.label for mode in model.program.modes}
        self._values = _numbered("V", [x.name for x in settings.shared], kept)
        self._value_labels = {
            x.name: capitalized(said_name(x.label, "Shared value", x.name))
            for x in model.program.shared_values()
        }
        self._parts = {part.name: part.label for part in model.airframe.moved()}
        self._signals: dict[str, str] = {FULL: FIXED}
        known = dict(signal_labels(model))
        hands = {hand.name: hand.label for hand in settings.hands}
        for name in (*hands, *signals):
            label = hands.get(name) or _short(known.get(name, "")) or self._made(name)
            taken = set(self._signals.values())
            label = capitalized(label)
            if label in taken and name not in hands:
                label = f"{label}, sum"
            self._signals[name] = first_free(label, taken)
        self._curves: dict[Bend, str] = {}
        self._kept = kept
        said = settings.model_dump_json(exclude={"hands", "levers"})
        self._used = frozenset(re.findall(r"[a-z][a-z0-9_]*", said))

    def is_used(self, name: str) -> bool:
        """Whether anything in the settings speaks of a hand."""
        return name in self._used

    def _made(self, name: str) -> str:
        """A name for something that the translation has made: after the part that it is for."""
        for part, label in self._parts.items():
            if name.startswith(f"{part}_"):
                return f"{label}: {name.removeprefix(f'{part}_').replace('_', ' ')}"
        return name.replace("_", " ")

    def signal(self, name: str) -> str:
        """A hand, a command or a sum."""
        return self._signals.get(name) or capitalized(name.replace("_", " "))

    def labels(self) -> dict[str, str]:
        """What everything is called: signals, shared values, flight modes."""
        values = {name: self.shared_label(name) for name in self._values}
        return {**self._modes, **values, **self._signals}

    def part(self, name: str) -> str:
        """A surface, motor or device."""
        return self._parts.get(name, self.signal(name))

    def called(self, text: str) -> str:
        """A name or a reference out of the settings, as the sheet has it; other words as they are."""
        if re.fullmatch(REFERENCE, text) is None:
            return text
        return self._parts.get(text) or self.reference(text)

    def own(self, name: str, part: str) -> str:
        """A sum as it is called with the part that it is for: ``'own degrees'``."""
        label, whose = self.signal(name), self.part(part)
        if name.startswith(f"{part}_") and label.startswith(whose):
            return f"own {label.removeprefix(whose).lstrip(':, ')}"
        return label

    def mode(self, name: str) -> str:
        """A flight mode."""
        return self._modes.get(name) or capitalized(name.replace("_", " "))

    def shared(self, name: str) -> str:
        """A shared value by its number: ``'V2'``."""
        return self._values[name]

    def shared_label(self, name: str) -> str:
        """A shared value by its number and its name."""
        label = self._value_labels.get(name) or capitalized(name.replace("_", " "))
        return f"{self._values[name]} {label}"

    def code(self, rule: str) -> str:
        """A condition by its number: ``'C7'``."""
        return self._codes[rule]

    def rule_label(self, name: str) -> str:
        """What a condition is for, in a few words; nothing where only a sentence has made it."""
        for ending, word in RULE_ENDINGS.items():
            whole = name.removesuffix(ending)
            if whole != name and whole in self._codes and self.rule_label(whole):
                return f"{self.rule_label(whole)}: {word}"
        if NAMELESS.fullmatch(name):
            return ""
        found = next((x for x in self.model.program.logic if x.name == name), None)
        label = UNNAMED if found is None else found.label
        return capitalized(said_name(label, UNNAMED, name))

    def position(self, hand: str, place: int) -> str:
        """A position of a switch by its name."""
        control = self.model.transmitter.control(hand)
        if control is None or place >= len(control.positions):
            return str(place)
        return control.positions[place]

    def reference(self, text: str) -> str:
        """Something that holds or not: ``'not Flap switch at landing'``."""
        asked = reference(text)
        said = self._asked(asked.name, asked.position)
        if asked.before:
            said = f"{said} a frame before"
        return f"not {said}" if asked.negated else said

    def _asked(self, name: str, position: int | None) -> str:
        if name.startswith("mode:"):
            return f"mode {self.mode(name.removeprefix('mode:'))}"
        if name in self._codes:
            code = self._codes[name]
            return code if position is None else f"{code} at {position}"
        if position is not None:
            return f"{self.signal(name)} at {self.position(name, position)}"
        return {"link": "link there", "power": "receiver has power"}.get(name, self.signal(name))

    def all_of(self, texts: Sequence[str]) -> str:
        """Several references that hold together."""
        return " and ".join(self.reference(text) for text in texts)

    def any_of(self, texts: Sequence[str]) -> str:
        """Several references of which one is enough."""
        return " or ".join(self.reference(text) for text in texts)

    def modes(self, names: Sequence[str]) -> str:
        """Modes of which one is flown."""
        return " or ".join(self.mode(name) for name in names)

    # -- curves --------------------------------------------------------------------------------------

    def curve(self, bend: Bend) -> str:
        """The letter of a curve, by which its points are found: ``'curve B'``."""
        if bend not in self._curves:
            self._curves[bend] = self._letter(self.points(bend))
        return f"curve {self._curves[bend]}"

    def _letter(self, points: str) -> str:
        """The letter that a curve has kept; else the first that none has."""
        taken = {*self._curves.values()}
        kept = self._kept.get(points, "")
        if kept and kept not in taken:
            return kept
        held = {letter for letter in self._kept.values() if letter.isalpha()}
        return next(
            letter
            for letter in map(curve_letter, itertools.count())
            if letter not in taken and letter not in held
        )

    def curves(self) -> list[tuple[str, Bend]]:
        """The curves that were asked for, with their letters."""
        return [(letter, bend) for bend, letter in self._curves.items()]

    def points(self, bend: Bend) -> str:
        """A curve by its points: ``'−100: 0, 0: 29, 100: 57'``."""
        return ", ".join(f"{plain(x)}: {plain(y)}" for x, y in bend.points)


def _numbered(letter: str, names: Sequence[str], kept: Mapping[str, str]) -> dict[str, str]:
    """A number for each name: the one that it has kept, else the first that none has."""
    found = {name: kept[name] for name in names if kept.get(name, "").startswith(letter)}
    taken = {code for code in kept.values() if code.startswith(letter)}
    free = (code for code in map(f"{letter}{{}}".format, itertools.count(1)) if code not in taken)
    return {name: found.get(name) or next(free) for name in names}


def _short(label: str) -> str:
    """A signal's label without the word that says that it is one: ``'Roll'``."""
    return label.removesuffix(" command").removesuffix(" signal")


def curve_letter(place: int) -> str:
    """The letter of a curve by its place: A to Z, then AA, AB and so on.

    >>> [curve_letter(i) for i in (0, 25, 26, 52)]
    ['A', 'Z', 'AA', 'BA']
    """
    rest, at = divmod(place, len(LETTERS))
    return (curve_letter(rest - 1) if rest else "") + LETTERS[at]
