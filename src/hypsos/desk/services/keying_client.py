# SPDX-License-Identifier: GPL-3.0-or-later
"""What takes its time of a sheet, worked out in a process of its own: costs, proof, checks. What is
known of a design on a transmitter is remembered."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from PyQt6.QtCore import QObject, pyqtSignal

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model, digest
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.review.findings import Ask
from hypsos.core.sheet.keyed_work import KeyedWork
from hypsos.desk.services import search_client
from hypsos.desk.services.search_client import Worker, worker
from hypsos.desk.services.search_server import SearchReply

if TYPE_CHECKING:
    from hypsos.core.schools.proof import PulseDifference

MOST = 40
"""So many designs are remembered."""
Key = tuple[str, str]


class ReadBack(NamedTuple):
    """Who waits for a figure that was read back, and hears how far that is."""

    then: Callable[[PulseDifference | None, str], None]
    told: Callable[[float], None]


class KeyingClient(QObject):
    """Asks for one design at a time; a newer one stops the one under way."""

    changed = pyqtSignal()
    """Something is known, has come further, or has ended."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.share: float | None = None
        """How far the work is that is under way."""
        self.what = ""
        self.fault = ""
        """Why there is no result, where it could not be made."""
        self._reads: dict[int, ReadBack] = {}
        self._known: OrderedDict[Key, KeyedWork] = OrderedDict()
        self._asked: tuple[int, Key] | None = None
        self._over = False
        self._worker().said.connect(self._said)
        self._worker().ended.connect(self._ended)
        self._reader().said.connect(self._read)
        self._reader().ended.connect(self._reading_ended)

    @staticmethod
    def _worker() -> Worker:
        return worker("keying")

    @staticmethod
    def _reader() -> Worker:
        """A process of its own plays what was read back: whoever stands beside the transmitter does
        not wait until the proof is done."""
        return worker("reading")

    @staticmethod
    def _key(model: Model, profile: Profile) -> Key:
        return digest(model), profile.model_dump_json()

    @property
    def under_way(self) -> bool:
        """Whether something is worked out."""
        return self._asked is not None

    def known(self, model: Model, profile: Profile) -> KeyedWork | None:
        """What is known of a design on a transmitter."""
        return self._known.get(self._key(model, profile))

    def follow(self, model: Model, profile: Profile) -> None:
        """Have a design worked out that is looked at, where that goes by itself."""
        if search_client.BY_ITSELF:
            self.begin(model, profile)

    def begin(self, model: Model, profile: Profile) -> None:
        """Have a design worked out, where that is not known and not under way."""
        key = self._key(model, profile)
        if self._over or key in self._known or (self._asked is not None and self._asked[1] == key):
            return
        try:
            number = self._worker().ask("key", Ask(model, profile, {}))
        except HypsosError as error:
            self._asked, self.share, self.fault = None, None, error.plain
        else:
            self._asked, self.share, self.what, self.fault = (number, key), 0.0, "", ""
        self.changed.emit()

    def read_back(
        self,
        model: Model,
        profile: Profile,
        other: object,
        then: Callable[[PulseDifference | None, str], None],
        told: Callable[[float], None] = lambda _share: None,
    ) -> None:
        """Have other settings played beside a design's own; ``then`` is told the greatest difference,
        None where none was met, or else what went wrong; ``told`` hears how far that is."""
        try:
            number = self._reader().ask("read", Ask(model, profile, {}), other)
        except HypsosError as error:
            then(None, error.plain)
        else:
            self._reads[number] = ReadBack(then, told)

    def stop(self) -> None:
        """Stop what is under way; as far as it has come it is kept."""
        if self._asked is not None:
            self._worker().stop(self._asked[0])

    def end(self) -> None:
        """The window has gone."""
        self.stop()
        for number in self._reads:
            self._reader().stop(number)
        self._over, self._asked = True, None
        self._reads.clear()

    def _read(self, said: SearchReply) -> None:
        """What the process says that plays what was read back."""
        if said.number not in self._reads:
            return
        if said.kind == "progress":
            self._reads[said.number].told(said.content[0])
            return
        found = said.kind == "found"
        wrong = "" if found else "This could not be worked out. Ask again."
        self._reads.pop(said.number).then(said.content if found else None, wrong)

    def _reading_ended(self) -> None:
        reads = list(self._reads.values())
        self._reads.clear()
        for read in reads:
            read.then(None, "This has ended before it was done. Ask again.")

    def _said(self, said: SearchReply) -> None:
        if self._asked is None or said.number != self._asked[0]:
            return
        if said.kind == "progress":
            self.share, self.what = said.content
        else:
            key = self._asked[1]
            self._asked, self.share, self.what = None, None, ""
            if said.kind == "found":
                self._known[key] = said.content
                if len(self._known) > MOST:
                    self._known.popitem(last=False)
            elif said.kind == "failed":
                self.fault = said.content
            elif said.kind == "broke":
                self.fault = f"This went wrong in a way that nobody foresaw ({said.content[0]}). Your edits are not touched."
        self.changed.emit()

    def _ended(self) -> None:
        if self._asked is not None:
            self._asked, self.share = None, None
            self.fault = (
                "The proof has ended before it was done. It begins anew with the next edit."
            )
            self.changed.emit()
