# SPDX-License-Identifier: GPL-3.0-or-later
"""What the model says, heard and seen: a tone for how urgent it is, a spoken caption where the
system has a voice.

Everything is found when it is first wanted, and nothing of it is needed: without sound or voice the
captions are still read."""

from __future__ import annotations

import os
import shutil
from contextlib import suppress
from importlib.resources import files
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QLoggingCategory, QObject, QProcess, QUrl, pyqtSignal

from hypsos.core.engine import Result, Situation
from hypsos.core.engine.announcements import Spoken
from hypsos.desk.services import settings as remembered
from hypsos.desk.session.simulation import Simulation

VOICES = (("spd-say", ("-w", "--")), ("espeak-ng", ("--",)))
"""Programs that speak a text, and the words before it, the better known first."""
MOST_WAITING = 12
"""Captions that wait for the voice of the system at the most; those beyond are read on the screen
only."""


class Speaker(QObject):
    """Follows the bench and says what it says."""

    said = pyqtSignal(object)
    """A caption, to be shown."""
    muted_changed = pyqtSignal()

    def __init__(self, bench: Simulation) -> None:
        super().__init__(bench)
        self.muted = remembered.text("muted") == "true"
        self.waiting: list[str] = []
        self._process: QProcess | None = None
        self._command: tuple[str, tuple[str, ...]] | None = None
        self._looked = False
        self._tones: dict[str, Any] | None = None
        bench.followers.append(self._hear)

    def mute(self, muted: bool) -> None:
        """Hear nothing any more, or hear again; captions are shown all the same."""
        self.muted = muted
        remembered.remember("muted", "true" if muted else "false")
        if muted:
            self.waiting.clear()
            if self._process is not None:
                self._process.kill()
        self.muted_changed.emit()

    def stop(self) -> None:
        """Say nothing any more; the window is going."""
        self.waiting.clear()
        self._looked, self._command = True, None
        if self._process is not None:
            process, self._process = self._process, None
            process.blockSignals(True)
            process.kill()
            process.waitForFinished(500)

    def say(self, spoken: Spoken) -> None:
        """Show a caption, and let it be heard."""
        self.said.emit(spoken)
        if self.muted:
            return
        self._tone(spoken.rank)
        self._speak(spoken.caption)

    def _hear(self, result: Result, _: Situation) -> None:
        for spoken in result.said:
            self.say(spoken)

    # -- spoken ----------------------------------------------------------------------------------

    @property
    def command(self) -> tuple[str, tuple[str, ...]] | None:
        """The program that speaks, and the words before the text; None where there is none."""
        if not self._looked:
            self._looked = True
            found = ((shutil.which(name), words) for name, words in VOICES)
            self._command = next(((path, words) for path, words in found if path is not None), None)
        return self._command

    def _speak(self, caption: str) -> None:
        if self.command is None or len(self.waiting) >= MOST_WAITING:
            return
        self.waiting.append(caption)
        self._go_on()

    def _go_on(self) -> None:
        if self._process is not None or not self.waiting or self.command is None:
            return
        path, words = self.command
        self._process = made = QProcess(self)
        made.setStandardOutputFile(QProcess.nullDevice())
        made.setStandardErrorFile(QProcess.nullDevice())
        made.finished.connect(lambda code, _: self._finished(code == 0))
        made.errorOccurred.connect(lambda error: self._failed(error))
        made.start(path, [*words, self.waiting.pop(0)])

    def _finished(self, well: bool) -> None:
        if self._process is not None:
            self._process.deleteLater()
            self._process = None
        if not well and not self.muted:  # a program that cannot speak is not asked again
            self._command = None
            self.waiting.clear()
        self._go_on()

    def _failed(self, error: QProcess.ProcessError) -> None:
        if error == QProcess.ProcessError.FailedToStart:
            self._finished(False)

    # -- tones -----------------------------------------------------------------------------------

    def _tone(self, rank: str) -> None:
        if self._tones is None:
            self._tones = _tones(self)
        if rank in self._tones:
            self._tones[rank].play()


def _has_sound_server() -> bool:
    """Whether there is anything that plays sound; without, the sound library would complain on the
    terminal."""
    folder = os.environ.get("XDG_RUNTIME_DIR", "")
    return bool(os.environ.get("PULSE_SERVER")) or (
        bool(folder) and (Path(folder) / "pulse" / "native").exists()
    )


def _tones(parent: QObject) -> dict[str, Any]:
    """Rank -> its tone, ready to be played; none where the system plays no sound."""
    if not _has_sound_server():
        return {}
    with suppress(ImportError):
        QLoggingCategory.setFilterRules("qt.multimedia*=false\nqt.pulseaudio*=false")
        from PyQt6.QtMultimedia import QMediaDevices, QSoundEffect

        if QMediaDevices.defaultAudioOutput().isNull():
            return {}
        out = {}
        for rank in ("danger", "state", "remark"):
            made = QSoundEffect(parent)
            made.setSource(QUrl.fromLocalFile(str(files("hypsos.desk") / "sounds" / f"{rank}.wav")))
            out[rank] = made
        return out
    return {}
