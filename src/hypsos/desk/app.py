# SPDX-License-Identifier: GPL-3.0-or-later
"""Starting the window."""

from __future__ import annotations

import os
import signal
import socket
import sys
import threading
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QSocketNotifier, QTimer
from PyQt6.QtWidgets import QApplication

from hypsos.core.base.errors import DocumentError, HangarDamaged, HangarError, HypsosError
from hypsos.desk.frame import Frame
from hypsos.desk.services import settings as remembered
from hypsos.desk.theme.look import load_fonts, look

# What computes is dear to import: the functions below do so once the frame is on the screen.
if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench
    from hypsos.desk.window import Window
    from hypsos.hangar import Hangar

FIRST = "Samphire"
DAILY_MS = 4000
"""The back-up of the day is made when the window has come to rest."""
FRAMED_MS = 150
"""After the first picture: by then the desktop has put its frame round the window."""


def application(theme: str | None = None) -> QApplication:
    """The Qt application with the shipped font and our look."""
    app = undressed(theme)
    dress()
    return app


def dress() -> None:
    """Put font and look on the application."""
    load_fonts()
    look.apply()


def undressed(theme: str | None = None) -> QApplication:
    """The Qt application with the colours of the ground, which is all that the frame needs."""
    found = QApplication.instance()
    app = (
        found
        if isinstance(found, QApplication)
        else QApplication([*sys.argv[:1], "-style", "Fusion"])
    )
    app.setApplicationName("Hypsos")
    if theme is None:
        remembered.take_look()
    else:
        look.take_theme(theme)
    return app


def open_workbench(hangar: Hangar, wanted: str | None = None) -> Workbench:
    """A workbench on a hangar, with the wanted model on the bench, or its first one, or none when
    it is empty."""
    from hypsos.desk.services.workbench import Workbench

    names = hangar.names()
    workbench = Workbench(hangar)
    for name in ([wanted] if wanted in names else []) + names:
        if name is not None:
            try:
                workbench.document.open(name)
                break
            except DocumentError:  # the page of models says which cannot be read, and what to do
                continue
    return workbench


class Desk:
    """The window on one hangar, and its change to another: from one's own to the demo's and
    back."""

    def __init__(self, app: QApplication, folders: ExitStack) -> None:
        self.app, self._folders = app, folders
        self.frame = Frame()
        self.window: Window | None = None

    def open(self, demo: bool) -> Window:
        """Open the window on a hangar, in the place of the one that is open. Raises HypsosError;
        that one then stays."""
        from hypsos.core.rundown import STEPS
        from hypsos.desk.services.preload import Preload
        from hypsos.desk.widgets.long_press import LongPress
        from hypsos.desk.window import Window
        from hypsos.hangar import Hangar
        from hypsos.hangar.places import demo_hangar, passing_folder, user_hangar

        hangar = (
            demo_hangar(self._folders.enter_context(passing_folder()))
            if demo
            else Hangar(user_hangar())
        )
        if hangar.read_only and not hangar.names():
            raise HangarError(
                "the hangar is empty and cannot be written",
                str(hangar.path),
                "Change its permissions.",
            )
        window = Window(open_workbench(hangar, FIRST if demo else remembered.text("model")))
        window.first_step = STEPS[0].key if demo else remembered.step()
        window.hangar_wanted.connect(
            lambda other: window.workbench.notices.attempt(lambda: self._change(other))
        )
        if hangar.read_only:
            window.notice.say(
                f"{hangar.path}: the hangar can be read and not written. Edits will not be taken."
            )
        sys.excepthook = lambda kind, error, trace: _caught(window, kind, error, trace)
        threading.excepthook = lambda args: _in_a_thread(args)
        self.frame.come_back.connect(window.come_back)
        before, self.window = self.window, window
        if before is None:
            window.bench.aeroplane.first_painted.connect(lambda: Preload(self.app))
            framed = QTimer(window)
            framed.setSingleShot(True)
            framed.setInterval(FRAMED_MS)
            framed.timeout.connect(lambda: remembered.frame_in_sight(self.frame))
            window.bench.aeroplane.first_painted.connect(framed.start)
        else:
            remembered.keep(before, with_model=not before.workbench.document.hangar.passing)
        self.frame.hold(window)
        self.frame.show()
        if not demo and not hangar.read_only:
            daily = QTimer(window)
            daily.setSingleShot(True)
            daily.timeout.connect(lambda: _keep_of_the_day(window))
            daily.start(DAILY_MS)
        handle = self.frame.windowHandle()
        if before is None and handle is not None:
            LongPress(handle)
        window.rundown.setFocus()
        return window

    def open_or_rescue(self, demo: bool) -> Window | None:
        """Open the window. Where the pilot's own hangar is damaged and there is a sound back-up, that
        one is offered first; None where the frame was closed then. Raises HypsosError."""
        from hypsos.hangar.places import user_hangar
        from hypsos.hangar.restoring import newest_sound, restore

        try:
            return self.open(demo)
        except HangarDamaged as error:
            newest = newest_sound(user_hangar())
            if newest is None:
                raise
            from hypsos.desk.rescue import Rescue

            rescue = Rescue(error, newest)
            self.frame.setCentralWidget(rescue)
            said = ""
            while not said:
                if not rescue.answered(self.frame):
                    return None
                try:
                    said = restore(newest.path, user_hangar()).words
                except HypsosError as problem:
                    rescue.complain(problem)
            window = self.open(demo)
            window.notice.say(said)
            return window

    def appear(self) -> None:
        """The frame is on the screen, where it was, before the work that goes into it."""
        remembered.place(self.frame)
        self.frame.appear(dress)

    def _change(self, demo: bool) -> None:
        self.open(demo)

    def end(self) -> None:
        """The window goes while Qt still stands."""
        assert self.window is not None
        remembered.keep(self.window, with_model=not self.window.workbench.document.hangar.passing)
        sys.excepthook = sys.__excepthook__
        self.frame.deleteLater()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def run(demo: bool, theme: str | None = None, file: str | None = None) -> int:
    """Open the window and stay until it is closed, on the model in ``file`` where one is named.
    Returns the exit status."""
    app = undressed(theme)
    with ExitStack() as folders:
        desk = Desk(app, folders)
        desk.appear()
        if not desk.frame.isVisible():  # the pilot has closed it already
            return 0
        opened = desk.open_or_rescue(demo)
        if opened is None:
            return 0
        window = opened
        if file is not None:
            window.workbench.notices.attempt(
                lambda: window.workbench.document.show_file(Path(file)), placed=True
            )
        if os.environ.get("HYPSOS_QUIT_AFTER_PAINT"):  # where only the start is measured
            window.bench.aeroplane.first_painted.connect(
                lambda: QTimer.singleShot(0, lambda: (os.write(1, b"painted\n"), app.quit()))
            )
        with _stops_on_signals(app):
            status = app.exec()
        desk.end()
    return status


