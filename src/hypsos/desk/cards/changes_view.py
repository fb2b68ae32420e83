# SPDX-License-Identifier: GPL-3.0-or-later
"""What changed: the model on the bench beside a snapshot of it, or beside another model, over
everything the hands can do."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.review.compare_models import Comparison, Difference
from hypsos.core.review.report import comparison_text
from hypsos.core.review.search.replay import Replay
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.page_layout import clear, label, row

if TYPE_CHECKING:
    from hypsos.desk.pages.shake_page import ShakePage

MOST = 60


class ChangedView(QWidget):
    """Choose what to compare with; the table says which part answers differently, by how much at
    the most, and where."""

    def __init__(self, page: ShakePage) -> None:
        super().__init__()
        self.page, self.workbench = page, page.workbench
        self.other = ChoiceBox()
        self.other.setAccessibleName("Compare with")
        self.compare = QPushButton("Compare")
        self.compare.setObjectName("lead")
        self.compare.clicked.connect(self._compare)
        self.stop = QPushButton("Stop")
        self.stop.setAccessibleName("Stop comparing")
        self.stop.clicked.connect(lambda: self.workbench.companions.search.stop_answer(self))
        self.stop.hide()
        self.says = label("")
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(12)
        self.table.setVerticalSpacing(2)
        self.others = label("", "faint")
        self.shows: list[QPushButton] = []
        self.found: Comparison | None = None
        self._of: tuple[Model, Model] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(
            label(
                "Both are brought by the same hands into every situation either tells apart.",
                "faint",
            )
        )
        column.addLayout(row("With", self.other, self.compare, self.stop, None))
        column.addWidget(self.says)
        column.addLayout(self.table)
        column.addWidget(self.others)
        self.workbench.document.history_changed.connect(self._edited)

    def _edited(self) -> None:
        if self.isVisible() and self.workbench.model is not None:
            self.refresh()

    def refresh(self) -> None:
        """Offer this model before its last edit, its snapshots, and the other models."""
        bench = self.workbench
        name = bench.loaded.name
        last = bench.document.history.last_edit
        known: list[tuple[object, str]] = (
            [] if last is None else [(("edit", ""), f"before “{last.label}”")]
        )
        try:
            known += [
                (("snapshot", s.id), f"snapshot “{s.label}”")
                for s in bench.document.hangar.snapshots(bench.document.held)
            ]
            known += [(("model", n), n) for n in bench.document.hangar.names() if n != name]
        except HypsosError as error:
            self.says.setText(error.plain)
        self.other.fill(known)
        self.compare.setEnabled(bool(known))
        if self._of is not None and self._of[0] is not bench.model:
            self._of = None
            self.stop.hide()
            self._show(None)
            self.says.setText("The model has been changed. Compare again.")

    def _compare(self) -> None:
        bench, search = self.workbench, self.workbench.companions.search
        chosen = self.other.currentData()
        if chosen is None:
            return
        try:
            kind, key = chosen
            second = self._chosen(kind, key)
        except HypsosError as error:
            self.says.setText(error.plain)
            return
        self._of = asked = (bench.loaded, second)
        self._show(None)
        said = f"Comparing with {self.other.currentText()}"
        self.says.setText(f"{said} …")
        self.stop.show()

        def still() -> bool:
            # else the model was changed, or another comparison was asked for since
            return self._of is asked

        def progress(what: str) -> None:
            if still():
                self.says.setText(f"{said}: {what} …")

        def failed(why: str) -> None:
            if still():
                self.stop.hide()
                self.says.setText(why)

        def take(found: Comparison) -> None:
            if still():
                self.stop.hide()
                self._show(found)

        search.answer(self, "compare", search.ask(), second, take, failed, progress)

    def _chosen(self, kind: str, key: Any) -> Model:
        bench, last = self.workbench, self.workbench.document.history.last_edit
        if kind == "edit" and last is not None and last.before is not None:
            return last.before
        return (
            bench.document.hangar.snapshot(key)
            if kind == "snapshot"
            else bench.document.hangar.load(key)
        )

    def _show(self, found: Comparison | None) -> None:
        self.workbench.simulation.show_shadow(None)
        clear(self.table)
        self.shows, self.found = [], found
        self.others.setText("")
        if found is None:
            return
        self.says.setText(
            "\n".join(comparison_text(found)) if found.same else self._headline(found)
        )
        if found.differences:
            for k, words in enumerate(("Part, here and there", "By up to")):
                self.table.addWidget(label(words, "faint", wrap=False), 0, k)
        for i, d in enumerate(found.differences[:MOST], 1):
            show = QPushButton("Show")
            show.setAccessibleName(f"Show {d.label}")
            show.setToolTip(d.where)
            show.clicked.connect(lambda _=False, d=d: self._play(d))
            self.shows.append(show)
            flown = len(self._of[0].program.modes) if self._of is not None else 0
            modes = (
                "every mode"
                if flown and len(d.modes) == flown
                else ", ".join(d.modes) or "every position"
            )
            where = f"{d.first} here, {d.second} there; in {modes}"
            self.table.addWidget(label(d.label), 2 * i, 0)
            self.table.addWidget(label(f"{d.most:.1f} %", wrap=False), 2 * i, 1)
            self.table.addWidget(show, 2 * i, 2)
            self.table.addWidget(label(where, "faint"), 2 * i + 1, 0, 1, 3)
        self.table.setColumnStretch(0, 1)
        self.others.setText("\n".join(found.others))

    def _headline(self, found: Comparison) -> str:
        n = len(found.differences)
        parts = "no part stands" if n == 0 else "1 part stands" if n == 1 else f"{n} parts stand"
        sure = "everything was searched" if found.proved else "not everything could be searched"
        return (
            f"{parts[:1].upper()}{parts[1:]} elsewhere ({found.situations:,} situations, {sure})."
        )

    def _play(self, d: Difference) -> None:
        """The way there on the bench, and where the other one stands then, as a shadow."""
        if self._of is None:
            return
        bench, (first, second) = self.workbench, self._of
        bench.simulation.choose(d.part)
        bench.notices.attempt(
            lambda: self.page.found.shower.show(
                d.moves, d.captions, 0.5, f"{d.label}: {d.first}, there {d.second}"
            )
        )
        played = Replay(first).play(d.moves, max(0.5, Replay(first).settle_s))
        outputs = Replay(second).again(played).result.outputs
        degrees = {
            x.target: float(np.ravel(v)[-1])
            for x in second.leads
            if (v := outputs[x.name].deg) is not None
        }
        bench.simulation.show_shadow(
            {n: x for n, x in degrees.items() if any(s.name == n for s in first.airframe.surfaces)}
        )

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self.workbench.simulation.show_shadow(None)


__all__ = ["ChangedView", "Workbench"]
