# SPDX-License-Identifier: GPL-3.0-or-later
"""The shakedown of the model on the bench: after every edit, beside the window, in a process of its
own."""

from __future__ import annotations

import atexit
import itertools
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from datetime import date
from textwrap import shorten
from typing import Any, NamedTuple

from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QObject, QTimer, pyqtSignal

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.review.findings import Ask, Finding, Shakedown
from hypsos.core.review.search_words import not_proved, short_words
from hypsos.core.rundown import Attention
from hypsos.desk.services.search_server import SearchJob, SearchReply
from hypsos.desk.session.document_session import DocumentSession
from hypsos.hangar.faults import record
from hypsos.process_messages import receive, send

REST_MS = 500
"""An edit rests so long before it is searched."""
SHORT = 72
"""Letters of a finding in the strip below the page; its card has all of them."""
NOT_YET = "not shaken yet"
BY_ITSELF = True
"""Whether every edit is searched without being asked."""


class Worker(QObject):
    """A process, started when it is first needed; one for the whole program and each sort of
    work."""

    said = pyqtSignal(object)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__(QCoreApplication.instance())
        self._process: subprocess.Popen[bytes] | None = None
        self._numbers = itertools.count(1)
        atexit.register(self.end)

    def ask(self, kind: str, ask: Ask, other: object = None) -> int:
        """Hand in a job; its number. Raises HypsosError where no process can be started."""
        number = next(self._numbers)
        self._send(SearchJob(number, kind, ask, other))
        return number

    def stop(self, number: int) -> None:
        """Stop a job; what it found is still told."""
        if self._process is not None:
            with suppress(OSError, HypsosError):
                self._send(SearchJob(number, "stop", None))  # type: ignore[arg-type]

    def _send(self, job: SearchJob) -> None:
        process = self._process
        if process is None or process.poll() is not None:
            process = self._start()
        assert process.stdin is not None
        try:
            send(process.stdin, job)
        except OSError as error:
            self._process = None
            raise HypsosError(
                "the search has ended", "", "It begins anew with the next edit."
            ) from error

    def _start(self) -> subprocess.Popen[bytes]:
        # -P: nothing is taken from the folder in which the program was started; a file there called
        # queue.py would run
        command = [
            sys.executable,
            "-P",
            "-c",
            "from hypsos.desk.services.search_server import main; main()",
        ]
        try:
            made = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE
            )
        except OSError as error:
            raise HypsosError(
                "the search cannot be started", "", "The command hypsos shakedown does the same."
            ) from error
        self._process = made
        threading.Thread(target=self._listen, args=(made,), daemon=True).start()
        threading.Thread(target=_write_down, args=(made,), daemon=True).start()
        return made

    def _listen(self, process: subprocess.Popen[bytes]) -> None:
        assert process.stdout is not None
        with suppress(RuntimeError, OSError, EOFError):  # Qt or the process is gone
            while (said := receive(process.stdout)) is not None:
                self.said.emit(said)
            self.ended.emit()

    def end(self) -> None:
        """Let the process go."""
        process, self._process = self._process, None
        if process is not None:
            with suppress(OSError):
                process.kill()
                process.wait(1)


def _write_down(process: subprocess.Popen[bytes]) -> None:
    """What the process complains of goes into the log."""
    assert process.stderr is not None
    with suppress(OSError, ValueError):
        said = process.stderr.read().decode(errors="replace").strip()
        if said:
            record(said, "search")


_workers: dict[str, Worker] = {}


def _asked_about(model: Model) -> Model:
    return model.changed({"note": "", "sheet_of": ""})


def worker(of: str = "search") -> Worker:
    """The one process of this program for a sort of work."""
    if of not in _workers:
        _workers[of] = Worker()
    return _workers[of]


class _Waiting(NamedTuple):
    """Who waits for something to be worked out, and what is told: what came of it, why not, how far
    it is."""

    owner: QObject
    then: Callable[[Any], None]
    failed: Callable[[str], None]
    progress: Callable[[str], None]


