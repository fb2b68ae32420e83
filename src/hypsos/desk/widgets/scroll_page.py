# SPDX-License-Identifier: GPL-3.0-or-later
"""A page that keeps its place: what is under the hand stays where it is while things come and go
above it, and what was just made is brought into sight."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, QRect, Qt
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QScrollArea,
    QScroller,
    QSizePolicy,
    QSpacerItem,
    QVBoxLayout,
    QWidget,
)

from hypsos.desk.widgets.page_layout import show_what_was_made

PASSES = 12
"""How often a page is laid out at the most, until its size stays."""
MARGIN = 12
"""Points that stay free above and below what is brought into sight."""


class ScrollPage(QScrollArea):
    """A column that scrolls. Subclasses fill ``self.column``, and call ``end_column`` when it is
    filled."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        inner = QWidget()
        inner.setObjectName("page")
        self.column = QVBoxLayout(inner)
        self.setWidget(inner)
        self._above, self._below = _no_room(), _no_room()
        """Free room above and below the page: without it a short page, or one at its top or its
        end, could not be held where it is."""
        self.column.addItem(self._above)
        view = self.viewport()
        if view is not None:  # a finger scrolls it, and it runs on
            QScroller.grabGesture(view, QScroller.ScrollerGestureType.TouchGesture)
        self._sliding = False
        bar = self.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(self._scrolled)

    def end_column(self) -> None:
        """Nothing more comes into the column."""
        self.column.addStretch(1)
        self.column.addItem(self._below)

    # -- laying out ------------------------------------------------------------------------------

    def settle(self) -> None:
        """Lay the page out now. Qt would do so a moment later, after places had been asked for."""
        show_what_was_made()
        inner = self.widget()
        for count in range(PASSES):  # what is laid out anew may wrap, and so ask for another height
            before = inner.size() if inner is not None else None
            QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
            if inner is None or (count > 1 and inner.size() == before and _has_room(inner)):
                return

    def y_of(self, widget: QWidget) -> int:
        """How far below the top of the view a widget begins, in points."""
        view = self.viewport()
        return widget.mapTo(view, QPoint(0, 0)).y() if view is not None else 0

    def seen(self) -> QRect:
        """The part of the page that is in view, in the page's own points."""
        view, inner = self.viewport(), self.widget()
        if view is None or inner is None:
            return QRect()
        return view.rect().translated(-inner.pos())

    # -- keeping the place -----------------------------------------------------------------------

    @contextmanager
    def place_kept(self) -> Iterator[None]:
        """Whatever comes, goes or grows inside: the thing at hand is where it was afterwards.

        That is the field with the focus, or else what is under the pointer, or what is at the top
        of the view. Where it is gone itself, what stood around it is held."""
        if not self.isVisible():
            yield
            return
        held = [(widget, self.y_of(widget)) for widget in self._at_hand()]
        yield
        self.settle()
        inner = self.widget()
        for widget, y in held:
            if not sip.isdeleted(widget) and inner is not None and widget.isVisibleTo(inner):
                self.slide(self.y_of(widget) - y)
                return

    def _at_hand(self) -> list[QWidget]:
        """What is to be held, the first that is still there: the thing at hand, what it is part of,
        then what is in view, from the top."""
        inner = self.widget()
        if inner is None:
            return []
        found: list[QWidget] = []
        at_hand = QApplication.focusWidget()
        if at_hand is None or not inner.isAncestorOf(at_hand) or not self._in_view(at_hand):
            at_hand = inner.childAt(inner.mapFromGlobal(QCursor.pos()))
            if at_hand is not None and not self._in_view(at_hand):
                at_hand = None
        while at_hand is not None and at_hand is not inner:
            found.append(at_hand)
            at_hand = at_hand.parentWidget()
        blocks = [c for c in inner.children() if isinstance(c, QWidget) and self._in_view(c)]
        return found + sorted(blocks, key=lambda w: w.y())

    def _in_view(self, widget: QWidget) -> bool:
        inner = self.widget()
        if inner is None or not widget.isVisibleTo(inner):
            return False
        place = QRect(widget.mapTo(inner, QPoint(0, 0)), widget.size())
        return self.seen().intersects(place)

    def slide(self, by: int) -> None:
        """Scroll by so many points. Where the page begins or ends sooner, it is given room."""
        bar = self.verticalScrollBar()
        if bar is None or by == 0:
            return
        wanted = bar.value() + by
        self._sliding = True
        try:
            if wanted < 0:
                self._give(self._above, _tall(self._above) - wanted)
                self.settle()
            elif wanted > bar.maximum():
                self._give(self._below, self._lack(wanted))
                self.settle()
            bar.setValue(max(0, wanted))
        finally:
            self._sliding = False

    def _lack(self, wanted: int) -> int:
        """How much room below the page it takes to scroll so far."""
        view, inner = self.viewport(), self.widget()
        if view is None or inner is None:
            return 0
        tall = inner.heightForWidth(view.width()) if inner.hasHeightForWidth() else 0
        tall = max(tall, inner.minimumSizeHint().height()) - _tall(self._below)
        return max(0, wanted + view.height() - tall)

    def _give(self, room: QSpacerItem, tall: int) -> None:
        if tall != _tall(room):
            room.changeSize(0, tall, QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
            self.column.invalidate()

    def _scrolled(self, value: int) -> None:
        """Room that was given goes again as the page is scrolled by hand."""
        if self._sliding or not (_tall(self._above) or _tall(self._below)):
            return
        self._give(self._below, min(_tall(self._below), self._lack(value)))
        out_of_sight = min(_tall(self._above), value)
        if out_of_sight:
            self._give(self._above, _tall(self._above) - out_of_sight)
            self.settle()
            self.slide(-out_of_sight)

    # -- bringing into sight ---------------------------------------------------------------------

    def bring(self, row: QWidget, field: QWidget | None = None) -> None:
        """Bring a row into sight, all of it or its beginning, and no further than that takes;
        ``field`` gets the focus."""
        self.settle()
        view = self.viewport()
        if view is not None:
            top, tall = self.y_of(row), row.height()
            below = top + tall - (view.height() - MARGIN)
            above = top - MARGIN
            if below > 0:
                self.slide(min(below, above))
            elif above < 0:
                self.slide(above)
        if field is not None:
            field.setFocus(Qt.FocusReason.OtherFocusReason)
            self.into_view(field)

    def into_view(self, widget: QWidget) -> None:
        """Scroll, where it takes that, until a field can be seen."""
        self.settle()
        self._sliding = True
        try:
            self.ensureWidgetVisible(widget, MARGIN, MARGIN)
        finally:
            self._sliding = False


def _no_room() -> QSpacerItem:
    return QSpacerItem(0, 0, QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)


def _tall(room: QSpacerItem) -> int:
    return room.sizeHint().height()


def _has_room(inner: QWidget) -> bool:
    """Whether a page is as high as what is on it asks for: what grew asks level by level, and each
    level has its own turn."""
    layout = inner.layout()
    return layout is None or layout.totalHeightForWidth(inner.width()) <= inner.height()


def page_of(widget: QWidget) -> ScrollPage | None:
    """The page that a widget is on."""
    above = widget.parentWidget()
    while above is not None and not isinstance(above, ScrollPage):
        above = above.parentWidget()
    return above


@contextmanager
def place_kept(widget: QWidget) -> Iterator[None]:
    """The page of a widget keeps its place while something inside unfolds, folds or goes."""
    page = page_of(widget)
    if page is None:
        yield
    else:
        with page.place_kept():
            yield
