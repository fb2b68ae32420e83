"""Starting the window."""

from __future__ import annotations

import os
import signal
import socket
import sys
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QEvent, QSocketNotifier, QTimer
from PyQt6.QtWidgets import QApplication

from hypsos.core.errors import DocumentError, HangarError
from hypsos.core.rundown import STEPS
from hypsos.desk import remembered
from hypsos.desk.theme.look import load_fonts, look
from hypsos.desk.window import Window
from hypsos.desk.workbench import Workbench
from hypsos.hangar import Hangar
from hypsos.hangar.places import demo_hangar, passing_folder, user_hangar

FIRST = "Samphire"


def application(theme: str | None = None) -> QApplication:
    """The Qt application with the shipped font and our look."""
    found = QApplication.instance()
    app = found if isinstance(found, QApplication) else QApplication([*sys.argv[:1], "-style", "Fusion"])
    app.setApplicationName("Hypsos")
    load_fonts()
    if theme is None:
        remembered.put_on_look()
    else:
        look.set_theme(theme)
    return app


def open_workbench(hangar: Hangar, wanted: str | None = None) -> Workbench:
    """A workbench on a hangar, with the wanted model on the bench, or its first one, or none when it is empty."""
    names = hangar.names()
    workbench = Workbench(hangar)
    for name in ([wanted] if wanted in names else []) + names:
        if name is not None:
            try:
                workbench.open(name)
                break
            except DocumentError:  # the page of models says which cannot be read, and what to do
                continue
    return workbench


def run(demo: bool, theme: str | None = None) -> int:
    """Open the window and stay until it is closed. Returns the exit status."""
    app = application(theme)
    with passing_folder() if demo else nullcontext(Path()) as folder:
        hangar = demo_hangar(folder) if demo else Hangar(user_hangar())
        if hangar.read_only and not hangar.names():
            raise HangarError("the hangar is empty and cannot be written", str(hangar.path), "Change its permissions.")
        last = FIRST if demo else remembered.text("model")
        window = Window(open_workbench(hangar, last))
        window.first_step = STEPS[0].key if demo else remembered.step()
        if hangar.read_only:
            window.notice.say(f"{hangar.path}: the hangar can be read and not written. Edits will not be taken.")
        sys.excepthook = lambda kind, error, trace: _caught(window, kind, error, trace)
        remembered.place(window)
        window.show()
        if os.environ.get("HYPSOS_QUIT_AFTER_PAINT"):  # where only the start is measured
            window.bench.aeroplane.first_painted.connect(
                lambda: QTimer.singleShot(0, lambda: (os.write(1, b"painted\n"), app.quit()))
            )
        with _stops_on_signals(app):
            status = app.exec()
        remembered.keep(window, with_model=not demo)
        _taken_down(app, window)
    return status


def _taken_down(app: QApplication, window: Window) -> None:
    """The window goes while Qt still stands."""
    sys.excepthook = sys.__excepthook__
    window.deleteLater()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def _caught(window: Window, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """A mistake of ours: say so in the window and go on; every finished edit is saved already."""
    sys.__excepthook__(kind, error, trace)
    window.notice.say(f"Something went wrong inside Hypsos ({error}). Your edits are saved; please start it again.")


@contextmanager
def _stops_on_signals(app: QApplication) -> Iterator[None]:
    """Ctrl-C and a polite kill close the window as a pilot would, so that nothing is left behind."""
    ours, theirs = socket.socketpair()
    theirs.setblocking(False)
    notifier = QSocketNotifier(ours.fileno(), QSocketNotifier.Type.Read)  # type: ignore[call-overload]
    notifier.activated.connect(lambda: (ours.recv(64), app.closeAllWindows(), app.quit()))
    before = {n: signal.signal(n, lambda *_: None) for n in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)}
    wake = signal.set_wakeup_fd(theirs.fileno())  # a signal's number is written there, whatever Qt is waiting for
    try:
        yield
    finally:
        signal.set_wakeup_fd(wake)
        for number, handler in before.items():
            signal.signal(number, handler)
        notifier.setEnabled(False)
        ours.close()
        theirs.close()
