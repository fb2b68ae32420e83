# SPDX-License-Identifier: GPL-3.0-or-later
"""The order in which a page is read, and the focus that follows it: Tab goes there, and a row made
anew keeps it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PyQt6 import sip
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QGridLayout,
    QLayout,
    QLayoutItem,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QWidget,
)

from hypsos.desk.widgets.scroll_page import page_of


def focusables(root: QWidget) -> Iterator[QWidget]:
    """The fields, buttons and other things under ``root`` that Tab can reach now, as they are
    read."""
    if root.isHidden() and root.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide):
        return  # what was just made is hidden, too, until its layout shows it
    if (
        isinstance(root, QAbstractButton)
        and (group := root.group()) is not None
        and group.exclusive()
    ):
        if root.isEnabled() and root is (group.checkedButton() or group.buttons()[0]):
            yield root  # of a choice the one that is taken; the arrow keys go to the others
        return
    if (
        root.isEnabled()
        and root.focusPolicy() & Qt.FocusPolicy.TabFocus
        and root.focusProxy() is None
    ):
        yield root
        return
    for child in _children(root):
        yield from focusables(child)


def _children(root: QWidget) -> Iterator[QWidget]:
    if isinstance(root, QScrollArea):
        inner = root.widget()
        yield from [inner] if inner is not None else []
        beside_it = (c for c in root.children() if isinstance(c, QWidget))
        # what stands below the page
        yield from (c for c in beside_it if not c.objectName().startswith("qt_scrollarea"))
        return
    if isinstance(root, QStackedWidget):
        inner = root.currentWidget()
        yield from [inner] if inner is not None else []
        return
    if isinstance(root, QSplitter):
        yield from (w for i in range(root.count()) if (w := root.widget(i)) is not None)
        return
    laid = list(_laid_out(root.layout()))
    yield from laid
    own = [
        c for c in root.children() if isinstance(c, QWidget) and c not in laid and not c.isWindow()
    ]
    yield from sorted(own, key=lambda w: (w.y(), w.x()))


def _laid_out(layout: QLayout | None) -> Iterator[QWidget]:
    if layout is None:
        return
    places = range(layout.count())
    if isinstance(layout, QGridLayout):
        places = sorted(places, key=lambda i: layout.getItemPosition(i)[:2])  # type: ignore[assignment]
    for place in places:
        item: QLayoutItem | None = layout.itemAt(place)
        if item is None:
            continue
        if (widget := item.widget()) is not None:
            yield widget
        else:
            yield from _laid_out(item.layout())


def beside(all_: list[QWidget], now: QWidget | None, step: int) -> QWidget | None:
    """The one before or after the one at hand, round the ends. Where the one at hand has gone, the
    one that is read after it on its page, for there the work goes on."""
    if not all_:
        return None
    if now not in all_:
        return _after(all_, now) or all_[0 if step > 0 else -1]
    return all_[(all_.index(now) + step) % len(all_)]


def _after(all_: list[QWidget], gone: QWidget | None) -> QWidget | None:
    """Of those on the page of something that has gone, the first that lies behind it, or the last
    one before it."""
    page = page_of(gone) if gone is not None else None
    if gone is None or page is None:
        return None
    beside_it = [widget for widget in all_ if page.isAncestorOf(widget)]
    place = _place_on(page, gone)
    behind = [widget for widget in beside_it if _place_on(page, widget) >= place]
    return behind[0] if behind else beside_it[-1] if beside_it else None


def _place_on(page: QWidget, widget: QWidget) -> tuple[int, int]:
    at = widget.mapTo(page, QPoint(0, 0))
    return at.y(), at.x()


def called(widget: QWidget) -> str:
    """What a widget is known by: its name for the screen reader, or its words."""
    return widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")


@contextmanager
def focus_kept(page: QWidget) -> Iterator[None]:
    """Rows of ``page`` may be made anew inside; the one that has the focus has it afterwards, or
    the one in its place."""
    before = QApplication.focusWidget()
    if before is None or not page.isAncestorOf(before):
        yield
        return
    order = list(focusables(page))
    name, place = called(before), order.index(before) if before in order else 0
    yield
    if (
        not sip.isdeleted(before)
        and before.isVisible()
        and before.isEnabled()
        and before.hasFocus()
    ):
        return
    after = list(focusables(page))
    same = [w for w in after if name and called(w) == name]
    near = after[min(place, len(after) - 1)] if after else None
    found = same[0] if same else near
    if found is not None:
        found.show()
        found.setFocus(Qt.FocusReason.OtherFocusReason)
        into_view(found)


def into_view(widget: QWidget) -> None:
    """Scroll the page, if it is on one, until the widget is seen."""
    page = page_of(widget)
    if page is not None:
        page.into_view(widget)


def first_field(page: QWidget) -> QWidget | None:
    """Where work on a page begins: its first field or button."""
    return next(iter(focusables(page)), None)
