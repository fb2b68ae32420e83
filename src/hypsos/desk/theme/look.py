# SPDX-License-Identifier: GPL-3.0-or-later
"""The look in force: palette, type scale, and the style sheet made from them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QDir, QObject, QTimer
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from hypsos.desk.theme.palette import DARK, LIGHT, Palette

FAMILY = "B612"
ICONS = Path(__file__).parent / "icons"
"""The style sheet finds them by a search path of their own: a folder may hold quotes, per cent
signs, any letter."""
BASE_PX = 12.5
SCALES = (1.0, 1.25, 1.5)


class Look:
    """One per application. Widgets that paint ask it for colours and fonts, and ``follow`` it."""

    def __init__(self) -> None:
        self._followers: list[tuple[QObject, Callable[[], object]]] = []
        self._yielding: list[tuple[QObject, Callable[[], object]]] = []
        self.palette: Palette = LIGHT
        self.scale = 1.0
        self.large = False
        """Larger targets, for fingers."""
        self.calm = False
        """Nothing moves of itself but what the aeroplane does."""
        self._fonts: dict[tuple[float, bool], QFont] = {}
        self._colours: dict[tuple[str, str, int], QColor] = {}

    def follow(self, widget: QObject, action: Callable[[], object]) -> None:
        """Do this whenever the look changes, for as long as the widget lives."""
        self._followers = [f for f in self._followers if not sip.isdeleted(f[0])]
        self._followers.append((widget, action))

    def give_way(self, widget: QObject, action: Callable[[], object]) -> None:
        """Do this before the look changes: what is not seen need not be dressed anew."""
        self._yielding = [f for f in self._yielding if not sip.isdeleted(f[0])]
        self._yielding.append((widget, action))

    def colour(self, role: str, alpha: int = 255) -> QColor:
        """A colour of the palette by its role."""
        key = (self.palette.name, role, alpha)
        found = self._colours.get(key)
        if found is None:
            found = QColor(getattr(self.palette, role))
            found.setAlpha(alpha)
            self._colours[key] = found
        return found

    def font(self, size: float = 1.0, bold: bool = False) -> QFont:
        """The shipped font; ``size`` is relative to running text."""
        key = (size * self.scale, bold)
        found = self._fonts.get(key)
        if found is None:
            found = QFont(FAMILY)
            found.setPixelSize(max(8, round(BASE_PX * self.scale * size)))
            found.setBold(bold)
            self._fonts[key] = found
        return found

    def px(self, length: float) -> int:
        """A length at 100 % text size, in pixels at the present one."""
        return round(length * self.scale)

    def hold(
        self,
        widget: QWidget,
        width: float = 0,
        height: float = 0,
        least_width: float = 0,
        least_height: float = 0,
    ) -> None:
        """Keep a widget's fixed or least width and height, in pixels at 100 % text size, in step
        with the text."""

        def fit() -> None:
            for length, put in (
                (width, widget.setFixedWidth), (height, widget.setFixedHeight),
                (least_width, widget.setMinimumWidth), (least_height, widget.setMinimumHeight),
            ):  # fmt: skip
                if length:
                    put(self.px(length))

        fit()
        self.follow(widget, fit)

    def take_theme(self, name: str) -> None:
        """Choose ``light`` or ``dark``, and colour the ground of what comes. A style sheet takes
        longer, and the frame of the window needs none."""
        self.palette = DARK if name == "dark" else LIGHT
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.setPalette(self._qt_palette())

    def set_theme(self, name: str) -> None:
        """Choose ``light`` or ``dark``."""
        self.palette = DARK if name == "dark" else LIGHT
        self.apply()

    def set_scale(self, scale: float) -> None:
        """Choose the text size, 1 is 100 %."""
        self.scale = min(max(scale, SCALES[0]), SCALES[-1])
        self.apply()

    def set_large(self, large: bool) -> None:
        """Larger targets, or the usual ones."""
        self.large = large
        self.apply()

    def apply(self) -> None:
        """Put the look on the application."""
        for widget, action in self._yielding:
            if not sip.isdeleted(widget):
                action()
        app = QApplication.instance()
        held = (
            [w for w in QApplication.topLevelWidgets() if w.isVisible()] if app is not None else []
        )
        for w in held:  # painted once, when everything has found its new place
            w.setUpdatesEnabled(False)
        QTimer.singleShot(0, lambda: _let_go(held))
        if isinstance(app, QApplication):
            app.setFont(self.font())
            app.setPalette(self._qt_palette())
            # one sheet over another dresses every widget three times as slowly as none and then one
            app.setStyleSheet("")
            app.setStyleSheet(style_sheet(self.palette, self.scale, self.large))
        for widget, action in self._followers:
            if not sip.isdeleted(widget):
                action()

    def _qt_palette(self) -> QPalette:
        p, out = self.palette, QPalette()
        roles = QPalette.ColorRole
        for role, colour in (
            (roles.Window, p.paper), (roles.WindowText, p.ink), (roles.Base, p.field), (roles.AlternateBase, p.card),
            (roles.Text, p.ink), (roles.Button, p.card), (roles.ButtonText, p.ink), (roles.Highlight, p.sea),
            (roles.HighlightedText, p.on_sea), (roles.ToolTipBase, p.card), (roles.ToolTipText, p.ink),
            (roles.PlaceholderText, p.faint), (roles.Link, p.sea),
        ):  # fmt: skip
            out.setColor(role, QColor(colour))
        return out


def _let_go(held: list[QWidget]) -> None:
    for w in held:
        if not sip.isdeleted(w):
            w.setUpdatesEnabled(True)


look = Look()


def load_fonts() -> None:
    """Make the shipped font known to Qt. Raises FileNotFoundError when it does not ship."""
    QDir.setSearchPaths("hypsosicons", [str(ICONS)])
    folder = Path(__file__).parent / "fonts"
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        if QFontDatabase.addApplicationFontFromData((folder / name).read_bytes()) < 0:
            raise FileNotFoundError(name)


USUAL_TARGET, LARGE_TARGET = 32, 40
"""Heights at 100 % text of what is touched; within it, so much is the border and its room."""


def style_sheet(p: Palette, scale: float, large: bool = False) -> str:
    """The style sheet of every ordinary widget; ``large``: with larger targets."""
    target = LARGE_TARGET if large else USUAL_TARGET

    def px(length: float) -> str:
        return f"{round(length * scale)}px"

    return f"""
