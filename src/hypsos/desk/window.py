# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: the run-down at the left, the sheet of work in the middle, the bench at the right."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import (
    QCoreApplication,
    QEvent,
    QMimeData,
    Qt,
    QTimer,
    pyqtBoundSignal,
    pyqtSignal,
)
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.base.errors import HypsosError
from hypsos.core.rundown import STEPS, step_of_path
from hypsos.desk.bench.bench_panel import BenchPanel
from hypsos.desk.pages import make_page
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services import settings as remembered
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import SCALES, look
from hypsos.desk.widgets.file_choice import ask_where, ask_which
from hypsos.desk.widgets.focus_order import beside, called, first_field, focusables, into_view
from hypsos.desk.widgets.notice import Notice
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.run_down_list import STEP_KEYS, RunDownList
from hypsos.desk.window_header import Header

if TYPE_CHECKING:
    from hypsos.core.engine.announcements import Spoken
    from hypsos.desk.welcome import Welcome
    from hypsos.desk.widgets.finder import Finder, Found
    from hypsos.desk.widgets.look_card import LookCard
    from hypsos.desk.widgets.shortcuts import Shortcuts

PAGE, BENCH = 318, 296
"""The least widths of the page and of the bench at 100 % text."""
USUAL_SHARE, WIDEST_PAGE = 0.43, 720
"""What the page takes of page and bench until its edge is drawn, and the most of that."""
WIDE_SHARE = 0.72
"""What a wide page takes, where the bench has its least width beside it."""


