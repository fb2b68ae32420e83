# SPDX-License-Identifier: GPL-3.0-or-later
"""Fields as this window has them: nothing changes by scrolling, undo is the window's, Escape brings
the old text back."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PyQt6.QtCore import QEvent, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QKeySequence, QPaintEvent, QPalette, QWheelEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QDateEdit,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QWidget,
)

from hypsos.desk.theme.look import look
from hypsos.desk.widgets.focus_ring import paint_focus_ring
from hypsos.desk.widgets.page_layout import plain_tip
from hypsos.desk.widgets.whole_tip import told_whole

HISTORY = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)


def is_history(event: QEvent | None) -> bool:
    """Whether a field is about to claim undo or redo for itself: they are the window's."""
    return (
        isinstance(event, QKeyEvent)
        and event.type() == QEvent.Type.ShortcutOverride
        and any(event.matches(key) for key in HISTORY)
    )


LEAST_NAME, WIDEST_NAME = 150, 280
OPENS = (
    Qt.Key.Key_Return,
    Qt.Key.Key_Enter,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_PageUp,
    Qt.Key.Key_PageDown,
    Qt.Key.Key_Home,
    Qt.Key.Key_End,
)
"""Keys that would change a closed choice, or open it."""
PLAIN = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)


class ChoiceBox(QComboBox):
    """A choice of words. The wheel scrolls the page over it. Enter, an arrow or a letter opens its
    list: there the arrows browse, and Enter takes what is marked. So nothing is changed on the way
    to what is wanted.

    A screen reader on Linux takes the name of a choice from a label that belongs to it, and not
    from its accessible name. So each has such a label beside it, which is never seen."""

    def __init__(self) -> None:
        super().__init__()
        self._spoken: QLabel | None = None

    def setAccessibleName(self, name: str | None) -> None:
        super().setAccessibleName(name)
        self._name_it()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ParentChange:
            self._name_it()

    def _name_it(self) -> None:
        """Put the label with its name beside it, wherever it stands now."""
        parent, name = self.parentWidget(), self.accessibleName()
        if parent is None or not name:
            return
        if self._spoken is None:
            self._spoken = QLabel()
            self._spoken.setTextFormat(Qt.TextFormat.PlainText)
            # it goes when the choice does, and not only with the page
            self.destroyed.connect(self._spoken.deleteLater)
        self._spoken.setParent(parent)
        self._spoken.hide()
        self._spoken.setText(name.replace("&", "&&"))
        self._spoken.setBuddy(self)

    def whole_words(self) -> str:
        """What is chosen; where nothing is, what stands in its place."""
        return self.currentText() if self.currentIndex() >= 0 else self.placeholderText()

    def shown_words(self) -> str:
        """These words as far as there is room for them; what is longer ends in an ellipsis, and is
        whole in the tip."""
        option, style = QStyleOptionComboBox(), self.style()
        self.initStyleOption(option)
        if style is None:
            return self.whole_words()
        field = QStyle.SubControl.SC_ComboBoxEditField
        room = style.subControlRect(QStyle.ComplexControl.CC_ComboBox, option, field, self)
        return self.fontMetrics().elidedText(
            self.whole_words(), Qt.TextElideMode.ElideRight, room.width()
        )

    def event(self, event: QEvent | None) -> bool:
        """The tip says the whole of what is cut short."""
        if isinstance(event, QHelpEvent) and told_whole(
            self, event, self.shown_words(), self.whole_words()
        ):
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        option.currentText = self.shown_words()
        if self.currentIndex() < 0:
            faint = option.palette.placeholderText()
            option.palette.setBrush(QPalette.ColorRole.ButtonText, faint)
            option.palette.setBrush(QPalette.ColorRole.Text, faint)
        painter = QStylePainter(self)
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        painter.end()
        # the border of the style is as wide with the focus as without: the list is measured by it
        # before it has the focus, and would be cut when it has
        paint_focus_ring(self, 1.0, inside=1.0)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            event.ignore()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        letter = event.text() if event.text().isprintable() else ""
        held = event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
        if event.key() in OPENS or (letter and held in PLAIN):
            self.showPopup()
            if letter.strip() and (view := self.view()) is not None:
                view.keyboardSearch(None)  # a new word begins
                view.keyboardSearch(letter)
        else:
            super().keyPressEvent(event)

    def fill(self, known: Iterable[tuple[Any, str]]) -> None:
        """Offer these, each a value with its words; what is chosen stays chosen where it is among
        them."""
        wanted = list(known)
        if [(self.itemData(i), self.itemText(i)) for i in range(self.count())] == wanted:
            return
        held = self.currentData()
        self.clear()
        for data, words in wanted:
            self.addItem(words, data)
        self.choose(held, 0)

    def choose(self, value: object, otherwise: int = -1) -> None:
        """Show the entry with this value."""
        found = next((i for i in range(self.count()) if self.itemData(i) == value), otherwise)
        self.setCurrentIndex(found)

    def showPopup(self) -> None:
        """The list is as wide as its longest entry, whatever room the field has."""
        view = self.view()
        if view is not None:
            view.setMinimumWidth(view.sizeHintForColumn(0) + 2 * view.frameWidth() + 26)
        super().showPopup()


