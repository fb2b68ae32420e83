"""The notice: what went wrong, where, and what to do, at the top of the window until it is put away."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hypsos.desk.widgets.layout import label


class Notice(QFrame):
    """Hidden while there is nothing to say."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 6, 14, 6)
        self.text = label("")
        self.text.setAccessibleName("Notice")
        close = QPushButton("Put away")
        close.clicked.connect(self.hide)
        line.addWidget(self.text, 1)
        line.addWidget(close)
        self.hide()

    def say(self, sentence: str) -> None:
        """Show one sentence."""
        self.text.setText(sentence)
        self.show()
