# SPDX-License-Identifier: GPL-3.0-or-later
"""Look: light or dark, the size of text and targets, motion, voice; all in one place."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QButtonGroup, QCheckBox, QPushButton, QRadioButton, QVBoxLayout, QWidget

from hypsos.desk.theme.look import SCALES, look
from hypsos.desk.widgets.floating_card import FloatingCard
from hypsos.desk.widgets.page_layout import label, row

THEMES = (("light", "Light, for the field"), ("dark", "Dark, for the shed"))


class LookCard(FloatingCard):
    """Each choice is put on at once, and kept for the next time."""

    def __init__(
        self, parent: QWidget, muted: Callable[[], bool], mute: Callable[[], object]
    ) -> None:
        super().__init__("Look", parent)
        self._muted, self._mute = muted, mute
        self.themes, self.sizes = QButtonGroup(self), QButtonGroup(self)
        close = QPushButton("Put away")
        close.clicked.connect(self.put_away)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 16)
        column.addLayout(row(label("Look", "title"), None, close))
        for i, (_, words) in enumerate(THEMES):
            button = QRadioButton(words)
            self.themes.addButton(button, i)
            column.addWidget(button)
        column.addWidget(label("Text", "section"))
        for i, scale in enumerate(SCALES):
            button = QRadioButton(f"{scale * 100:.0f} %")
            button.setAccessibleName(f"Text at {scale * 100:.0f} %")
            self.sizes.addButton(button, i)
            column.addWidget(button)
        self.large = QCheckBox("Large targets, for fingers")
        self.calm = QCheckBox("Calm: nothing rises or slides")
        self.voice = QCheckBox("Voice and tones (F6)")
        for tick in (self.large, self.calm, self.voice):
            column.addWidget(tick)
        self.themes.idClicked.connect(lambda i: look.set_theme(THEMES[i][0]))
        self.sizes.idClicked.connect(lambda i: look.set_scale(SCALES[i]))
        self.large.clicked.connect(look.set_large)
        self.calm.clicked.connect(self._set_calm)
        self.voice.clicked.connect(lambda: self._mute())
        look.follow(self, self._fit)

    def open(self) -> None:
        """Show what is chosen now; shown already, it is put away."""
        if self.isVisible():
            self.put_away()
            return
        self._show_choices()
        self.begin(self.sizeHint(), self.themes.buttons()[0])

    def _show_choices(self) -> None:
        names = [name for name, _ in THEMES]
        for group, at in (
            (self.themes, names.index(look.palette.name)),
            (self.sizes, SCALES.index(look.scale)),
        ):
            chosen = group.button(at)
            if chosen is not None:
                chosen.setChecked(True)
        self.large.setChecked(look.large)
        self.calm.setChecked(look.calm)
        self.voice.setChecked(not self._muted())

    def _set_calm(self, on: bool) -> None:
        look.calm = on

    def _fit(self) -> None:
        """The look is another one, perhaps by its keys."""
        if self.isVisible():
            self._show_choices()
            self.begin(self.sizeHint(), self)
