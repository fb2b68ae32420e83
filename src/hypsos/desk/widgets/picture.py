# SPDX-License-Identifier: GPL-3.0-or-later
"""Something painted that is looked at: a screen reader hears a sentence in its place."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel, QWidget


class Picture(QLabel):
    """A painted widget. To a screen reader it is a text: as a widget of no known kind it would be
    passed over."""

    def __init__(self, name: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._name = name
        self.setAccessibleName(name)

    def tell(self, sentence: str) -> None:
        """What it shows now, in words."""
        heard = ": ".join(x for x in (self._name, sentence) if x)
        if self.accessibleName() != heard:
            self.setAccessibleName(heard)