def _keep_of_the_day(window: Window) -> None:
    """The back-up of the day, beside the window."""
    from hypsos.desk.services.background import aside
    from hypsos.hangar.backups import back_up_daily

    path = window.workbench.document.hangar.path

    def failed(sentence: str) -> None:
        window.notice.say(f"The back-up of the day could not be made. {sentence}")

    aside(window, lambda: back_up_daily(path), lambda _made: None, failed)


def _caught(
    window: Window, _kind: type[BaseException], error: BaseException, trace: TracebackType | None
) -> None:
    """A mistake of ours: written to the log and said in the window; every finished edit is saved
    already."""
    if isinstance(error, HypsosError):  # said in our words already
        window.notice.say(error.plain)
        return
    from hypsos.hangar.faults import record

    report = record(error.with_traceback(trace), "window", window.workbench.document.last_act)
    window.workbench.notices.fault(report)


def _in_a_thread(args: threading.ExceptHookArgs) -> None:
    """A mistake in a thread that nobody waits for: it is in the log."""
    if args.exc_value is not None:
        from hypsos.hangar.faults import record

        record(args.exc_value, "thread", args.thread.name if args.thread is not None else "")


@contextmanager
def _stops_on_signals(app: QApplication) -> Iterator[None]:
    """Ctrl-C and a polite kill close the window as a pilot would, so that nothing is left
    behind."""
    ours, theirs = socket.socketpair()
    theirs.setblocking(False)
    notifier = QSocketNotifier(ours.fileno(), QSocketNotifier.Type.Read)  # type: ignore[call-overload]
    notifier.activated.connect(lambda: (ours.recv(64), app.closeAllWindows(), app.quit()))
    heard = [signal.SIGINT, signal.SIGTERM]
    if signal.getsignal(signal.SIGHUP) != signal.SIG_IGN:  # nohup asks to be left alone
        heard.append(signal.SIGHUP)
    before = {n: signal.signal(n, lambda *_: None) for n in heard}
    # a signal's number is written there, whatever Qt is waiting for
    wake = signal.set_wakeup_fd(theirs.fileno())
    try:
        yield
    finally:
        signal.set_wakeup_fd(wake)
        for number, handler in before.items():
            signal.signal(number, handler)
        notifier.setEnabled(False)
        ours.close()
        theirs.close()