class DateField(QDateEdit):
    """A date. The wheel scrolls the page over it; Tab leaves it, the arrow keys go through year,
    month and day."""

    def focusNextPrevChild(self, forward: bool) -> bool:
        return QWidget.focusNextPrevChild(self, forward)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            event.ignore()

    def event(self, event: QEvent | None) -> bool:
        if is_history(event):
            assert event is not None
            event.ignore()
            return True
        return super().event(event)


class TextField(QLineEdit):
    """A line of text. What is typed and not handed in goes back with Escape; undo is the text's own
    while it is typed."""

    def __init__(self, name: str = "", most: int = 0) -> None:
        super().__init__()
        self._settled = ""
        if name:
            self.setAccessibleName(name)
        if most:
            self.setMaxLength(most)

    def setText(self, text: str | None) -> None:
        """Show a text; it is what Escape brings back."""
        self._settled = text or ""
        super().setText(text)

    def revert(self) -> bool:
        """Bring back what stood here; False where nothing was typed."""
        if not self.isModified() or self.text() == self._settled:
            return False
        self.setText(self._settled)
        return True

    def event(self, event: QEvent | None) -> bool:
        typing = self.isModified() and (self.isUndoAvailable() or self.isRedoAvailable())
        if is_history(event) and not typing:
            assert event is not None
            event.ignore()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.revert():
            self.selectAll()
        else:
            super().keyPressEvent(event)


class NameField(TextField):
    """A name: as wide as its words, between a least and a greatest width; what is longer is whole
    in its tip."""

    def __init__(self, name: str, most: int) -> None:
        super().__init__(name, most)
        self.textChanged.connect(self._fit)

    def _fit(self) -> None:
        self.setToolTip(plain_tip(self.text()) if self._wanted() > look.px(WIDEST_NAME) else "")
        self.updateGeometry()

    def _wanted(self) -> int:
        return self.fontMetrics().horizontalAdvance(self.text()) + look.px(26)

    def sizeHint(self) -> QSize:
        wide = min(max(self._wanted(), look.px(LEAST_NAME)), look.px(WIDEST_NAME))
        return QSize(wide, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(60), super().minimumSizeHint().height())


class NoteField(QPlainTextEdit):
    """Several lines of text; Tab leaves it. With ``hand_in`` undo is the window's, and what was
    typed is handed in first, so that it is just that which goes back; without, as in a form, undo
    is the text's own while there is any."""

    def __init__(
        self, name: str, hand_in: Callable[[], None] | None = None, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self._hand_in = hand_in

    def event(self, event: QEvent | None) -> bool:
        document = self.document()
        typing = document is not None and (document.isUndoAvailable() or document.isRedoAvailable())
        if is_history(event) and (self._hand_in is not None or not typing):
            assert event is not None
            if self._hand_in is not None:
                self._hand_in()
            event.ignore()
            return True
        return super().event(event)
