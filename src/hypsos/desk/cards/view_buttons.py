# SPDX-License-Identifier: GPL-3.0-or-later
"""Buttons for the views of a page, of which one is shown."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QButtonGroup, QPushButton, QWidget

from hypsos.desk.widgets.flow_layout import flowing


class Views(QButtonGroup):
    """A button for each view, in a :attr:`row`; the first is marked. ``show`` is called with the
    key of the one pressed."""

    def __init__(
        self, page: QWidget, named: tuple[tuple[str, str], ...], show: Callable[[str], None]
    ) -> None:
        super().__init__(page)
        self.keys = tuple(key for key, _ in named)
        buttons: list[QWidget] = []
        for i, (key, words) in enumerate(named):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setChecked(i == 0)
            button.clicked.connect(lambda _=False, key=key: show(key))
            self.addButton(button, i)
            buttons.append(button)
        self.row = flowing(*buttons)

    def mark(self, key: str) -> None:
        """Mark the button of the view that is shown."""
        button = self.button(self.keys.index(key))
        assert button is not None
        button.setChecked(True)
