# SPDX-License-Identifier: GPL-3.0-or-later
"""The models of the hangar that cannot be read: looked for beside the window, each model once for
each of its revisions."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hypsos.core.base.errors import HypsosError
from hypsos.desk.services.background import aside
from hypsos.desk.services.workbench import Workbench
from hypsos.hangar import Damaged, ModelPlace
from hypsos.hangar.read_only import whys

REST_MS = 400
"""The window goes first: what is changed often is looked at when it rests."""


class DamagedModels(QObject):
    """What is known of the hangar's models. ``found`` are those that cannot be read, by name."""

    changed = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QObject) -> None:
        super().__init__(parent)
        self.bench = bench
        self.found: list[Damaged] = []
        self._known: dict[tuple[int, int], str] = {}
        """Row and revision of a model that was looked at -> why it cannot be read, or nothing."""
        self._looking = False
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(REST_MS)
        self._wait.timeout.connect(self._look)
        bench.document.hangar_changed.connect(self._wait.start)
        bench.document.unreadable.connect(self._anew)
        self._wait.start()

    def _anew(self) -> None:
        """Another program may have written without a new revision: what is known is known no
        more."""
        self._known.clear()
        self._wait.start()

    def _look(self) -> None:
        if self._looking:
            self._wait.start()
            return
        try:
            places = self.bench.document.hangar.places()
        except HypsosError as error:
            self.bench.notices.noticed.emit(error.plain)
            return
        new = [p for p in places if (p.id, p.revision) not in self._known]
        if not new:
            self._tell(places)
            return
        self._looking, path = True, self.bench.document.hangar.path
        aside(self, lambda: (places, whys(path, new)), self._take, self._failed)

    def _take(self, told: tuple[list[ModelPlace], dict[tuple[int, int], str]]) -> None:
        places, found = told
        self._looking = False
        self._known = {
            k: v for k, v in self._known.items() if k in {(p.id, p.revision) for p in places}
        } | found
        self._tell(places)

    def _failed(self, sentence: str) -> None:
        self._looking = False
        self.bench.notices.noticed.emit(sentence)

    def _tell(self, places: list[ModelPlace]) -> None:
        found = [
            Damaged(p.id, p.name, why)
            for p in places
            if (why := self._known.get((p.id, p.revision), ""))
        ]
        if found != self.found:
            self.found = found
            self.changed.emit()