QMainWindow, QWidget#window {{ background: {p.paper}; }}
QToolTip {{ background: {p.card}; color: {p.ink}; border: 1px solid {p.edge}; padding: 4px; }}
QLabel#title {{ font-size: {px(19)}; font-weight: bold; }}
QLabel#section {{ font-size: {px(13.5)}; font-weight: bold; padding-top: {px(6)}; }}
QLabel#big {{ font-size: {px(15)}; font-weight: bold; }}
QLabel#truth {{ color: {p.sea}; font-weight: bold; min-width: {px(13)}; max-width: {px(13)}; }}
QLabel#faint {{ color: {p.faint}; }}
QLabel#complaint {{ color: {p.rust}; font-weight: bold; }}
QFrame#card {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 7px; }}
QFrame#caution {{ background: {p.rust_soft}; border: none; border-left: 4px solid {p.rust}; border-radius: 0px; }}
QLabel#reason {{ background: {p.rust_soft}; color: {p.ink}; border: none; border-left: 4px solid {p.rust}; padding: 5px 9px; }}
QLabel#clock {{ background: {p.sea_soft}; color: {p.ink}; border: none; border-left: 4px solid {p.sea}; padding: 5px 9px; }}
QLabel#caption {{ background: {p.card}; color: {p.ink}; border: 2px solid {p.sea}; border-radius: 9px;
    padding: 5px 14px; font-weight: bold; }}
QLabel#caption[rank="danger"] {{ background: {p.rust}; color: {p.on_rust}; border-color: {p.rust}; }}
QLabel#caption[rank="remark"] {{ border-color: {p.edge}; font-weight: normal; }}
QFrame#hint {{ background: {p.sea_soft}; border: none; border-left: 4px solid {p.sea}; border-radius: 0px; }}
QFrame#notice {{ background: {p.rust_soft}; border: none; border-bottom: 2px solid {p.rust}; }}
QFrame#band {{ background: {p.card}; border: none; border-bottom: 1px solid {p.line}; }}
QFrame#rundown {{ background: {p.paper}; border: none; border-right: 1px solid {p.line}; }}
QPushButton, QToolButton {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 5px;
    padding: {px(5)} {px(11)}; }}
QPushButton:hover, QToolButton:hover {{ border-color: {p.sea}; background: {p.sea_soft}; }}
QPushButton:pressed, QToolButton:pressed {{ background: {p.sea_soft}; }}
QPushButton:focus, QToolButton:focus {{ border: 2px solid {p.sea}; padding: {px(4)} {px(10)}; }}
QPushButton {{ min-height: {px(target - 12)}; }}
QPushButton#plain, QPushButton#fold {{ min-height: {px(target - 10)}; }}
QPushButton#word {{ min-height: {px(target - 14)}; }}
QLineEdit, QDateEdit, QComboBox {{ min-height: {px(target - 10)}; }}
QCheckBox, QRadioButton {{ min-height: {px(target - 8)}; }}
QListView::item, QComboBox QAbstractItemView::item {{ min-height: {px(target - 8)}; }}
QPushButton:disabled, QToolButton:disabled {{ color: {p.faint}; border-color: {p.line}; background: {p.paper}; }}
QPushButton#popup {{ padding-right: {px(20)}; }}
QPushButton:checked, QToolButton:checked {{ background: {p.sea}; color: {p.on_sea}; border-color: {p.sea}; }}
QPushButton#lead {{ background: {p.sea}; color: {p.on_sea}; border-color: {p.sea}; font-weight: bold; }}
QPushButton#lead:focus, QPushButton:checked:focus, QToolButton:checked:focus {{ border: 3px double {p.on_sea};
    padding: {px(3)} {px(9)}; }}
