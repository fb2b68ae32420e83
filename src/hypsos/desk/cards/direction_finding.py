# SPDX-License-Identifier: GPL-3.0-or-later
"""What the answers of the directions check say: what was mended, what explains it all, the one
question, all well."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.document.document import Model
from hypsos.desk.widgets.page_layout import card, clear, label, row, worded

if TYPE_CHECKING:
    from hypsos.core.fitting.direction_finder import Check, Movement, WiringFinding
    from hypsos.core.fitting.practice_faults import Practice


class DirectionsSaid(QWidget):
    """Shows a finding; what can be done about it is asked for by signals."""

    mend_wanted = pyqtSignal()
    done_wanted = pyqtSignal()
    pulled = pyqtSignal(str, str)
    """The lead whose plug was pulled, and the part that stood still."""
    ask_again = pyqtSignal(int)
    """What was seen with the plug of a port pulled is to be asked once more."""
    enough = pyqtSignal()
    """What was looked at so far is to be noted."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(8)
        self.replies: dict[str, QPushButton] = {}

    def show_finding(
        self,
        model: Model,
        check: Check,
        finding: WiringFinding | None,
        mended: list[str],
        complete: Callable[[Movement], bool],
        practice: Practice | None,
        known: Mapping[int, str],
    ) -> None:
        """Say what the answers so far come to; ``known`` is what stood still with the plug of a
        port pulled."""
        from hypsos.core.fitting.apply_fix import repair_words

        clear(self._column)
        self._seen_with_plugs_out(model, known)
        if mended:
            again = "Done. Make the movements that it changed once more: they are the ones without a tick."
            words = [label(x) for x in mended]
            self._column.addWidget(
                card(label("Mended", "section"), *words, label(again, "faint"), kind="hint")
            )
        if finding is None:
            return
        todo = [s for s in check.steps if not complete(s)]
        truth = finding.settled
        if not finding.explanations:
            self._riddle()
        elif truth is None:
            self._ask(model, check, finding, bool(todo), practice, complete)
        elif said := repair_words(model, check.repair(truth)):
            self._repair(said, practice is not None)
        elif todo:
            words_ = f"So far everything moves as it should. {len(todo)} movements to go."
            self._column.addWidget(label(words_, "faint"))
            if practice is None:
                self._offer_enough(model, check, todo)
        else:
            self._all_well(
                all(x.checked for x in model.leads if x.target in check.parts), practice is not None
            )

    def _seen_with_plugs_out(self, model: Model, known: Mapping[int, str]) -> None:
        """What was answered of pulled plugs; each answer can be taken back."""
        labels = {p.name: p.label for p in model.airframe.moved()}
        for port, part in known.items():
            again = QPushButton("Ask again")
            again.setObjectName("plain")
            again.setAccessibleDescription(f"The plug in port {port}")
            again.clicked.connect(lambda _=False, p=port: self.ask_again.emit(p))
            said = label(f"Plug in port {port} out: {labels.get(part, part).lower()} stood still.")
            line = row(said, again)
            line.setStretch(0, 1)
            self._column.addLayout(line)

    def _offer_enough(self, model: Model, check: Check, todo: list[Movement]) -> None:
        """Stop for today: what was looked at is noted, and what was not is named."""
        open_ = {name for step in todo for name in step.moves}
        seen = [name for name in check.parts if name not in open_]
        stop = QPushButton("Enough for today")
        stop.clicked.connect(self.enough)
        labels = {p.name: p.label.lower() for p in model.airframe.moved()}
        missing = ", ".join(labels[name] for name in check.parts if name in open_)
        count = f"{len(seen)} of {len(check.parts)} parts are looked at in all they do"
        text = f"{count}. Not proved yet: {missing}. Look at these before the model flies."
        self._column.addWidget(card(label(text, "faint"), row(stop, None)))

    def _riddle(self) -> None:
        text = (
            "Look at each answer once more, and whether something else moved too. A servo that never moves may be unplugged, dead, "
            "or its plug the wrong way round; a linkage may be loose."
        )
        self._column.addWidget(card(label("Nothing simple explains this", "section"), label(text)))

    def _repair(self, said: list[str], practising: bool) -> None:
        apply_ = QPushButton("Mend it on this aeroplane" if practising else "Mend it in the model")
        apply_.setObjectName("lead")
        apply_.clicked.connect(self.mend_wanted)
        words = [label(s) for s in said]
        self._column.addWidget(
            card(label("This explains everything seen", "section"), *words, row(apply_, None))
        )

    def _all_well(self, noted: bool, practising: bool) -> None:
        words = "Everything moves the right way."
        if practising:
            words += " That was the aeroplane to practise on; your own wiring is checked on your own aeroplane."
            self._column.addWidget(card(label("Found", "section"), label(words)))
            return
        finish = QPushButton("Note it: all seen right")
        finish.setObjectName("lead")
        finish.clicked.connect(self.done_wanted)
        more = [] if noted else [row(finish, None)]
        self._column.addWidget(card(label("Settled", "section"), label(words), *more))

    def _ask(
        self,
        model: Model,
        check: Check,
        finding: WiringFinding,
        todo: bool,
        practice: Practice | None,
        complete: Callable[[Movement], bool],
    ) -> None:
        question, count = finding.question, len(finding.explanations)
        if question is None or todo:
            words = f"{count} explanations fit so far. Go on with the other movements, and look whether something else moves too."
            self._column.addWidget(label(words, "faint"))
            if todo and practice is None:
                self._offer_enough(model, check, [s for s in check.steps if not complete(s)])
            return
        labels = {p.name: p.label for p in model.airframe.moved()}
        port = next(x.port for x in model.leads if x.target == question.lead)
        step = next(s for s in check.steps if s.key == question.step)
        self.replies = {}
        line = QHBoxLayout()
        for name in question.answers:
            button = self.replies[name] = QPushButton(worded(labels[name]))
            button.clicked.connect(lambda _=False, n=name: self.pulled.emit(question.lead, n))
            line.addWidget(button)
        line.addStretch(1)
        text = (
            f"{count} explanations remain. Battery off, pull the plug in port {port} ({labels[question.lead]}), battery on. "
            f"{step.words}: which of these stands still now?"
        )
        said = [label("One question", "section"), label(text)]
        if practice is not None:
            truth = practice.ports.get(port or 0)
            said.append(
                label(
                    f"On this aeroplane {labels[truth or question.lead].lower()} stands still.",
                    "faint",
                )
            )
        self._column.addWidget(card(*said, line))
