# SPDX-License-Identifier: GPL-3.0-or-later
"""The shakedown in a process of its own: it reads what to search, and writes how far it is and what
it found.

Started by :mod:`hypsos.desk.services.search_client`; it ends when its input does."""

from __future__ import annotations

import os
import queue
import sys
import threading
from typing import TYPE_CHECKING, Any, NamedTuple, cast

from hypsos.core.base.errors import HypsosError
from hypsos.core.review.findings import Ask, Finding
from hypsos.hangar.faults import record
from hypsos.process_messages import receive, send

if TYPE_CHECKING:
    from hypsos.core.parts.transmitter_profile import Profile
    from hypsos.core.schools.proof_memory import ProofMemory

NICE = 10
"""The window goes first."""


class SearchJob(NamedTuple):
    """Something to work out: a model's findings, what two models do differently, repairs of a
    finding, what takes its time of a sheet, or what other settings would do."""

    number: int
    kind: str
    ask: Ask
    other: Any = None


class SearchReply(NamedTuple):
    """An answer to a job: ``progress`` (share, what), ``found``, ``failed`` (a sentence), ``broke``
    (what kind of error that nobody foresaw, the report), ``overtaken`` by a newer job of its
    kind."""

    number: int
    kind: str
    content: Any


def main() -> None:
    """Serve jobs until the input ends. A newer job of a kind stops the one under way; ``stop``
    stops any."""
    os.nice(NICE)
    out, jobs = sys.stdout.buffer, queue.Queue[SearchJob | None]()
    newest: dict[str, int] = {}
    stopped: set[int] = set()

    def listen() -> None:
        while (job := receive(sys.stdin.buffer)) is not None:
            if job.kind == "stop":
                stopped.add(job.number)
                continue
            newest[job.kind] = job.number
            jobs.put(job)
        os._exit(0)

    threading.Thread(target=listen, daemon=True).start()
    kept = KeptWork()
    while (job := jobs.get()) is not None:
        if newest[job.kind] != job.number:
            send(out, SearchReply(job.number, "overtaken", None))
            continue
        number, kind = job.number, job.kind

        def gone(number: int = number, kind: str = kind) -> bool:
            return newest[kind] != number or number in stopped

        def progress(share: float, what: str, number: int = number) -> None:
            send(out, SearchReply(number, "progress", (share, what)))

        try:
            done = _done(kept, job, gone, progress)
            send(out, SearchReply(number, "found" if newest[kind] == number else "overtaken", done))
        except HypsosError as error:
            send(out, SearchReply(number, "failed", error.plain))
        except Exception as error:  # noqa: BLE001  whoever waits is told, whatever it is; the next job is served
            report = record(error, "search", f"{kind} of {job.ask.model.name}")
            send(out, SearchReply(number, "broke", (type(error).__name__, report)))
            kept = KeptWork()


class KeptWork:
    """What is kept from job to job, so that an edit has only that worked out anew which it
    reaches."""

    def __init__(self) -> None:
        from hypsos.core.review.shakedown import ShakedownSearch

        self.shaker = ShakedownSearch()
        self._proofs: ProofMemory | None = None

    def proofs(self) -> ProofMemory:
        """The outputs that were proved last."""
        if self._proofs is None:
            from hypsos.core.schools.proof_memory import ProofMemory

            self._proofs = ProofMemory()
        return self._proofs


def _done(kept: KeptWork, job: SearchJob, gone: Any, progress: Any) -> Any:
    if job.kind == "shake":
        from hypsos.core.review.shakedown import foreseen_words

        progress(0.0, foreseen_words(job.ask.model))
        return kept.shaker.run(job.ask, (), progress, gone)
    if job.kind == "key":
        from hypsos.core.schools.keying import keying
        from hypsos.core.sheet.keyed_work import work_out

        profile = cast("Profile", job.ask.profile)
        return work_out(keying(job.ask.model, profile), progress, gone, kept.proofs())
    if job.kind == "read":
        from hypsos.core.schools.keying import keying, proved

        profile, other = cast("tuple[Profile, Any]", (job.ask.profile, job.other))
        return proved(keying(job.ask.model, profile), other, progress, gone).difference
    if job.kind == "compare":
        from hypsos.core.review.compare_models import compared

        return compared(job.ask.model, job.other, gone, progress)
    from hypsos.core.review.repairs import repairs, tried

    finding: Finding = job.other
    before = kept.shaker.run(job.ask, (), lambda *_: None, gone)
    out, offered = [], repairs(job.ask.model, finding)
    for k, repair in enumerate(offered):
        if gone():
            break
        progress(k / len(offered), f"Trying {k + 1} of {len(offered)}: {repair.words}")
        out.append(tried(job.ask, finding, repair, before, gone))
    return tuple(x for x in out if x.gone)
