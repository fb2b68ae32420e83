# SPDX-License-Identifier: GPL-3.0-or-later
"""What the search has found: each finding in a sentence, the part to change, the bench to show it,
what would mend it."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtWidgets import QFrame, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from hypsos.core.review.findings import LEVELS, Finding, Level
from hypsos.core.review.repairs import TriedRepair, changes_words
from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.search.replay import Replay, way_words
from hypsos.core.review.search_words import MARKS, NOTHING_PLUGGED, PLURALS, counted
from hypsos.core.rundown import STEPS, step_of_path
from hypsos.core.wording.words import standing
from hypsos.desk.cards.finding_player import ShowMe
from hypsos.desk.services.search_client import SearchClient
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.copying import copy_text
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import card, caution, clear, hint, label, row

if TYPE_CHECKING:
    from hypsos.desk.pages.shake_page import ShakePage

TITLES: dict[Level, str] = {"danger": "Dangers", "fault": "Faults", "advice": "Advice"}
CARE = "The search sees what the programme does. Wires, servos and hands it cannot see: try it all with the propeller off."
MOST = 40
"""Findings of a level shown as cards."""
NAMED = 4
"""Findings of the same cause named on a card."""


class FoundView(QWidget):
    """Dangers, faults and advice, one card each."""

    def __init__(self, page: ShakePage) -> None:
        super().__init__()
        self.page, self.workbench = page, page.workbench
        self.shower = ShowMe(self.workbench, self)
        self.cards: list[FindingCard] = []
        self._shown: object = None
        self.says, self.fault = label("", "section"), label("", "complaint")
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("How far the search is")
        self.what = label("", "faint")
        self.stop, self.again = QPushButton("Stop"), QPushButton("Search again")
        self.stop.setAccessibleName("Stop the search")
        self.stop.clicked.connect(lambda: self.search.stop())
        self.again.clicked.connect(lambda: self.search.again())
        self._holder = QVBoxLayout()
        self._holder.setSpacing(8)
        self.none = hint("Nothing was found. Every edit is searched again by itself.")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(caution(CARE))
        column.addWidget(self.says)
        column.addLayout(row(self.bar, self.stop))
        column.addWidget(flowing(self.again))
        column.addWidget(self.what)
        column.addWidget(self.fault)
        column.addWidget(self.none)
        column.addLayout(self._holder)

    @property
    def search(self) -> SearchClient:
        """The search of the model on the bench."""
        return self.workbench.companions.search

    def progress(self) -> None:
        """Show how far the search is."""
        search = self.search
        runs = search.share is not None
        self.bar.setVisible(runs)
        self.stop.setVisible(runs)
        self.again.setVisible(not runs)
        self.bar.setValue(round(100 * (search.share or 0.0)))
        said = (
            f"Searching: {self._with_labels(search.what)}"
            if runs and search.what and search.what != search.foreseen
            else ""
        )
        self.what.setText("\n".join(x for x in (search.foreseen, said) if x))
        self.what.setVisible(bool(self.what.text()))
        self.fault.setText(search.fault)
        self.fault.setVisible(bool(search.fault))

    def _with_labels(self, words: str) -> str:
        """What is asked now, its parts as they are labelled."""
        model = self.workbench.model
        for part in model.airframe.moved() if model is not None else ():
            words = re.sub(rf"\b{part.name}\b", part.label, words)
        return words

    def refresh(self) -> None:
        """Show what was found."""
        self.progress()
        found = self.search.found
        self.none.setVisible(found is not None and found.plugged and not found.findings)
        if found is None:
            self.says.setText("Nothing has been searched yet.")
            self._fill(())
            return
        said = ", ".join(counted(found, level) for level in LEVELS)
        old = "" if self.search.current else f" ({self.search.state()})"
        says = f"{said[:1].upper()}{said[1:]} in {found.situations:,} situations{old}"
        self.says.setText(says if found.plugged else f"{NOTHING_PLUGGED} ({says})")
        self._fill(found.findings)

    def _fill(self, findings: tuple[Finding, ...]) -> None:
        if findings == self._shown:
            return
        self._shown = findings
        clear(self._holder)
        self.cards = []
        for level in LEVELS:
            mine = [f for f in findings if f.level == level]
            if not mine:
                continue
            self._holder.addWidget(label(f"{MARKS[level]}  {TITLES[level]}", "section"))
            for f in mine[:MOST]:
                made = FindingCard(self.page, self.shower, f, len(self.cards) + 1)
                self.cards.append(made)
                self._holder.addWidget(made)
            if len(mine) > MOST:
                self._holder.addWidget(
                    label(f"and {len(mine) - MOST} more {PLURALS[level][1]}", "faint")
                )

    def show_finding(self, finding: Finding) -> QWidget | None:
        """The card of a finding."""
        return next((c for c in self.cards if c.finding == finding), None)


class FindingCard(QFrame):
    """One finding."""

    def __init__(self, page: ShakePage, shower: ShowMe, finding: Finding, number: int) -> None:
        super().__init__()
        self.page, self.workbench, self.shower, self.finding = page, page.workbench, shower, finding
        self.setAccessibleName(f"{PLURALS[finding.level][0].capitalize()} {number}")
        sure = "" if finding.confirmed else "Possible, not confirmed by playing it: "
        self.text = label(f"{sure}{finding.text}")
        way = (
            f"The way: {way_words(finding.moves, finding.captions, finding.waits_s)}."
            if finding.moves
            else ""
        )
        self.way = label(way)
        self.way.setVisible(bool(way))
        self.claim = label(f"{finding.statement} · {STATEMENTS[finding.statement].claim}", "faint")
        self.show_me, self.change, self.mend = (
            QPushButton("Show me"),
            QPushButton(""),
            QPushButton("What would mend it?"),
        )
        self.show_me.setToolTip(
            "The bench plays the way there slowly, from power-up, and stays there."
        )
        verb = next((s.verb for s in STEPS if s.key == step_of_path(finding.part)), "")
        self.change.setText(f"To “{verb}”" if verb else "To its place")
        self.copy = QPushButton("Copy")
        self.copy.setObjectName("plain")
        self.copy.clicked.connect(lambda: copy_text(f"{self.text.text()}\n{way}".strip()))
        for button in (self.show_me, self.change, self.mend, self.copy):
            button.setAccessibleDescription(finding.text)
        self.show_me.clicked.connect(self._show)
        self.change.clicked.connect(lambda: self.page.place_wanted.emit(finding.part))
        self.mend.clicked.connect(self._ask)
        self.show_me.setVisible(bool(finding.moves) or (not finding.moves and bool(finding.seen)))
        shown, more = finding.also[:NAMED], len(finding.also) - NAMED
        named = ["Of the same cause:", *(f"– {each}" for each in shown)] + (
            [f"and {more} more."] if more > 0 else []
        )
        self.also = label("\n".join(named))
        self.repairs = QVBoxLayout()
        self.offers: list[tuple[QPushButton, QPushButton]] = []
        self._trying: QLabel | None = None
        self._stopped = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                self.text,
                self.way,
                *([self.also] if finding.also else []),
                self.claim,
                flowing(self.show_me, self.change, self.mend, self.copy),
                self.repairs,
                kind=_kind(finding.level),
            )
        )

    def _show(self) -> None:
        bench, f = self.workbench, self.finding
        if f.seen:
            bench.simulation.choose(f.seen[0])
        if f.moves:
            bench.notices.attempt(lambda: self.shower.show(f.moves, f.captions, f.length_s, f.text))

    # -- repairs ---------------------------------------------------------------------------------

    def _ask(self) -> None:
        search = self.workbench.companions.search
        clear(self.repairs)
        self._trying, stop = label("Trying what would mend it …", "faint"), QPushButton("Stop")
        stop.setAccessibleName("Stop trying what would mend it")
        self.repairs.addWidget(self._trying)
        self.repairs.addWidget(flowing(stop))
        self.mend.setEnabled(False)
        self._stopped = False
        model = self.workbench.loaded

        def stopping() -> None:
            self._stopped = True
            search.stop_answer(self)

        stop.clicked.connect(stopping)
        search.answer(
            self,
            "repairs",
            search.ask(),
            self.finding,
            lambda tried: self.offer(model, tried),
            lambda why: self.offer(model, (), why),
            self._say_trying,
        )

    def _say_trying(self, words: str) -> None:
        if self._trying is not None:
            self._trying.setText(words)

    def offer(self, model: object, tried: tuple[TriedRepair, ...], why: str = "") -> None:
        """Show what mends it, each with a look at its effect first."""
        self.mend.setEnabled(True)
        self._trying = None
        clear(self.repairs)
        self.offers = []
        if model is not self.workbench.model:
            why = "The model has been changed since. Ask again."
        if self._stopped and not why:
            self.repairs.addWidget(
                label("Stopped: not everything that may mend it was tried.", "faint")
            )
        elif why or not tried:
            self.repairs.addWidget(
                label(why or "Nothing simple mends it: go to its place and decide.", "faint")
            )
            return
        for each in tried:
            words = label(f"{each.repair.words}. {self._then(each)}")
            look_, do = QPushButton("Look"), QPushButton("Do it")
            look_.setAccessibleName(f"Look at: {each.repair.words}")
            do.setAccessibleName(f"Do it: {each.repair.words}")
            look_.setToolTip(
                "Where the surfaces would stand at the end of the way, as a shadow on the bench."
            )
            look_.setCheckable(True)
            look_.toggled.connect(lambda on, each=each: self._look(each if on else None))
            do.clicked.connect(lambda _=False, each=each: self._do(each))
            self.offers.append((look_, do))
            self.repairs.addWidget(words)
            self.repairs.addWidget(flowing(look_, do))

    def _then(self, tried: TriedRepair) -> str:
        """Where what was looked at stands then, at the end of the way."""
        new = f" It brings something else: {tried.new[0].text}" if tried.new else ""
        changes = f" {changes_words(tried.changes)}" if tried.changes is not None else ""
        made, f = tried.repair.model, self.finding
        if not f.moves:
            return f"The search finds this no more.{changes}{new}"
        outputs = Replay(made).play(f.moves, max(0.4, f.length_s)).result.outputs
        said = []
        for part in (p for p in made.airframe.moved() if p.name in f.seen):
            trace = next((outputs[x.name] for x in made.leads if x.target == part.name), None)
            if trace is not None:
                deg, mm = (
                    None if x is None else float(np.ravel(x)[-1]) for x in (trace.deg, trace.mm)
                )
                said.append(
                    f"{part.label} {standing(part, float(np.ravel(trace.stand)[-1]), deg, mm)}"
                )
        ends = f" At the end of the way: {', '.join(said)}." if said else ""
        return f"The search finds this no more.{ends}{changes}{new}"

    def _look(self, tried: TriedRepair | None) -> None:
        """The end of the way with the repair, as a shadow on the bench."""
        if tried is None:
            self.workbench.simulation.show_shadow(None)
            return
        made = tried.repair.model
        played = Replay(made).play(self.finding.moves, max(0.4, self.finding.length_s))
        outputs = played.result.outputs
        degrees = {
            x.target: float(np.ravel(d)[-1])
            for x in made.leads
            if (d := outputs[x.name].deg) is not None
        }
        self.workbench.simulation.show_shadow(degrees)

    def _do(self, tried: TriedRepair) -> None:
        bench = self.workbench
        bench.simulation.show_shadow(None)
        bench.notices.attempt(
            lambda: bench.document.apply(tried.repair.model, _lower(tried.repair.words))
        )

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        for look_, _ in self.offers:
            if look_.isChecked():
                look_.setChecked(False)


def _kind(level: Level) -> str:
    return {"danger": "caution", "fault": "card", "advice": "card"}[level]


def _lower(text: str) -> str:
    return f"{text[:1].lower()}{text[1:]}"


__all__ = ["FindingCard", "FoundView", "Workbench"]
