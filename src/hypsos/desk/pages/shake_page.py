# SPDX-License-Identifier: GPL-3.0-or-later
"""Shake it down: what the search finds, scenarios with what is expected of them, how far was
searched, what changed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from hypsos.core.parts.scenario import Scenario
from hypsos.core.scenarios.ready_scenarios import ready_scenarios
from hypsos.core.scenarios.scenario_run import moves_of
from hypsos.desk.cards.findings_view import FindingCard, FoundView
from hypsos.desk.cards.scenario_card import ScenarioCard
from hypsos.desk.cards.view_buttons import Views
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.keep_stretch import free_label
from hypsos.desk.widgets.file_choice import ask_which
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import clear, hint, label
from hypsos.hangar.files import read_text

if TYPE_CHECKING:
    from hypsos.desk.cards.changes_view import ChangedView
    from hypsos.desk.cards.statements_view import SearchedView

LEAD_IN = (
    "A scenario is a stretch of moves from power-up. It is played again after every edit, and what you expect of it is "
    "looked at each time, so that mending one thing does not spoil another."
)
VIEWS = (
    ("found", "What was found"),
    ("scenarios", "Scenarios"),
    ("searched", "How far"),
    ("changed", "What changed"),
)


class ShakePage(StepPage):
    """Four views: findings, scenarios, how far each statement was searched, two models beside each
    other."""

    key = "shake"

    def build(self) -> None:
        self.view = "found"
        self.views = Views(self, VIEWS, self.show_view)
        self.column.addWidget(self.views.row)
        self.found = FoundView(self)
        self.scenarios = self._scenarios()
        self.searched: SearchedView | None = None
        self.changed: ChangedView | None = None
        self._place = QVBoxLayout()
        for view in (self.found, self.scenarios):
            self._place.addWidget(view)
        self.scenarios.hide()
        self.column.addLayout(self._place)
        self.workbench.companions.findings_changed.connect(self._outcomes)
        self.workbench.companions.searching.connect(self._searching)

    def view_keys(self) -> tuple[str, ...]:
        return self.views.keys

    def quiet_words(self) -> str:
        search = self.workbench.companions.search
        found = search.found if search.current else None
        if found is None or {f.level for f in found.findings} != {"advice"}:
            return super().quiet_words()
        return "No danger, no fault. What is advised is yours to weigh."

    def show_view(self, key: str) -> None:
        """Show one of the views."""
        self.view = key
        self.views.mark(key)
        if key == "searched" and self.searched is None:
            from hypsos.desk.cards.statements_view import SearchedView

            self.searched = SearchedView(self.workbench)
            self._place.addWidget(self.searched)
        elif key == "changed" and self.changed is None:
            from hypsos.desk.cards.changes_view import ChangedView

            self.changed = ChangedView(self)
            self._place.addWidget(self.changed)
        for name, view in self._views():
            if view is not None:
                view.setVisible(name == key)
        self.refresh()

    def _views(self) -> tuple[tuple[str, QWidget | None], ...]:
        return (
            ("found", self.found),
            ("scenarios", self.scenarios),
            ("searched", self.searched),
            ("changed", self.changed),
        )

    def _searching(self) -> None:
        if self.isVisible() and self.view == "found":
            self.found.progress()

    def _scenarios(self) -> QWidget:
        self.cards: list[ScenarioCard] = []
        self.none = hint(
            "There is no scenario yet. Begin with the usual ones, or keep a stretch of the timeline (Ctrl+4) as one."
        )
        self.usual = QPushButton("Add the usual ones")
        self.usual.setObjectName("lead")
        self.usual.setToolTip(
            "What has hurt people: arming with the stick up, a battery change, a drop-out, a switch left on."
        )
        self.new, self.load = QPushButton("New scenario"), QPushButton("From moves in a CSV file…")
        self.usual.clicked.connect(self._add_usual)
        self.new.clicked.connect(lambda: self._add(Scenario(label=self._label(), length_s=5.0)))
        self.load.clicked.connect(self._choose)
        self._holder = QVBoxLayout()
        self._holder.setSpacing(10)
        view = QWidget()
        column = QVBoxLayout(view)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label(LEAD_IN, "faint"))
        column.addWidget(self.none)
        column.addLayout(self._holder)
        column.addWidget(flowing(self.usual, self.new, self.load))
        return view

    def refresh(self) -> None:
        self.found.refresh()
        if self.searched is not None:
            self.searched.refresh()
        if self.changed is not None and self.view == "changed":
            self.changed.refresh()
        scenarios = self.workbench.loaded.scenarios
        if len(self.cards) != len(scenarios):
            clear(self._holder)
            self.cards = [ScenarioCard(self.workbench, i) for i in range(len(scenarios))]
            for made in self.cards:
                self._holder.addWidget(made)
        for made in self.cards:
            made.refresh()
        self.none.setVisible(not scenarios)
        self.usual.setVisible(bool(self._missing()))

    def _outcomes(self) -> None:
        if self.isVisible():
            self._stale = True
            self._fill()
        else:
            self._stale = True

    def _missing(self) -> list[Scenario]:
        there = {x.label for x in self.workbench.loaded.scenarios}
        return [x for x in ready_scenarios(self.workbench.loaded) if x.label not in there]

    def _add_usual(self) -> None:
        bench, missing = self.workbench, self._missing()
        made = (*bench.loaded.scenarios, *missing)
        bench.notices.attempt(
            lambda: bench.document.apply(
                bench.loaded.changed({"scenarios": made}), "the usual scenarios"
            )
        )

    def _label(self) -> str:
        return free_label(self.workbench.loaded)

    def _add(self, scenario: Scenario) -> None:
        bench = self.workbench
        made = (*bench.loaded.scenarios, scenario)
        if bench.notices.attempt(
            lambda: bench.document.apply(
                bench.loaded.changed({"scenarios": made}), f"scenario {scenario.label}"
            )
        ):
            self.cards[-1].open()
            self.cards[-1].title.setFocus()
            self.cards[-1].title.selectAll()

    def _choose(self) -> None:
        path = ask_which(self, "Moves for a scenario", {".csv": "Moves"})
        if path is None:
            return
        from hypsos.core.engine.rest_positions import resting
        from hypsos.core.scenarios.moves_csv import LARGEST, read_moves

        def read() -> None:
            assert path is not None
            model = self.workbench.loaded
            moves = read_moves(read_text(path, LARGEST), model, path.name)
            length = round(float(moves.t_s[-1] - moves.t_s[0]) + model.program.frame_s, 6)
            label = free_label(model, path.stem.replace("_", " ")[:50] or "Scenario")
            self._add(Scenario(label=label, moves=moves_of(moves, resting(model)), length_s=length))

        self.workbench.notices.attempt(read, placed=True)

    def show_place(self, path: str) -> None:
        if path.startswith("found:"):
            self._show_finding(path)
            return
        self.show_view("scenarios")
        index = int(path.split("[")[1].split("]")[0]) if "[" in path else -1
        place: QWidget = self.new
        if 0 <= index < len(self.cards):
            self.cards[index].open()
            place = self.cards[index].title
        place.setFocus(Qt.FocusReason.OtherFocusReason)
        self.bring(place)

    def _show_finding(self, path: str) -> None:
        self.show_view("found")
        finding = self.workbench.companions.search.finding(path)
        place = self.found.show_finding(finding) if finding is not None else None
        if isinstance(place, FindingCard):
            place.show_me.setFocus(Qt.FocusReason.OtherFocusReason)
            self.bring(place)