class SearchClient(QObject):
    """What the search says of the model on the bench, as soon as it is known."""

    changed = pyqtSignal()
    """Findings are known, or known anew."""
    went_on = pyqtSignal()
    """A search has begun, come further, or ended."""

    def __init__(self, document: DocumentSession) -> None:
        super().__init__(document)
        self.document = document
        self.found: Shakedown | None = None
        self.share: float | None = None
        """How far a search is that is under way."""
        self.what = ""
        self.foreseen = ""
        """What is to be known of a search that cannot be finished, from before it begins."""
        self.fault = ""
        """Why there is no search, where it could not be made."""
        self._of: Model | None = None
        self._asked: tuple[int, Model] | None = None
        self._answers: dict[int, _Waiting] = {}
        self._over = False
        """Whether the window has gone."""
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(REST_MS)
        self._wait.timeout.connect(self.search)
        worker().said.connect(self._said)
        worker().ended.connect(self._ended)
        document.simulation.model_changed.connect(self._model_changed)
        self._model_changed()

    @property
    def current(self) -> bool:
        """Whether what was found is of the model as it is now."""
        return self.found is not None and self._of is self.document.state.model

    def current_for(self, model: Model) -> bool:
        """Whether what was found holds of this model too: nothing differs but what no statement
        asks about."""
        return (
            self.found is not None
            and self._of is not None
            and _asked_about(self._of) == _asked_about(model)
        )

    @property
    def under_way(self) -> bool:
        """Whether a search goes on, or is about to begin."""
        return self._asked is not None or self._wait.isActive()

    def state(self) -> str:
        """How far the model as it is now has been searched: the same words in the run-down, on the
        page and on paper."""
        if self.current and self.found is not None:
            return f"shaken at digest {self.found.digest}"
        if self.under_way:
            return "searching"
        return NOT_YET if self.found is None else "not shaken since this edit"

    def proof(self) -> tuple[str, ...]:
        """What a sheet says of the search."""
        if self.current and self.found is not None:
            from hypsos.core.review.report import proof_lines

            return proof_lines(self.found, f"{date.today():%-d %B %Y}")
        return not_proved(self.state())

    def attentions(self) -> list[Attention]:
        """Dangers and faults, for the run-down."""
        if not self.current or self.found is None:
            return []
        said = [shorten(f.text, SHORT, placeholder=" …") for f in self.found.findings]
        open_ = [i for i, f in enumerate(self.found.findings) if f.level != "advice"]
        return [Attention("shake", said[i], f"found:{i}") for i in open_]

    def words(self, short: bool = False) -> str:
        """What was found of the model as it is now, in a few words or in marks; or how far the
        search is."""
        model = self.document.state.model
        if model is None:
            return ""
        return (
            short_words(self.found, short)
            if self.current and self.found is not None
            else self.state()
        )

    def ask(self) -> Ask:
        """The model on the bench with what the hangar knows besides."""
        model = self.document.state.loaded
        others: dict[str, int] = {}
        profile = None
        with suppress(HypsosError):
            others = {n: x for n, x in self.document.hangar.receivers().items() if n != model.name}
            profile = next(
                (
                    p
                    for p in self.document.hangar.transmitters()
                    if p.name == model.transmitter.taken
                ),
                None,
            )
        return Ask(model, profile, others)

    def search(self) -> None:
        """Search the model on the bench now."""
        model = self.document.state.model
        if (
            self._over
            or model is None
            or self.current
            or (self._asked is not None and self._asked[1] is model)
        ):
            return
        try:
            self._asked = (worker().ask("shake", self.ask()), model)
        except HypsosError as error:
            self.fault = error.plain
            self.went_on.emit()
            return
        self.fault, self.share, self.what = "", 0.0, ""
        self.went_on.emit()

    def again(self) -> None:
        """Search it once more."""
        self._of = self._asked = None
        self.search()

    def end(self) -> None:
        """The window has gone: nothing is searched for it any more.

        Without this a model that nobody sees would be asked about again and again, and each time
        put the search of the window that is there aside."""
        self.stop()
        self._over = True
        self._wait.stop()
        self._asked = None
        self._answers.clear()

    def stop(self) -> None:
        """Stop the search under way; what it has found is kept."""
        if self._asked is not None:
            worker().stop(self._asked[0])

    def stop_answer(self, owner: QObject) -> None:
        """Stop what an owner waits for; as far as it has come it is told."""
        for number, waiting in self._answers.items():
            if waiting.owner is owner:
                worker().stop(number)

    def answer(
        self,
        owner: QObject,
        kind: str,
        ask: Ask,
        other: object,
        then: Callable[[Any], None],
        failed: Callable[[str], None],
        progress: Callable[[str], None] = lambda _words: None,
    ) -> None:
        """Have something else worked out over there: a comparison, or repairs. When the owner is
        gone by then, nothing happens. ``progress`` is told in words what is being done."""
        try:
            self._answers[worker().ask(kind, ask, other)] = _Waiting(owner, then, failed, progress)
        except HypsosError as error:
            failed(error.plain)

    def _model_changed(self) -> None:
        model = self.document.state.model
        if model is None or model is self._of:
            return
        if self.current_for(model):
            self._of = model
            return
        if self.found is not None and self.found.model != model.name:
            self.found = None
        if BY_ITSELF:
            self._wait.start()

    def _answered(self, said: SearchReply) -> None:
        """Hand on what was said to whoever waits for it."""
        waiting = (
            self._answers[said.number]
            if said.kind == "progress"
            else self._answers.pop(said.number)
        )
        if sip.isdeleted(waiting.owner):
            return
        if said.kind == "progress":
            waiting.progress(said.content[1])
        elif said.kind == "overtaken":
            waiting.failed("Something newer was asked. Ask again.")
        elif said.kind == "broke":
            waiting.failed(self._broke(said.content))
        else:
            (waiting.then if said.kind == "found" else waiting.failed)(said.content)

    def _said(self, said: SearchReply) -> None:
        if said.number in self._answers:
            self._answered(said)
            return
        if self._asked is None or said.number != self._asked[0]:
            return
        if said.kind == "progress":
            share, what = said.content
            if self.share == 0.0 and not self.what:  # the first thing told is what is foreseen
                self.foreseen = what
            self.share, self.what = share, what or "all that can be brought about"
        else:
            _, model = self._asked
            self._asked, self.share = None, None
            if said.kind == "overtaken":  # another window, or a newer edit, was asked about since
                self._wait.start()
            elif said.kind == "broke":
                self.fault = self._broke(said.content)
            elif said.kind == "failed":
                self.fault = f"The search went wrong ({said.content}). The bench and your edits are not touched."
            elif model is self.document.state.model or self.found is None:
                self.found, self._of = said.content, model
                self.changed.emit()
            if model is not self.document.state.model:
                self._wait.start()
        self.went_on.emit()

    def _broke(self, content: tuple[str, str]) -> str:
        """An error that nobody foresaw: the report is offered, and a sentence handed back."""
        kind, report = content
        self.document.notices.fault(report)
        return f"The search went wrong in a way that nobody foresaw ({kind}). The bench and your edits are not touched."

    def _ended(self) -> None:
        """The process is gone: whoever waits for it is told."""
        for waiting in self._answers.values():
            if not sip.isdeleted(waiting.owner):
                waiting.failed("The search has ended. Ask again.")
        self._answers.clear()
        if self._asked is not None:
            self._asked, self.share = None, None
            self.fault = "The search has ended. It begins anew with the next edit."
            self.went_on.emit()

    def finding(self, path: str) -> Finding | None:
        """The finding behind a path of the run-down."""
        if self.found is None or not path.startswith("found:"):
            return None
        index = int(path[6:])
        return self.found.findings[index] if index < len(self.found.findings) else None
