# SPDX-License-Identifier: GPL-3.0-or-later
"""A caption that rises over the aeroplane as it is said, and goes."""

from __future__ import annotations

from PyQt6.QtCore import QEasingCurve, QPoint, QPropertyAnimation, Qt, QTimer
from PyQt6.QtWidgets import QLabel, QWidget

from hypsos.core.engine.announcements import Spoken, seconds_of
from hypsos.desk.theme.look import look

RISE_MS = 240
WIDEST = 0.4
"""Of the sky: a longer caption takes more lines."""
LONGER_S = 1.4
"""Seconds that a caption can still be read after it was said."""


class Caption(QLabel):
    """The last caption said, in the sky over the aeroplane; three kinds, told apart by mark, border
    and colour."""

    MARKS = {"danger": "!", "state": "●", "remark": "·"}

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName("caption")
        self._rise = QPropertyAnimation(self, b"pos", self)
        self._rise.setDuration(RISE_MS)
        self._rise.setEasingCurve(QEasingCurve.Type.OutCubic)
        self._gone = QTimer(self)
        self._gone.setSingleShot(True)
        self._gone.timeout.connect(self.hide)
        self.hide()

    def show_caption(self, spoken: Spoken) -> None:
        """Let a caption rise; the one before it goes."""
        self.setText(f"{self.MARKS[spoken.rank]}  {spoken.caption}")
        self.setAccessibleName(f"Said: {spoken.caption}")
        self.setProperty("rank", spoken.rank)
        if (style := self.style()) is not None:
            style.unpolish(self)
            style.polish(self)
        self._fit()
        end = self._place()
        self._rise.stop()
        self._rise.setStartValue(end if look.calm else end + QPoint(0, look.px(22)))
        self._rise.setEndValue(end)
        self.show()
        self.raise_()
        self._rise.start()
        self._gone.start(round((seconds_of(spoken.caption) + LONGER_S) * 1000))

    def _fit(self) -> None:
        """As wide as its words, but no wider than leaves room for what stands in the sky
        already."""
        parent = self.parentWidget()
        assert parent is not None
        most = round(parent.width() * WIDEST)
        self.setWordWrap(False)
        self.setMinimumWidth(0)
        if self.sizeHint().width() > most:
            self.setWordWrap(True)
            self.setFixedWidth(most)
            self.resize(most, self.heightForWidth(most))
        else:
            self.setMaximumWidth(16_777_215)
            self.adjustSize()

    def _place(self) -> QPoint:
        parent = self.parentWidget()
        assert parent is not None
        return QPoint(parent.width() - self.width() - look.px(12), look.px(10))
