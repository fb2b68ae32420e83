# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be done at a place, listed over the window.

A menu of Qt is a window of its own, and such windows are left out of what a screen reader finds on
Linux. This one lies inside the window it belongs to: so it is found there, read row by row, and it
never reaches beyond the screen.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from hypsos.desk.theme.look import look

MARGIN = 8
"""Pixels that stay free towards the edges of the window."""
GROUND = 4
"""Pixels of ground around the rows."""


@dataclass(frozen=True)
class Act:
    """One row: its words, what it does, the group of rows in which it is found, the key that does
    the same without a menu, and whether it is what is chosen already."""

    words: str
    do: Callable[[], object]
    group: str = ""
    key: str = ""
    chosen: bool = False


class MenuRows(QListWidget):
    """The rows. Arrows go through them, letters look for one, Enter or Right takes it, Left and
    Escape go back."""

    def __init__(self, take: Callable[[], None], back: Callable[[], None]) -> None:
        super().__init__()
        self._take, self._back = take, back
        self.setMouseTracking(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.itemClicked.connect(lambda _: take())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The row under a pointer that moves is at hand. Rows that come to lie under one at rest
        are not."""
        assert event is not None
        found = self.itemAt(event.position().toPoint())
        if found is not None:
            self.setCurrentItem(found)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Right, Qt.Key.Key_Space):
            self._take()
        elif key in (Qt.Key.Key_Escape, Qt.Key.Key_Left):
            self._back()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.count():
            # behind the last row comes the first one again
            step = 1 if key == Qt.Key.Key_Down else -1
            self.setCurrentRow((self.currentRow() + step) % self.count())
        else:
            super().keyPressEvent(event)
            event.accept()  # no letter reaches the window behind


class ActMenu(QFrame):
    """The rows of one opening; it goes when a row is taken or something else is touched."""

    def __init__(self, name: str, acts: Sequence[Act], owner: QWidget) -> None:
        super().__init__(owner.window())
        self.setObjectName("menu")
        self.setAccessibleName(name)
        self.acts = tuple(acts)
        self.group = ""
        self._owner, self._before = owner, QApplication.focusWidget()
        self.list = MenuRows(self.take, self.back)
        self.list.setAccessibleName(name)
        column = QVBoxLayout(self)
        column.setContentsMargins(GROUND, GROUND, GROUND, GROUND)
        column.addWidget(self.list)
        self._at, self._above = QPoint(), 0

    # -- what it shows ---------------------------------------------------------------------------

    def rows(self) -> list[str]:
        """The words of the rows that are shown."""
        return [self._words(i) for i in range(self.list.count())]

    def _words(self, row: int) -> str:
        item = self.list.item(row)
        return "" if item is None else str(item.data(Qt.ItemDataRole.UserRole))

    def _fill(self) -> None:
        """The groups and what is in none; inside a group, what is in it."""
        self.list.clear()
        if self.group:
            self._add(f"◂  {self.group}", self.group, f"{self.group}, back to all")
        groups: list[str] = []
        for act in self.acts:
            if act.group == self.group:
                self._add(f"{act.words}    {act.key}" if act.key else act.words, act.words)
            elif act.group and not self.group and act.group not in groups:
                groups.append(act.group)
                self._add(f"{act.group}  ▸", act.group, f"{act.group}, opens more")
        chosen = [a.words for a in self.acts if a.chosen and a.group == self.group]
        first = self.rows().index(chosen[0]) if chosen else 0
        self.list.setCurrentRow(first or (1 if self.group else 0))
        self._place()

    def _add(self, shown: str, words: str, heard: str = "") -> None:
        item = QListWidgetItem(shown)
        item.setData(Qt.ItemDataRole.UserRole, words)
        item.setData(Qt.ItemDataRole.AccessibleTextRole, heard or words)
        self.list.addItem(item)

    def _place(self) -> None:
        """As large as its rows, below what opened it, and inside the window."""
        parent = self.parentWidget()
        if parent is None:
            return
        row = max(self.list.sizeHintForRow(0), 1)
        wide = self.list.sizeHintForColumn(0) + look.px(24)
        around = 2 * (self.list.frameWidth() + self.frameWidth() + GROUND + 1)
        tall = row * self.list.count() + around
        room = parent.rect().adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        self.resize(min(max(wide, look.px(140)), room.width()), min(tall, room.height()))
        lowest = room.bottom() + 1 - self.height()
        top = self._at.y() if self._at.y() <= lowest else self._above - self.height()
        if not room.top() <= top <= lowest:
            top = lowest
        left = min(self._at.x(), room.right() + 1 - self.width())
        self.move(max(room.left(), left), max(room.top(), top))

    # -- from its opening to its end ------------------------------------------------------------

    def open(self, at: QPoint, above: QPoint) -> None:
        """Show it at a place of the screen, or above another one where there is no room below."""
        parent = self.parentWidget()
        assert parent is not None
        self._at, self._above = parent.mapFromGlobal(at), parent.mapFromGlobal(above).y()
        self.show()  # dressed before its rows are measured
        self._fill()
        self.raise_()
        self.list.setFocus(Qt.FocusReason.PopupFocusReason)
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def take(self) -> None:
        """Do what the row at hand says, or open its group."""
        words = self._words(self.list.currentRow())
        if self.group and self.list.currentRow() == 0:
            self.back()
            return
        act = next((a for a in self.acts if (a.group, a.words) == (self.group, words)), None)
        if act is None:
            self.group = words
            self._fill()
            return
        self.shut()
        if not sip.isdeleted(self._owner) and self._owner.isVisible():
            act.do()

    def back(self) -> None:
        """From a group to all; from all to what was before."""
        if not self.group:
            self.shut()
            return
        left, self.group = self.group, ""
        self._fill()
        self.list.setCurrentRow(self.rows().index(left))

    def shut(self) -> None:
        """Go; the focus is where it was before."""
        app, before = QApplication.instance(), self._before
        if app is not None:
            app.removeEventFilter(self)
        mine = self.isAncestorOf(QApplication.focusWidget() or self)
        self.hide()
        self.deleteLater()
        there = before is not None and not sip.isdeleted(before) and before.isVisible()
        if mine and there and before is not None:
            before.setFocus(Qt.FocusReason.PopupFocusReason)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """A touch outside, another window or another size of this one puts it away. A touch on what
        opened it only does that."""
        if event is None or not isinstance(watched, QWidget) or sip.isdeleted(self):
            return False
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
            if watched is self or self.isAncestorOf(watched):
                return False
            self.shut()
            return watched is self._owner
        parted = kind in (QEvent.Type.WindowDeactivate, QEvent.Type.Resize, QEvent.Type.Hide)
        window_parted = parted and watched is self.parentWidget()
        # another page has come, and what opened it is out of sight
        owner_gone = kind == QEvent.Type.Hide and watched is self._owner
        focus_gone = kind == QEvent.Type.FocusIn and not self.isAncestorOf(watched)
        if window_parted or owner_gone or focus_gone:
            self.shut()
        return False


def open_menu(name: str, acts: Sequence[Act], owner: QWidget, at: QPoint | None = None) -> ActMenu:
    """List what can be done: below ``owner``, or at a place of the screen."""
    made = ActMenu(name, acts, owner)
    if at is None:
        made.open(owner.mapToGlobal(QPoint(0, owner.height())), owner.mapToGlobal(QPoint(0, 0)))
    else:
        made.open(at, at)
    return made


class MenuButton(QPushButton):
    """A button that opens a menu; its acts are asked for at each opening."""

    def __init__(self, words: str = "") -> None:
        super().__init__(words)
        self.setObjectName("popup")
        self.acts: Callable[[], Sequence[Act]] = tuple
        self.open_: ActMenu | None = None
        self.clicked.connect(self.offer)

    def offer(self) -> ActMenu:
        """Open the menu."""
        made = self.open_ = open_menu(self.accessibleName() or self.text(), self.acts(), self)
        made.destroyed.connect(partial(self._gone, made))
        return made

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.objectName() != "popup":
            return
        half = look.px(3.5)
        middle = QPointF(self.width() - look.px(11), self.height() / 2 + half / 2)
        corners = [QPointF(-half, -half), QPointF(half, -half), QPointF(0, half)]
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("faint"))
        painter.drawPolygon(QPolygonF([middle + corner for corner in corners]))

    def _gone(self, made: ActMenu, *_: object) -> None:
        if not sip.isdeleted(self) and self.open_ is made:
            self.open_ = None
