"""Long work beside the window: done in a thread of its own, its result handed back in the window's."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QObject, pyqtSignal

from hypsos.core.ground.errors import HypsosError


class _Errand(QObject):
    done = pyqtSignal(object)
    failed = pyqtSignal(str)


def aside(owner: QObject, work: Callable[[], Any], then: Callable[[Any], None], failed: Callable[[str], None]) -> None:
    """Do some work in a thread; ``then`` gets its result, ``failed`` the sentence of a HypsosError, in the owner's thread.

    When the owner is gone by then, nothing happens.
    """
    # the application's child, so that it outlives its owner, and no thread but this one ever takes it away
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
            told, value = errand.done, work()
        except HypsosError as error:
            told, value = errand.failed, str(error)
        with suppress(RuntimeError):  # Qt is gone
            told.emit(value)

    threading.Thread(target=run, daemon=True).start()
