# SPDX-License-Identifier: GPL-3.0-or-later
"""Long work beside the window: done in a thread of its own, its result handed back in the
window's."""

from __future__ import annotations

import atexit
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QObject, pyqtSignal

from hypsos.core.base.errors import HypsosError
from hypsos.hangar.faults import record

SEE_LOG = "It is in the log, and your edits are saved."
PATIENCE_S = 1.0
"""How long the end of the program waits, at the most, for work that is under way."""
_telling = threading.Lock()
_running: set[threading.Thread] = set()
_over = threading.Event()


@atexit.register
def _end() -> None:
    """From here on no thread tells anything: what it would tell it to is about to be gone."""
    with _telling:
        _over.set()
    patient = time.monotonic() + PATIENCE_S
    for thread in tuple(_running):
        thread.join(max(0.0, patient - time.monotonic()))


class _Errand(QObject):
    done = pyqtSignal(object)
    failed = pyqtSignal(str)


def aside(
    owner: QObject,
    work: Callable[[], Any],
    then: Callable[[Any], None],
    failed: Callable[[str], None],
) -> None:
    """Do some work in a thread; ``then`` gets its result, ``failed`` the sentence of what went
    wrong, in the owner's thread.

    What nobody foresaw is written to the log, and ``failed`` is called as well: whoever waits is
    always told. When the owner is gone by then, nothing happens."""
    # the application's child, so that it outlives its owner, and no thread but this one ever takes
    # it away
    errand = _Errand(QCoreApplication.instance())

    def finish(result: Any) -> None:
        errand.deleteLater()
        if not sip.isdeleted(owner):
            then(result)

    def fail(sentence: str) -> None:
        errand.deleteLater()
        if not sip.isdeleted(owner):
            failed(sentence)

    errand.done.connect(finish)
    errand.failed.connect(fail)

    def run() -> None:
        try:
            try:
                told, value = errand.done, work()
            except HypsosError as error:
                told, value = errand.failed, str(error)
            except Exception as error:  # noqa: BLE001  what nobody foresaw: told and written down, whatever it is
                record(error, "work beside the window", getattr(work, "__qualname__", ""))
                told, value = (
                    errand.failed,
                    f"Something went wrong that nobody foresaw ({type(error).__name__}). {SEE_LOG}",
                )
            with _telling, suppress(RuntimeError):  # Qt is gone
                if not _over.is_set():
                    told.emit(value)
        finally:
            _running.discard(threading.current_thread())

    thread = threading.Thread(target=run, daemon=True)
    _running.add(thread)
    thread.start()