QPushButton#lead:hover {{ background: {p.ink}; color: {p.paper}; border-color: {p.ink}; }}
QPushButton#lead:disabled {{ background: {p.paper}; color: {p.faint}; border-color: {p.line}; }}
QPushButton#plain {{ border-color: transparent; background: transparent; color: {p.sea}; padding: {px(4)} {px(6)}; }}
QPushButton#plain:hover {{ text-decoration: underline; }}
QPushButton#plain:focus {{ border: 2px solid {p.sea}; padding: {px(3)} {px(5)}; }}
QPushButton#fold {{ border: 1px solid transparent; background: transparent; font-weight: bold; text-align: left;
    padding: {px(3)} {px(2)}; }}
QPushButton#fold:hover {{ color: {p.sea}; }}
QPushButton#fold:focus {{ border: 2px solid {p.sea}; border-radius: 3px; padding: {px(2)} {px(1)}; }}
QPushButton#word {{ border: 1px solid transparent; border-bottom: 1px solid {p.sea}; border-radius: 0; background: transparent;
    color: {p.sea}; font-weight: bold; padding: {px(2)} {px(2)}; text-align: left; }}
QPushButton#word:hover {{ background: {p.sea_soft}; }}
QPushButton#word:focus {{ border: 2px solid {p.sea}; border-radius: 3px; padding: {px(1)} {px(1)}; }}
QPushButton#plain:disabled {{ color: {p.faint}; }}
QLineEdit, QPlainTextEdit, QDateEdit, QComboBox {{ background: {p.field}; border: 1px solid {p.edge};
    border-radius: 4px; padding: {px(4)} {px(6)}; selection-background-color: {p.sea};
    selection-color: {p.on_sea}; }}
QLineEdit:focus, QPlainTextEdit:focus, QDateEdit:focus {{ border: 2px solid {p.sea};
    padding: {px(3)} {px(5)}; }}
QComboBox:focus {{ border: 1px solid {p.sea}; }}
QLineEdit#wrong {{ border: 2px solid {p.rust}; padding: {px(3)} {px(5)}; }}
QComboBox:disabled {{ color: {p.faint}; border-color: {p.line}; background: {p.paper}; }}
QComboBox::drop-down {{ border: none; width: {px(18)}; }}
QComboBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {p.field}; border-right: 4px solid {p.field};
    border-top: 6px solid {p.faint}; margin-right: 6px; }}
QComboBox QAbstractItemView {{ background: {p.field}; border: 1px solid {p.edge}; outline: none;
    selection-background-color: {p.sea}; selection-color: {p.on_sea}; }}
QDateEdit::drop-down, QDateEdit::up-button, QDateEdit::down-button {{ width: 0; border: none; }}
QCheckBox, QRadioButton {{ spacing: {px(7)}; }}
QCheckBox::indicator, QRadioButton::indicator {{ width: {px(13)}; height: {px(13)}; border: 1px solid {p.edge};
    background: {p.field}; border-radius: 3px; }}
QRadioButton::indicator {{ border-radius: {px(7)}; }}
QCheckBox::indicator:checked {{ background: {p.sea}; border: 1px solid {p.ink}; image: url(hypsosicons:tick_{p.name}.png); }}
QTextBrowser {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; padding: 1px; }}
QTextBrowser:focus {{ border: 2px solid {p.sea}; padding: 0; }}
QMessageBox, QFileDialog, QDialog {{ background: {p.paper}; }}
QFileDialog QToolButton {{ padding: 2px; min-width: {px(22)}; min-height: {px(20)}; }}
QHeaderView {{ background: {p.card}; }}
QHeaderView::section {{ background: {p.card}; color: {p.ink}; border: none; border-bottom: 1px solid {p.line}; padding: {px(4)}; }}
QTreeView, QListView {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.line}; }}
QRadioButton::indicator:checked {{ border: 1px solid {p.ink}; background: qradialgradient(cx: 0.5, cy: 0.5,
    radius: 0.5, fx: 0.5, fy: 0.5, stop: 0 {p.sea}, stop: 0.56 {p.sea}, stop: 0.64 {p.field}, stop: 1 {p.field}); }}
QCheckBox:focus, QRadioButton:focus {{ color: {p.sea}; text-decoration: underline; }}
QScrollArea, QScrollArea > QWidget > QWidget#page {{ background: transparent; border: none; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {p.edge}; border-radius: 3px; min-height: 30px; margin: 2px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; }}
QScrollBar::handle:horizontal {{ background: {p.edge}; border-radius: 3px; margin: 2px; }}
QFrame#menu {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 4px; }}
QFrame#menu QListView {{ background: {p.card}; border: none; outline: none; }}
QFrame#menu QListView::item {{ min-height: {px(target)}; padding: 0 {px(8)}; border-radius: 3px; }}
QFrame#menu QListView::item:selected {{ background: {p.sea}; color: {p.on_sea}; }}
QSplitter::handle {{ background: {p.line}; }}
"""
