# SPDX-License-Identifier: GPL-3.0-or-later
"""A button whose words may be longer than there is room for."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QSizePolicy, QStyle, QStyleOptionButton, QStylePainter

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.whole_tip import told_whole


class ElidedButton(QPushButton):
    """What has no room ends in an ellipsis, and its tip says the whole."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(120), super().minimumSizeHint().height())

    def shown_words(self) -> str:
        """Its words as far as there is room for them."""
        lacking = self.sizeHint().width() - self.width()
        if lacking <= 0:
            return self.text()
        metrics = self.fontMetrics()
        room = metrics.horizontalAdvance(self.text()) - lacking
        return metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, room)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and told_whole(
            self, event, self.shown_words(), self.text()
        ):
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        option = QStyleOptionButton()
        self.initStyleOption(option)
        option.text = self.shown_words()
        painter = QStylePainter(self)
        painter.drawControl(QStyle.ControlElement.CE_PushButton, option)
