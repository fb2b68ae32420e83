# SPDX-License-Identifier: GPL-3.0-or-later
"""Small helpers for laying out pages."""

from __future__ import annotations

import html

from PyQt6 import sip
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLayout, QVBoxLayout, QWidget

_emptied: list[QLayout] = []
"""Layouts that were emptied, to be filled anew, since a page was last laid out at once."""


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and let it go."""
    _emptied.append(layout)
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            return
        if (widget := item.widget()) is not None:
            let_go(widget)
        elif (nested := item.layout()) is not None:
            clear(nested)


def show_what_was_made() -> None:
    """Show what was put into emptied layouts. Qt would show it a moment later; until then it takes
    no room, and a page laid out at once would be too short."""
    while _emptied:
        _show_inside(_emptied.pop())


def _show_inside(layout: QLayout) -> None:
    if sip.isdeleted(layout):
        return
    for place in range(layout.count()):
        item = layout.itemAt(place)
        if item is None:
            continue
        widget, nested = item.widget(), item.layout()
        if nested is not None:
            _show_inside(nested)
        elif widget is not None and _waits_to_be_shown(widget):
            widget.show()


def _waits_to_be_shown(widget: QWidget) -> bool:
    """Whether it was just made, and nobody has hidden it."""
    decided = widget.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide)
    return widget.isHidden() and not decided


def let_go(widget: QWidget) -> None:
    """Hide a widget that is no longer wanted, and let it go."""
    for inner in (widget, *widget.findChildren(QWidget)):
        # a field that goes while it has the focus must not hand in its text once more
        inner.blockSignals(True)
    widget.hide()
    widget.deleteLater()


class Words(QLabel):
    """A label that remembers how high it is at each width: while a page is laid out it is asked
    many times over."""

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self._high: dict[int, int] = {}

    def heightForWidth(self, width: int) -> int:
        self.ensurePolished()  # the look's own font and edges count
        if width not in self._high:
            self._high[width] = super().heightForWidth(width)
        return self._high[width]

    def setText(self, text: str | None) -> None:
        self._high.clear()
        super().setText(text)

    def changeEvent(self, event: QEvent | None) -> None:
        self._high.clear()
        super().changeEvent(event)


def label(text: str, kind: str = "", wrap: bool = True) -> QLabel:
    """A label; ``kind`` is title, section, faint or complaint."""
    out = Words(text)
    out.setObjectName(kind)
    out.setWordWrap(wrap)
    out.setTextFormat(Qt.TextFormat.PlainText)
    out.setIndent(0)
    if wrap:
        out.setMinimumWidth(1)
    return out


def card(*widgets: QWidget | QLayout, kind: str = "card", margin: int = 12) -> QFrame:
    """A sheet with these things one below the other."""
    frame = QFrame()
    frame.setObjectName(kind)
    column = QVBoxLayout(frame)
    column.setContentsMargins(margin, margin - 3, margin, margin - 2)
    column.setSpacing(7)
    for w in widgets:
        if isinstance(w, QWidget):
            column.addWidget(w)
        else:
            column.addLayout(w)
    return frame


def row(*widgets: QWidget | str | None, spacing: int = 8) -> QHBoxLayout:
    """Things side by side; None is a stretch, a text is a label."""
    out = QHBoxLayout()
    out.setSpacing(spacing)
    for w in widgets:
        if w is None:
            out.addStretch(1)
        elif isinstance(w, str):
            out.addWidget(label(w, wrap=False))
        else:
            out.addWidget(w)
    return out


def worded(text: str) -> str:
    """A text as a button, a tick or a menu shows it: an ampersand that a pilot has written makes no
    shortcut."""
    return text.replace("&", "&&")


def plain_tip(text: str) -> str:
    """A tip that shows a text as it is: what a pilot has written in it is no markup."""
    return f"<qt>{html.escape(text)}</qt>".replace("\n", "<br>") if text else ""


def set_tip(widget: QWidget, text: str) -> None:
    """A tip that shows a text as it is; a screen reader hears the same, and no markup."""
    widget.setToolTip(plain_tip(text))
    widget.setAccessibleDescription(text)


def caution(text: str) -> QFrame:
    """A caution where the danger is."""
    return card(label(text), kind="caution", margin=9)


def hint(text: str) -> QFrame:
    """A short word of advice."""
    return card(label(text), kind="hint", margin=9)
