# SPDX-License-Identifier: GPL-3.0-or-later
"""The proof of a translation: the design and the settings are played side by side, and their pulses
compared at every port in every frame.

Three questions are asked, in this order.

*Does the translation say what the design says?* The reduced design is played by the engine, and its
settings, with figures as fine as one likes, by the small transmitter of that school. They have to
agree within 1 µs. Where they don't, Hypsos has made a fault, and says so.

*What does rounding do?* The same with the figures as this transmitter takes them. The greatest
difference is told in microseconds, and in millimetres where a surface has a ruler.

*Do other settings say the same?* A file that somebody has written or changed is played against the
settings that belong to the design. They have to agree within 1 µs, too; where they don't, the place
is told, how much, and the shortest way there.

What is played is said in :mod:`hypsos.core.schools.proof_moves`. It is a great deal, and not
everything: two transmitters that only differ where none of these moves leads are not told apart."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from hypsos.core.document.document import Model
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.situation import Situation
from hypsos.core.parts.leads import Lead
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.proof_moves import Battery, MoveMaker
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.machine import Moves, simulate
from hypsos.core.schools.stand_in.parts import Radio

EQUAL_US = 1.0
"""Two pulses that differ by no more are equal."""
NO_ACT = 1e-9
NEARLY = 0.9
"""A way may be shortened where so much of the difference is left."""
MANY_ACTS = 40
"""Of more acts single ones are not tried: that would take its time."""


class HandAct(NamedTuple):
    """A hand put somewhere at a time: the control, and where to (a switch's position, or
    percent)."""

    t_s: float
    control: str
    to: float


class PulseDifference(NamedTuple):
    """Where two transmitters send different pulses: the lead, the time, both pulses in microseconds
    (0: none), by how many millimetres the surface stands elsewhere (None where it has no ruler),
    and the acts that lead there."""

    lead: str
    label: str
    battery: str
    t_s: float
    wanted_us: float
    found_us: float
    mm: float | None
    motor: bool
    way: tuple[HandAct, ...] = ()

    @property
    def size_us(self) -> float:
        """How far they are apart."""
        return abs(self.wanted_us - self.found_us)


class Rounding(NamedTuple):
    """What typing in steps does at the most: microseconds, and where; millimetres, and where."""

    us: float = 0.0
    us_at: str = ""
    mm: float = 0.0
    mm_at: str = ""


class PortProof(NamedTuple):
    """What typing in steps does at one output at the most, and in how many situations, for how many
    seconds of moves it was played; ``label``: its lead."""

    label: str
    us: float = 0.0
    mm: float = 0.0
    situations: int = 0
    seconds: float = 0.0


class TranslationProof(NamedTuple):
    """What was played, and what came out. ``ports``: output by output; ``fault``: the greatest
    difference that no rounding explains; ``difference``: that of other settings.

    ``taken_over``: these outputs were proved before, and were not played again. Then ``situations``
    and ``seconds`` are those of the output that was played least."""

    situations: int
    seconds: float
    ports: dict[int, PortProof]
    fault: PulseDifference | None = None
    difference: PulseDifference | None = None
    taken_over: tuple[int, ...] = ()

    @property
    def rounding(self) -> Rounding:
        """The greatest effect of rounding at any output."""
        if not self.ports:
            return Rounding()
        # of several that are the same the first is named
        most = max(self.ports.values(), key=lambda x: x.us)
        widest = max(self.ports.values(), key=lambda x: x.mm)
        us_at = most.label if most.us else ""
        return Rounding(most.us, us_at, widest.mm, widest.label if widest.mm else "")


Progress = Callable[[float, str], None]


def silent(_share: float, _what: str) -> None:
    """Hears how far something is, and says nothing."""
    return None


class Prover:
    """Plays a design against settings.

    ``exact`` and ``rounded`` are the transmitters of the design's own translation, ``other`` one
    that may say something else. ``stopped`` is asked between pieces; ``told`` hears how far it
    is."""

    def __init__(
        self,
        model: Model,
        exact: Radio,
        rounded: Radio,
        other: Radio | None = None,
        told: Progress = silent,
        stopped: Callable[[], bool] = lambda: False,
    ) -> None:
        self._model, self._exact, self._rounded, self._other = model, exact, rounded, other
        self._told, self._stopped = told, stopped
        self._plan = compile_plan(model)
        self._rest = self._plan.rest
        self._ruler = Ruler(model)
        self._leads = self._ruler.leads
        self._motors = {m.name for m in model.airframe.motors}

    def run(self, share: float = 1.0, in_minutes: bool = True) -> TranslationProof:
        """Play everything. ``share``: how much of the usual number of situations; ``in_minutes``:
        the random moves of minutes, too."""
        maker = MoveMaker(self._model, [self._exact, self._rounded], share)
        situations, seconds = 0, 0.0
        ports = {port: PortProof(lead.label) for port, lead in self._leads.items()}
        fault: PulseDifference | None = None
        difference: PulseDifference | None = None
        for done, battery in enumerate(maker.all(in_minutes)):
            if self._stopped():
                break
            self._told(done / 4, f"{battery.name}, {battery.rows} side by side")
            wanted = self._design(battery)
            exact = self._sent(self._exact, battery)
            same = self._rounded == self._exact
            rounded = exact if same else self._sent(self._rounded, battery)
            fault = fault or self._worst(battery, wanted, exact, self._exact)
            ports = self._more(ports, wanted, rounded)
            if self._other is not None:
                difference = self._difference(battery, rounded)
            situations += battery.rows
            seconds += battery.rows * float(battery.t_s[-1])
            if fault is not None or difference is not None:
                break
        found = {n: x._replace(situations=situations, seconds=seconds) for n, x in ports.items()}
        if fault is None and difference is None:
            difference = self._in_other_places(maker, share, in_minutes)
        return TranslationProof(situations, seconds, found, fault, difference)

    def _in_other_places(
        self, maker: MoveMaker, share: float, in_minutes: bool
    ) -> PulseDifference | None:
        """The difference that other settings make where they compare or bend something at places, or
        wait for times, that the design does not know."""
        if self._other is None:
            return None
        wider = MoveMaker(self._model, [self._exact, self._rounded, self._other], share)
        if wider.leads_nowhere_else(maker):
            return None
        for done, battery in enumerate(wider.all(in_minutes)):
            if self._stopped():
                return None
            self._told(0.5 + done / 4, f"{battery.name} where the other settings act")
            difference = self._difference(battery, self._sent(self._rounded, battery))
            if difference is not None:
                return difference
        return None

    def _difference(self, battery: Battery, rounded: dict[int, Numbers]) -> PulseDifference | None:
        """What the other settings do differently."""
        assert self._other is not None
        other = self._sent(self._other, battery)
        return self._worst(battery, rounded, other, self._other)

    # -- playing -------------------------------------------------------------------------------------

    def _design(self, battery: Battery) -> dict[int, Numbers]:
        """Port -> the pulses of the design."""
        tracks = {n: x for n, x in battery.tracks.items() if n in self._plan.rest or n in _AROUND}
        result = self._plan.run(Situation.of(battery.t_s, tracks))
        return {port: result.outputs[lead.name].us for port, lead in self._leads.items()}

    def _sent(self, radio: Radio, battery: Battery) -> dict[int, Numbers]:
        """Port -> the pulses of a transmitter."""
        return simulate(radio, self._moves(radio, battery))

    def _moves(self, radio: Radio, battery: Battery) -> Moves:
        """The moves of a battery for a transmitter. Its trim levers are moved as far as those of the
        design, from where they stand in its own settings."""
        tracks = dict(battery.tracks)
        for lever in radio.levers:
            if lever.name in tracks:
                tracks[lever.name] = tracks[lever.name] - self._rest[lever.name] + lever.start
        return Moves(battery.t_s, tracks)

    # -- comparing -----------------------------------------------------------------------------------

    def _worst(
        self, battery: Battery, wanted: dict[int, Numbers], found: dict[int, Numbers], radio: Radio
    ) -> PulseDifference | None:
        """The greatest difference beyond what counts as equal; a motor's first."""
        best: tuple[bool, float] = (False, EQUAL_US)
        at: tuple[int, int, int] | None = None
        for port in sorted(self._leads):
            mine = wanted[port]
            other = np.broadcast_to(found.get(port, np.zeros(1)), mine.shape)
            off = np.abs(mine - other)
            row, frame = np.unravel_index(int(np.argmax(off)), off.shape)
            size = float(off[row, frame])
            motor = self._leads[port].target in self._motors
            if size > EQUAL_US and (motor, size) > best:
                best, at = (motor, size), (port, int(row), int(frame))
        if at is None:
            return None
        return self._told_apart(battery, wanted, found, at, radio)

    def _told_apart(
        self,
        battery: Battery,
        wanted: dict[int, Numbers],
        found: dict[int, Numbers],
        at: tuple[int, int, int],
        radio: Radio,
    ) -> PulseDifference:
        """A difference with the way to it: the acts of its row, as few as lead there, up to the frame
        in which it is first felt there."""
        port, row, end = at
        lead = self._leads[port]
        one_row = battery.part(row, end + 1)
        size = float(np.abs(wanted[port][row, end] - found[port][row, end]))
        shorter = self._shortened(one_row, port, size, radio)
        mine, theirs = self._both(shorter, port, radio)
        off = np.abs(mine - theirs)
        first, end = int(np.argmax(off > EQUAL_US)), int(np.argmax(off))
        # where it is felt only a little at first, the way goes to where it is greatest
        frame = end if end - first < 500 else first
        return PulseDifference(
            lead=lead.name,
            label=lead.label,
            battery=battery.name,
            t_s=float(battery.t_s[frame]),
            wanted_us=float(mine[frame]),
            found_us=float(theirs[frame]),
            mm=self._mm_apart(lead, float(mine[frame]), float(theirs[frame])),
            motor=lead.target in self._motors,
            way=tuple(self._acts(shorter, 0, frame)),
        )

    def _both(self, battery: Battery, port: int, radio: Radio) -> tuple[Numbers, Numbers]:
        """What is wanted and what is found at a port in a battery of one row."""
        wanted = (
            self._design(battery) if radio is self._exact else self._sent(self._rounded, battery)
        )
        found = self._sent(radio, battery)
        mine = wanted[port][0]
        return mine, np.broadcast_to(found.get(port, np.zeros((1, 1)))[0], mine.shape)

    def _shortened(self, battery: Battery, port: int, size: float, radio: Radio) -> Battery:
        """A row without the acts that a difference does not need: first hands that need not be
        moved at all, then single acts. It stays nearly as great."""

        def as_great(tried: Battery) -> bool:
            mine, theirs = self._both(tried, port, radio)
            return float(np.abs(mine - theirs).max()) >= NEARLY * size

        for name in list(battery.tracks):
            tried = battery.held(name, 0)
            if tried is not None and as_great(tried):
                battery = tried
        acts = list(self._acts(battery, 0, len(battery.t_s) - 1))
        if len(acts) > MANY_ACTS:
            return battery
        for act in acts:
            at = int(np.searchsorted(battery.t_s, act.t_s - NO_ACT))
            tried = battery.held(act.control, at)
            if tried is not None and as_great(tried):
                battery = tried
        return battery

    @staticmethod
    def _acts(battery: Battery, row: int, frame: int) -> Iterator[HandAct]:
        """What was moved in a row up to a frame, in time."""
        found = []
        for name, track in battery.tracks.items():
            x = np.broadcast_to(track, (battery.rows, len(battery.t_s)))[row, : frame + 1]
            for i in (np.flatnonzero(np.abs(np.diff(x)) > NO_ACT) + 1).tolist():
                found.append(HandAct(float(battery.t_s[i]), name, float(x[i])))
        yield from sorted(found)

    def _mm_apart(self, lead: Lead, one_us: float, two_us: float) -> float | None:
        """By how many millimetres a surface stands elsewhere; None where it has no ruler, or where
        one of the two sends nothing."""
        if not one_us or not two_us:
            return None
        one, two = (self._ruler.mm(lead.port or 0, np.array([us])) for us in (one_us, two_us))
        return None if one is None or two is None else float(abs(one[0] - two[0]))

    def _more(
        self, so_far: dict[int, PortProof], wanted: dict[int, Numbers], rounded: dict[int, Numbers]
    ) -> dict[int, PortProof]:
        """The greatest effect of rounding, output by output, with that of another battery."""
        out = dict(so_far)
        for port, lead in self._leads.items():
            mine, other = wanted[port], rounded[port]
            both = (mine > 0) & (other > 0)
            off = np.where(both, np.abs(mine - other), 0.0)
            us, mm = float(off.max()), 0.0
            if us > 0 and lead.target not in self._motors:
                mm = self._mm_of(port, mine, other, off)
            known = out[port]
            out[port] = known._replace(us=max(us, known.us), mm=max(mm, known.mm))
        return out

    def _mm_of(self, port: int, mine: Numbers, other: Numbers, off: Numbers) -> float:
        """Millimetres where the pulses are most apart; a ruler's reading goes with the pulse."""
        rows = np.argsort(off, axis=None)[-2000:]
        one, two = (self._ruler.mm(port, x.ravel()[rows]) for x in (mine, other))
        if one is None or two is None:
            return 0.0
        return float(np.nanmax(np.where(off.ravel()[rows] > 0, np.abs(one - two), 0.0)))


_AROUND = ("link", "power", "link_quality", "flight_battery")
