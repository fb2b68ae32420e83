# SPDX-License-Identifier: GPL-3.0-or-later
"""Choose flight modes: which mode when, what each does to the wing, trims, shared values."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QVBoxLayout

from hypsos.desk.cards.mode_grid_view import ModeGrid
from hypsos.desk.cards.view_buttons import Views
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.widgets.capacity_line import RoomLine

if TYPE_CHECKING:
    from hypsos.desk.cards.preset_view import PresetView
    from hypsos.desk.cards.shared_value_view import SharedView
    from hypsos.desk.cards.trim_view import TrimView

VIEWS = (
    ("grid", "Which mode when"),
    ("presets", "Wing in each"),
    ("trims", "Trims"),
    ("shared", "Shared values"),
)


class ModesPage(StepPage):
    """Four views of what a flight mode holds."""

    key = "modes"

    def build(self) -> None:
        self.view = "grid"
        self.grid = ModeGrid(self.workbench)
        self.presets: PresetView | None = None
        self.trims: TrimView | None = None
        self.shared: SharedView | None = None
        self.room = RoomLine(self.workbench)
        self.column.addWidget(self.room)
        self.views = Views(self, VIEWS, self.show_view)
        self.pin(self.views.row)
        self._place = QVBoxLayout()
        self._place.addWidget(self.grid)
        self.column.addLayout(self._place)

    def view_keys(self) -> tuple[str, ...]:
        return self.views.keys

    def show_view(self, key: str) -> None:
        """Show one of the views."""
        self.view = key
        self.views.mark(key)
        if key == "presets" and self.presets is None:
            from hypsos.desk.cards.preset_view import PresetView

            self.presets = self._added(PresetView(self.workbench))
        elif key == "trims" and self.trims is None:
            from hypsos.desk.cards.trim_view import TrimView

            self.trims = self._added(TrimView(self.workbench))
        elif key == "shared" and self.shared is None:
            from hypsos.desk.cards.shared_value_view import SharedView

            self.shared = self._added(SharedView(self.workbench))
        for name, view in self._views():
            if view is not None:
                view.setVisible(name == key)
        self.refresh()

    def _added(self, view: Any) -> Any:
        self._place.addWidget(view)
        return view

    def _views(self) -> tuple[tuple[str, Any], ...]:
        return (
            ("grid", self.grid),
            ("presets", self.presets),
            ("trims", self.trims),
            ("shared", self.shared),
        )

    def refresh(self) -> None:
        self.room.refresh()
        view = dict(self._views())[self.view]
        if view is not None:
            view.refresh()

    def show_place(self, path: str) -> None:
        """Bring what stands at a path into view."""
        if path.startswith("program.tunables"):
            self.show_view("shared")
        elif ".trim" in path:
            self.show_view("trims")
        elif ".presets" in path:
            self.show_view("presets")
        else:
            self.show_view("grid")
            index = int(path.split("[")[1].split("]")[0]) if "[" in path else -1
            if 0 <= index < len(self.grid.rows):
                found = self.grid.rows[index]
                words = (
                    found.when.open().words
                    if path.endswith(".when") and found.when is not None
                    else []
                )
                self.bring(found, words[0] if words else found.title)