class Window(QMainWindow):
    """The one window. Pages are made when they are first wanted."""

    hangar_wanted = pyqtSignal(bool)
    """Another hangar: True for the demo's, False for one's own."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.first_step = STEPS[0].key
        self.setMinimumSize(800, 560)
        self.resize(1280, 800)
        body = QWidget()
        body.setObjectName("window")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.header = Header(workbench.document.hangar.passing)
        self.notice = Notice(body, self.header)
        workbench.notices.noticed.connect(lambda said: self.notice.say(said))
        workbench.notices.offered.connect(self.notice.say)
        workbench.notices.asked.connect(self.notice.ask)
        workbench.notices.elsewhere_wanted.connect(self._write_elsewhere)
        head = self.header
        self.models, self.home, self.kind = head.models, head.home, head.kind
        self.undo, self.redo, self.wide = head.undo, head.redo, head.wide
        self.models.activated.connect(lambda _: self._open(self.models.currentText()))
        self.undo.clicked.connect(lambda: workbench.notices.attempt(workbench.document.undo))
        self.redo.clicked.connect(lambda: workbench.notices.attempt(workbench.document.redo))
        head.look.clicked.connect(self.open_look)
        self.wide.toggled.connect(self._widen)
        self.wide_page = head.wide_page
        self.wide_page.toggled.connect(self._widen_page)
        head.seek.clicked.connect(self.open_finder)
        self.home.clicked.connect(lambda: self.hangar_wanted.emit(False))
        head.keys.clicked.connect(self._toggle_help)
        column.addWidget(head)
        self.rundown = RunDownList(workbench)
        self.rundown.wanted.connect(self.go)
        side = QScrollArea()
        side.setObjectName("rundown")
        side.setWidgetResizable(True)
        side.setFrameShape(QFrame.Shape.NoFrame)
        side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        side.setWidget(self.rundown)
        self._side = side
        self.pages = QStackedWidget()
        self._made: dict[str, StepPage] = {}
        self.bench = BenchPanel(workbench)
        self.bench.place_wanted.connect(self.show_place)
        self.bench.page_wanted.connect(self._show_on)
        self.bench.moves_wanted.connect(self.choose_moves)
        self.bench.hands_wanted.connect(lambda: self.wide_page.setChecked(False))
        self.bench.keep_wanted.connect(self.keep_stretch)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.addWidget(self.pages)
        self.splitter.addWidget(self.bench)
        self.splitter.setStretchFactor(0, 0)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setHandleWidth(1)
        self.page_share = remembered.page_share()
        """What the page takes of page and bench, as the pilot has drawn its edge."""
        self.splitter.splitterMoved.connect(self._edge_drawn)
        line = QHBoxLayout()
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        line.addWidget(side)
        line.addWidget(self.splitter, 1)
        self._work = QWidget()
        self._work.setLayout(line)
        column.addWidget(self._work, 1)
        self.welcome: Welcome | None = None
        self._column = column
        self.setCentralWidget(body)
        self.help: Shortcuts | None = None
        self.finder: Finder | None = None
        self.looks: LookCard | None = None
        self.setAcceptDrops(True)
        self._finished = False
        workbench.simulation.model_changed.connect(self._model_changed)
        workbench.document.history_changed.connect(self._history_changed)
        workbench.document.hangar_changed.connect(self._hangar_changed)
        look.follow(self, self._fit)
        look.give_way(self, self._drop_pages)
        self._hangar_changed()
        self._history_changed()
        self._model_changed()
        self._fit()
        self.wide_page.setChecked(remembered.text("wide page") == "true")
        self.rundown.setFocus()
        self.bench.aeroplane.first_painted.connect(lambda: QTimer.singleShot(0, self.finish))
        # where no aeroplane is painted (an empty hangar, a hidden window) it is not waited for
        QTimer.singleShot(0 if workbench.model is None else 1000, self.finish)

    def finish(self) -> None:
        """What can wait until the bench is on the screen: shortcuts, and the first page if none was
        wanted yet."""
        if self._finished:
            return
        self._finished = True
        self.workbench.companions.begin()
        self.workbench.notices.captioned.connect(self.bench.show_caption)
        self.workbench.companions.voice.said.connect(self._said)
        self._keys()
        if self.workbench.model is None:
            self.invite()
        elif self.pages.currentWidget() is None:
            self.go(self.first_step)

    def _said(self, spoken: Spoken) -> None:
        if not self.workbench.notices.narrated:
            self.bench.show_caption(spoken)

    # -- made once -------------------------------------------------------------------------------

    def _keys(self) -> None:
        for key, step in zip(STEP_KEYS, STEPS, strict=False):
            self._key(f"Alt+{key}", lambda k=step.key: self.go(k, focus=True))
        self._key("Ctrl+Z", lambda: self.workbench.notices.attempt(self.workbench.document.undo))
        for keys in ("Ctrl+Shift+Z", "Ctrl+Y"):
            self._key(keys, lambda: self.workbench.notices.attempt(self.workbench.document.redo))
        self._key("Ctrl+T", self._swap_theme)
        self._key("Ctrl+M", self.models.setFocus)
        self._key("F1", self._toggle_help)
        self._key("F2", self.rundown.setFocus)
        self._key("F3", self.bench.show_hands)
        self._key("F4", self.bench.aeroplane.setFocus)
        self._key("F6", self._mute)
        self._key("F8", self.wide_page.toggle)
        self._key("F9", self.wide.toggle)
        self._key("F11", self._whole_screen)
        self._key("Ctrl+F", self.open_finder)
        self._key("Ctrl+Q", lambda: (self.window() or self).close())
        self._key("Ctrl+PgUp", lambda: self._step_by(-1))
        self._key("Ctrl+PgDown", lambda: self._step_by(1))
        self._key("Ctrl+L", self._turn_link)
        self._key("Ctrl+B", self._turn_battery)
        for i in range(4):
            self._key(f"Ctrl+{i + 1}", lambda i=i: self.bench.show_lower(i))
        self._key("Ctrl++", lambda: self._scale(1))
        self._key("Ctrl+=", lambda: self._scale(1))
        self._key("Ctrl+-", lambda: self._scale(-1))

    def _key(self, keys: str, action: Callable[[], object]) -> None:
        shortcut = QShortcut(QKeySequence(keys), self)
        shortcut.activated.connect(lambda: action())

    def _step_by(self, by: int) -> None:
        """The step before or after the one at hand."""
        at = [s.key for s in STEPS].index(self.rundown.current) + by
        if 0 <= at < len(STEPS):
            self.go(STEPS[at].key, focus=True)

    def _turn_link(self) -> None:
        self.bench.turn_link()
        if self.workbench.model is not None:
            self.notice.say_briefly(self.bench.link_words)

    def _turn_battery(self) -> None:
        self.bench.turn_battery()
        if self.workbench.model is not None:
            self.notice.say_briefly(self.bench.battery_said)

    def _whole_screen(self) -> None:
        """The window takes the whole screen, or is as it was before."""
        outermost = self.window() or self
        outermost.setWindowState(outermost.windowState() ^ Qt.WindowState.WindowFullScreen)

    # -- going places ----------------------------------------------------------------------------

    def page(self, key: str) -> StepPage:
        """The page of a step; it is made now if it was not there."""
        if key not in self._made:
            page = self._made[key] = make_page(key, self.workbench, self.pages)
            page.step_wanted.connect(self.go)
            page.place_wanted.connect(self.show_place)
            self.pages.addWidget(page)
            if isinstance(wanted := getattr(page, "pictures_wanted", None), pyqtBoundSignal):
                wanted.connect(self.invite)
        return self._made[key]

    def go(self, key: str, focus: bool = False) -> None:
        """Show a step's page; without a model on the bench, the invitation to make one."""
        if self.workbench.model is None:
            self.invite()
            return
        page = self.page(key)
        self.pages.setCurrentWidget(page)
        self.rundown.go(key)
        self._side.ensureVisible(0, self.rundown.middle_of(key), 0, self._side.height() // 4)
        if self.wide.isChecked():
            self.wide.setChecked(False)
        first = first_field(page) if focus else None
        if first is not None:
            first.setFocus(Qt.FocusReason.TabFocusReason)
            into_view(first)

    def _drop_pages(self) -> None:
        """Let pages go that are neither seen nor hold anything of their own: they are made again
        when they are wanted."""
        for key, page in list(self._made.items()):
            if page is not self.pages.currentWidget() and not page.in_hand():
                del self._made[key]
                self.pages.removeWidget(page)
                page.deleteLater()
                QCoreApplication.sendPostedEvents(page, QEvent.Type.DeferredDelete)

    def show_place(self, path: str) -> None:
        """Show the field for a document path."""
        key = "shake" if path.startswith("found:") else step_of_path(path)
        if key:
            self.go(key)
            self.page(key).show_place(path)

    def _show_on(self, step: str, path: str) -> None:
        self.go(step)
        self.page(step).show_place(path)

    def keep_stretch(self, start_s: float, end_s: float) -> None:
        """Make a scenario of what the timeline recorded between two times, and show it."""
        from hypsos.desk.services.keep_stretch import keep_stretch

        if self.workbench.notices.attempt(lambda: keep_stretch(self.workbench, start_s, end_s)):
            self.show_place(f"scenarios[{len(self.workbench.loaded.scenarios) - 1}]")

    def choose_moves(self) -> None:
        """Ask for a CSV of recorded moves and play it."""
        name = ask_which(self, "Recorded moves", {".csv": "Moves"})
        if name is not None:
            self.play_moves(name)

    def play_moves(self, path: Path) -> None:
        """Play a CSV of moves on the bench; what is wrong with it is said in the window."""
        from hypsos.desk.services.play_moves import play_file

        play_file(self, self.workbench, path, self.notice.say)

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes as the window is read: what stands above, the steps, the page, then the
        bench."""
        found = beside(
            list(focusables(self.centralWidget() or self)), self.focusWidget(), 1 if forward else -1
        )
        if found is None:
            return False
        found.setFocus(
            Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason
        )
        into_view(found)
        return True

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """What no field has taken: Enter presses the button that has the focus, Escape puts a
        notice away."""
        assert event is not None
        focused = self.focusWidget()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(
            focused, QAbstractButton
        ):
            focused.click()
        elif event.key() == Qt.Key.Key_Escape and self.notice.isVisible():
            self.notice.put_away()
        else:
            super().keyPressEvent(event)

    # -- the invitation --------------------------------------------------------------------------

    def invite(self) -> None:
        """Show the aeroplanes to begin with, in place of the page and the bench."""
        if self.welcome is None:
            from hypsos.desk.welcome import Welcome

            self.welcome = Welcome()
            self.welcome.template_wanted.connect(self.begin)
            self.welcome.demo_wanted.connect(lambda: self.hangar_wanted.emit(True))
            self.welcome.import_wanted.connect(self._import)
            self.welcome.back_wanted.connect(self.leave_welcome)
            self._column.addWidget(self.welcome, 1)
        self.welcome.offer_back(self.workbench.model is not None)
        self._work.hide()
        self.header.leave_out(True)
        self.welcome.show()
        self.welcome.tiles[0].setFocus()

    def leave_welcome(self) -> None:
        """Back to the page and the bench."""
        if self.welcome is not None:
            self.welcome.hide()
        self.header.leave_out(False)
        self._work.show()
        if self.workbench.model is not None and self.pages.currentWidget() is None:
            self.go(STEPS[0].key)

    def begin(self, key: str) -> None:
        """Make a model from a template, put it on the bench, and ask for its name."""
        from hypsos.core.shape.templates import TEMPLATES

        def make() -> None:
            model = TEMPLATES[key].begin(
                self.workbench.document.hangar.free_name(TEMPLATES[key].title)
            )
            self.workbench.document.add(remembered.as_the_pilot_has_it(model))

        if self.workbench.notices.attempt(make):
            self.leave_welcome()
            self.go(STEPS[0].key, focus=True)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and _model_files(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Model files that are dropped go into the hangar; the last one onto the bench."""
        for path in _model_files(event.mimeData() if event is not None else None):
            show = partial(self.workbench.document.show_file, path)
            self.workbench.notices.attempt(show, placed=True)

    def _import(self) -> None:
        path = ask_which(self, "Import a model file", {".json": "Model files"})
        if path is not None:
            self.workbench.notices.attempt(
                lambda: self.workbench.document.import_file(path), placed=True
            )

    def _mute(self) -> None:
        """Voice and tones off, or on again."""
        voice = self.workbench.companions.voice
        voice.mute(not voice.muted)
        self.notice.say_briefly(
            "Voice and tones are off. F6 brings them back."
            if voice.muted
            else "Voice and tones are on."
        )

    def _toggle_help(self) -> None:
        """The list of shortcuts; it is made when it is first wanted."""
        if self.help is None:
            from hypsos.desk.widgets.shortcuts import Shortcuts

            self.help = Shortcuts(self.centralWidget() or self)
        self.help.toggle()

    def open_finder(self) -> None:
        """Ask for words, and go to what has them."""
        if self.workbench.model is None:
            return
        if self.finder is None:
            from hypsos.desk.widgets.finder import Finder

            self.finder = Finder(self.centralWidget() or self, self._findable)
        self.finder.open()

    def _findable(self) -> list[Found]:
        """The steps, the fields of the page at hand, and all that the model has a name for."""
        from hypsos.core.explain.model_places import model_places
        from hypsos.desk.widgets.finder import Found

        steps = [
            Found(f"{s.verb}: {s.holds}", "a step", partial(self.go, s.key, focus=True))
            for s in STEPS
        ]
        page = self.pages.currentWidget()
        fields = [] if page is None else list(focusables(page))
        here = [
            Found(called(field), "on this page", partial(self._focus, field))
            for field in fields
            if called(field)
        ]
        places = [
            Found(place.words, place.kind, partial(self.show_place, place.path))
            for place in model_places(self.workbench.loaded)
        ]
        return [*steps, *here, *places]

    def _focus(self, field: QWidget) -> None:
        if not sip.isdeleted(field) and field.isVisible():
            field.setFocus(Qt.FocusReason.TabFocusReason)
            into_view(field)

    def _open(self, name: str) -> None:
        if not self.workbench.notices.attempt(lambda: self.workbench.document.open(name)):
            self._hangar_changed()

    # -- following the workbench -----------------------------------------------------------------

    def _model_changed(self) -> None:
        model = self.workbench.model
        if model is None:
            self.setWindowTitle("Hypsos")
            self.kind.setText("")
            if self._finished:
                self.invite()
            return
        if self.welcome is not None and self.welcome.isVisible():
            self.leave_welcome()
        self.setWindowTitle(f"{model.name} · Hypsos")
        self.kind.setText(model.airframe.kind)
        if self.models.currentText() != model.name:
            self.models.setCurrentText(model.name)

    def _hangar_changed(self) -> None:
        try:
            names = self.workbench.document.hangar.names()
        except HypsosError as error:
            self.notice.say(error.plain)
            return
        self.models.clear()
        self.models.addItems(names)
        model = self.workbench.model
        if model is not None:
            self.models.setCurrentText(model.name)

    def _history_changed(self) -> None:
        self.header.show_history(
            self.workbench.document.undo_label, self.workbench.document.redo_label
        )

    # -- looks -----------------------------------------------------------------------------------

    def _write_elsewhere(self) -> None:
        """The hangar as it is here goes to another file, and the work goes on there."""
        bench = self.workbench
        path = ask_where(
            self, "Write the hangar to another file", "hangar", {".sqlite3": "Hangars"}
        )
        if path is not None and bench.notices.attempt(lambda: bench.document.hangar.move_to(path)):
            said = f"The hangar is in {path} now, and the work goes on there. Hypsos starts with the file in the old place."
            self.notice.say(said)

    def open_look(self) -> None:
        """Theme, sizes, motion and voice in one place."""
        if self.looks is None:
            from hypsos.desk.widgets.look_card import LookCard

            voice = self.workbench.companions.voice
            parent = self.centralWidget() or self
            self.looks = LookCard(parent, lambda: voice.muted, self._mute)
        self.looks.open()

    def _swap_theme(self) -> None:
        look.set_theme("light" if look.palette.name == "dark" else "dark")

    def _scale(self, by: int) -> None:
        at = SCALES.index(look.scale) if look.scale in SCALES else 0
        look.set_scale(SCALES[max(0, min(len(SCALES) - 1, at + by))])

    def _fit(self) -> None:
        narrow = self.width() < look.px(1000)
        self.rundown.set_narrow(narrow)
        self._side.setFixedWidth(look.px(46 if narrow else 176))
        room = self.width() - self._side.width() - self.splitter.handleWidth()
        half = room // 2
        self.pages.setMinimumWidth(
            min(look.px(390), max(half, look.px(PAGE)), room - look.px(BENCH))
        )
        self.bench.setMinimumWidth(
            min(look.px(410), max(look.px(BENCH), room - self.pages.minimumWidth()))
        )
        page = self._page_width(room)
        self.splitter.setSizes([page, max(0, room - page)])
        self.wide.setText("Bench" if narrow else "Widen the bench")
        self.wide_page.setText("Page" if narrow else "Wide page")
        self._history_changed()
        self.notice.place()

    def _page_width(self, room: int) -> int:
        """How wide the page is beside the bench, where both have so much room."""
        least, most = self.pages.minimumWidth(), room - self.bench.minimumWidth()
        if self.wide_page.isChecked():
            wanted = max(round(room * WIDE_SHARE), room - look.px(2 * BENCH))
        elif self.page_share is not None:
            wanted = round(room * self.page_share)
        else:
            wanted = min(round(room * USUAL_SHARE), look.px(WIDEST_PAGE))
        return max(least, min(wanted, most))

    def _edge_drawn(self, at: int, _which: int) -> None:
        """The pilot has drawn the edge between page and bench: it stays there."""
        room = sum(self.splitter.sizes())
        if room > 0 and not self.wide_page.isChecked():
            self.page_share = at / room

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _widen(self, on: bool) -> None:
        if on:
            self.wide_page.setChecked(False)
        self.pages.setVisible(not on)
        self._side.setVisible(not on)

    def _widen_page(self, on: bool) -> None:
        if on:
            self.wide.setChecked(False)
        self.bench.set_aside(on)
        self._fit()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        activated = event is not None and event.type() == QEvent.Type.ActivationChange
        if activated and self.isWindow() and self.isActiveWindow():
            self.come_back()

    def come_back(self) -> None:
        """The pilot was in another window, which may have written meanwhile."""
        if self._finished:
            self.workbench.notices.attempt(self.workbench.document.look_again)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        focused = self.focusWidget()
        if focused is not None:
            focused.clearFocus()  # a number typed and not finished is handed in
        for field in self.findChildren(NumberField):
            field.hand_in()  # also where the window has not been in front, as at a logout
        self.workbench.document.leaving.emit()
        self.workbench.companions.end()
        self.workbench.document.hangar.close()
        super().closeEvent(event)


def _model_files(data: QMimeData | None) -> list[Path]:
    """The model files among what is dragged."""
    urls = data.urls() if data is not None else []
    paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
    return [path for path in paths if path.suffix == ".json"]
