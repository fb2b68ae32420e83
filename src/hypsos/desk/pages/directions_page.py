# SPDX-License-Identifier: GPL-3.0-or-later
"""Check directions: move a stick, say what was seen; what explains it all is found and mended."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QWidget

from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.parts.airframe import Motor
from hypsos.core.wording.words import Part, sense_words
from hypsos.desk.cards.direction_finding import DirectionsSaid
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.focus_order import first_field, focus_kept
from hypsos.desk.widgets.page_layout import card, clear, hint, label, row, set_tip

if TYPE_CHECKING:
    from hypsos.core.fitting.direction_finder import Check, Movement, Seen, WiringFinding
    from hypsos.core.fitting.practice_faults import Practice


def movement_words(part: Part) -> tuple[str, str]:
    """What a part can be seen to do: its - and its + sense."""
    return ("slower", "faster") if isinstance(part, Motor) else sense_words(part)


STEPS_IN_A_ROW = 6


class DirectionsPage(StepPage):
    """One movement after the other; for each part what it should do and what it did."""

    key = "directions"
    lead_in = (
        "Make each movement and say what you saw. From all answers together Hypsos finds which output to reverse and which "
        "leads to exchange, and asks no more than it must."
    )

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        self.answers: dict[str, dict[str, Seen]] = {}
        self.known: dict[int, str] = {}
        """Port -> the part that stood still with its plug pulled: that holds, whatever the model
        says of it."""
        self.mended: list[str] = []
        self._away: Practice | None = None
        self.at = 0
        self.check: Check | None = None
        self.finding: WiringFinding | None = None
        self._of: tuple[Any, ...] | None = None
        self.others = False
        super().__init__(workbench, parent)

    def build(self) -> None:
        self.column.addWidget(
            self.caution(
                "Propellers off, model held, hands clear. Only then the flight battery, and the motor switch last.",
                "Model held, hands clear of the surfaces.",
            )
        )
        self.own = QPushButton("My aeroplane")
        self.other = QPushButton("One to practise on")
        self.other.setToolTip(
            "A made-up aeroplane with one or two hidden faults. The bench shows what it really does."
        )
        for button in (self.own, self.other):
            button.setCheckable(True)
        self.own.clicked.connect(lambda: self.practise(None))
        self.other.clicked.connect(
            lambda: self.practise(int(np.random.default_rng().integers(2**31)))
        )
        self._steps = QGridLayout()
        self._steps.setSpacing(5)
        self._title = label("", "section")
        self.move_ = QPushButton("Move it for me")
        self.move_.clicked.connect(self.move_controls)
        self.all_right = QPushButton("All as it should")
        self.all_right.clicked.connect(self.answer_all)
        self._grid_box = QWidget()
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(4)
        self.column.addLayout(row(self.own, self.other, None))
        self.column.addWidget(
            card(self._steps, self._title, row(self.move_, self.all_right, None), self._grid_box)
        )
        self.said = DirectionsSaid()
        self.said.mend_wanted.connect(self.mend)
        self.said.done_wanted.connect(self.done)
        self.said.pulled.connect(self.pull)
        self.said.ask_again.connect(self.ask_again)
        self.said.enough.connect(self.done)
        self.column.addWidget(self.said)
        self.column.addWidget(
            hint(
                "Reversing belongs to the output: mixes, trims, failsafe and the motor guard then stay as they are. "
                "If you keep it in the signs of the mixes, choose that school on the sheet."
            )
        )

    def in_hand(self) -> bool:
        return bool(self.answers or self.known or self._away)

    @property
    def replies(self) -> dict[str, QPushButton]:
        """The answers to the one question, by part."""
        return self.said.replies

    @property
    def pulled(self) -> dict[str, str]:
        """Lead -> the part that its plug really moves, as far as that was seen."""
        second = {y.second for y in self.workbench.loaded.y_leads}
        return {
            x.target: self.known[x.port]
            for x in self.workbench.loaded.leads
            if x.port in self.known and x.name not in second
        }

    # -- what is checked -------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        away, self._away = self._away, None
        if away is not None and set(away.sense) == {x.target for x in self.workbench.loaded.leads}:
            self.workbench.simulation.practise(away)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        """In the other steps one's own aeroplane is on the bench; the one to practise on waits
        here."""
        super().hideEvent(event)
        self._away = self.workbench.state.practice
        if self._away is not None:
            self.workbench.simulation.practise(None)

    def refresh(self) -> None:
        """Read the model again; what each movement does is only worked out while the page is
        seen."""
        from hypsos.core.fitting.direction_finder import check_of

        if self.workbench.model is None or not self.isVisible():
            return
        model = self.workbench.loaded
        if self._of is not None and self._of[0] != model.name:
            self._begin()
            self._away = None
        now = (
            model.name,
            model.airframe,
            model.program,
            tuple((x.port, x.direction) for x in model.leads),
        )
        if now == self._of:
            return
        self._of = now
        old, self.check = self.check, check_of(model)
        self._forget(old)
        self.at = min(self.at, max(0, len(self.check.steps) - 1))
        self.show_answers()

    def _forget(self, old: Check | None) -> None:
        """Answers to movements that are no longer the same ask again."""
        assert self.check is not None
        before = {s.key: s for s in old.steps} if old is not None else {}
        for step in self.check.steps:
            was = before.pop(step.key, None)
            parts = set(step.moves)
            same = was is not None and old is not None and parts == set(was.moves)
            same = same and all((step.moves[n] > 0) == (was.moves[n] > 0) for n in parts)  # type: ignore[union-attr]
            if not same or any(self.check.sense[n] != old.sense.get(n) for n in parts):  # type: ignore[union-attr]
                self.answers.pop(step.key, None)
        for key in before:
            self.answers.pop(key, None)

    def practise(self, seed: int | None) -> None:
        """Put an aeroplane with hidden faults on the bench, or go back to one's own."""
        from hypsos.core.fitting.practice_faults import practice

        self._begin()
        self.workbench.simulation.practise(
            None if seed is None else practice(self.workbench.loaded, seed)
        )
        self.show_answers()

    def _begin(self) -> None:
        self.answers.clear()
        self.known.clear()
        self.mended.clear()
        self.at = 0

    def go_to(self, index: int) -> None:
        """Show one of the movements."""
        self.at = index
        self.show_answers()

    def move_controls(self) -> None:
        """Make the movement on the bench."""
        if self.check is None or not self.check.steps:
            return
        step, bench = self.check.steps[self.at], self.workbench
        for controls in (dict(self._rest()), dict(step.before), dict(step.after)):
            for name, value in controls.items():
                bench.simulation.set_control(name, value)
            bench.simulation.advance(0.6)
        bench.simulation.advance(2.0)

    def _rest(self) -> dict[str, float]:
        plan = self.workbench.state.plan
        if plan is None:
            return {}
        hands = plan.rest | quiet_hands(plan.model)
        return {n: v for n, v in hands.items() if not n.endswith("_trim")}

    def _of_this_model(self) -> bool:
        """Whether the questions are about the parts of the model on the bench."""
        parts = {p.name for p in self.workbench.loaded.airframe.moved()}
        return self.check is not None and set(self.check.parts) <= parts

    # -- answers ---------------------------------------------------------------------------------

    def answer(self, part: str, seen: Seen) -> None:
        """Note how a part was seen to move on the step at hand; with the last of its parts it goes
        on to the next."""
        assert self.check is not None
        if not self._of_this_model():
            return
        step = self.check.steps[self.at]
        given = self.answers.setdefault(step.key, {})
        new = part not in given
        given[part] = seen
        self.mended.clear()
        if new and not self.others and all(n in given for n in step.moves):
            self._next()
        else:
            self.show_answers()

    def answer_all(self) -> None:
        """All that was not answered yet moved as it should, and nothing else moved; then the next
        movement."""
        if self.check is None:  # what each movement does is worked out once the page is seen
            return
        step = self.check.steps[self.at]
        self.answers[step.key] = {n: step.expected(n) for n in self.check.parts} | self.answers.get(
            step.key, {}
        )
        self.mended.clear()
        self._next()

    def _next(self) -> None:
        """The next movement that was not answered yet; this one where there is none."""
        assert self.check is not None
        steps = self.check.steps
        order = [*range(self.at + 1, len(steps)), *range(self.at)]
        self.at = next((i for i in order if not self._complete(steps[i])), self.at)
        self.show_answers()
        if all(self._complete(step) for step in steps):
            self._go_on_to_what_was_found()

    def _go_on_to_what_was_found(self) -> None:
        """All movements are answered: the focus goes on to what they come to."""
        first = first_field(self.said)
        if first is not None:
            self.bring(self.said, first)

    def _complete(self, step: Movement) -> bool:
        return all(n in self.answers.get(step.key, {}) for n in step.moves)

    def pull(self, lead: str, part: str) -> None:
        """Note which part stood still with a plug pulled."""
        port = next(x.port for x in self.workbench.loaded.leads if x.target == lead)
        assert port is not None
        self.known[port] = part
        self.show_answers()

    def ask_again(self, port: int) -> None:
        """Forget what stood still with the plug of a port pulled."""
        self.known.pop(port, None)
        self.show_answers()

    def mend(self) -> None:
        """Apply what was found, to the model or to the aeroplane one practises on; what it changed
        is asked again."""
        from hypsos.core.fitting.apply_fix import repair_words, repaired

        truth = self.finding.settled if self.finding is not None else None
        if truth is None or self.check is None:
            return
        repair = self.check.repair(truth)
        said = repair_words(self.workbench.loaded, repair)
        touched = {*repair.reverse, *repair.on, *repair.on.values(), *(n for _, n in repair.signs)}
        practising = self.workbench.state.practice
        if practising is not None:
            made = practising.mended(self.workbench.loaded, repair)
            self.workbench.simulation.practise(made)
            # the plugs have changed places
            self.known = {port: made.ports[port] for port in self.known}
            mended = True
        else:
            model = repaired(self.workbench.loaded, repair)
            mended = self.workbench.notices.attempt(
                lambda: self.workbench.document.apply(model, "directions mended")
            )
        if mended:
            for step in self.check.steps:
                if touched & set(step.moves):
                    self.answers.pop(step.key, None)
            self.mended = said
            first = [i for i, s in enumerate(self.check.steps) if s.key not in self.answers]
            self.at = first[0] if first else 0
            self.show_answers()

    def done(self) -> None:
        """Note that all parts looked at move the right way."""
        from hypsos.core.fitting.apply_fix import marked

        parts = [n for n in self.check.parts if self._is_right(n)] if self.check is not None else []
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(
                marked(self.workbench.loaded, parts), "directions seen right"
            )
        )
        self.show_answers()

    def _is_right(self, part: str) -> bool:
        """Whether a part was looked at in all that it does, and moved as it should each time."""
        assert self.check is not None
        steps = [step for step in self.check.steps if part in step.moves]
        return all(
            self.answers.get(step.key, {}).get(part) == step.expected(part) for step in steps
        )

    # -- showing ---------------------------------------------------------------------------------

    def show_answers(self) -> None:
        """Show the movement at hand, what was answered, and what explains it."""
        if self.check is not None:
            with focus_kept(self):
                self._show_answers(self.check)

    def _show_answers(self, check: Check) -> None:
        from hypsos.core.fitting.direction_finder import find

        practising = self.workbench.state.practice is not None
        self.own.setChecked(not practising)
        self.other.setChecked(practising)
        steps = check.steps
        clear(self._steps)
        for i, step in enumerate(steps):
            button = QPushButton(f"{i + 1} ✓" if self._complete(step) else f"{i + 1}")
            button.setCheckable(True)
            button.setChecked(i == self.at)
            set_tip(button, step.words)
            button.setAccessibleName(f"Movement {i + 1}: {step.words}")
            button.clicked.connect(lambda _=False, i=i: self.go_to(i))
            self._steps.addWidget(button, i // STEPS_IN_A_ROW, i % STEPS_IN_A_ROW)
        self._steps.setColumnStretch(STEPS_IN_A_ROW, 1)
        for widget in (self.move_, self.all_right):
            widget.setEnabled(bool(steps))
        begun = bool(steps) and bool(self.answers.get(steps[self.at].key))
        whole = begun and self._complete(steps[self.at])
        right = "The rest as it should" if begun else "All as it should"
        self.all_right.setText("Go on" if whole else right)
        self.all_right.setVisible(not all(self._complete(step) for step in steps))
        if not steps:
            clear(self._grid)
            self._title.setText("Plug in the leads first; then there is something to move.")
            return
        self._title.setText(f"{self.at + 1}. {steps[self.at].words}")
        self._make_rows()
        self.finding = find(check, self.answers, self.pulled) if self.answers else None
        self.said.show_finding(
            self.workbench.loaded,
            check,
            self.finding,
            self.mended,
            self._complete,
            self.workbench.state.practice,
            self.known,
        )

    def _make_rows(self) -> None:
        assert self.check is not None
        if not self._of_this_model():
            return  # another model has come; its own check is worked out as the page is brought up to date
        clear(self._grid)
        step = self.check.steps[self.at]
        parts = {p.name: p for p in self.workbench.loaded.airframe.moved()}
        given = self.answers.get(step.key, {})
        for c, words in enumerate(("should", "what you saw")):
            self._grid.addWidget(label(words, "faint", wrap=False), 0, c + 1)
        expected = [n for n in self.check.parts if n in step.moves]
        still = [n for n in self.check.parts if n not in step.moves]
        wrong = [n for n in still if given.get(n, 0)]
        shown = expected + (still if self.others else wrong)
        for i, name in enumerate(shown, 1):
            low, high = movement_words(parts[name])
            should = (low, "stay", high)[step.expected(name) + 1]
            self._grid.addWidget(label(parts[name].label), i, 0)
            self._grid.addWidget(label(should, wrap=False), i, 1)
            group = QButtonGroup(self._grid_box)
            line = QHBoxLayout()
            line.setSpacing(3)
            choices: tuple[tuple[Seen, str], ...] = ((-1, low), (0, "still"), (1, high))
            for seen, words in choices:
                button = QPushButton(words)
                button.setCheckable(True)
                button.setChecked(name in given and given[name] == seen)
                button.setAccessibleName(f"{parts[name].label}: {words}")
                button.clicked.connect(lambda _=False, n=name, s=seen: self.answer(n, s))
                group.addButton(button)
                line.addWidget(button)
            self._grid.addLayout(line, i, 2)
        self.more = QPushButton(
            "Hide what should stay still" if self.others else "Something else moved too…"
        )
        self.more.setObjectName("plain")
        self.more.clicked.connect(self._toggle_others)
        self._grid.addWidget(self.more, len(shown) + 1, 0, 1, 3)
        self.more.setVisible(bool(still))  # once it has a place: alone it would be a window
        self._grid.setColumnStretch(0, 1)

    def _toggle_others(self) -> None:
        self.others = not self.others
        self._make_rows()
