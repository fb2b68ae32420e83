# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated transmitter at work: hands go in frame by frame, pulses come out at the receiver's
ports, for many situations side by side.

In each frame everything is worked out once, in an order in which nothing is asked before it is
known; what is asked as it ``was`` is that of the frame before. While flight modes fade into each
other, every mode with a share works out its commands, shared values and sums by itself, and the
sums are crossed by the shares."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from copy import copy
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import NEAR, BentLine, Numbers, Truths, clipped, with_expo
from hypsos.core.schools.stand_in.clockwork import Edge, Latch, OffDelay, OnDelay, Pulse, Slow
from hypsos.core.schools.stand_in.parts import (
    BASE,
    FULL,
    Channel,
    Command,
    Feel,
    Lever,
    Mode,
    Mover,
    Radio,
    Rule,
    Safe,
    Share,
    Shared,
    Sum,
    reference,
)

Places = NDArray[np.intp]
NOTHING = np.zeros(0)
"""What a line gives that holds nowhere."""
AROUND = {"link": 1.0, "power": 1.0, "link_quality": 100.0, "flight_battery": 1.0}
"""What surrounds the hands, with what it is where nothing is said of it."""


class Moves(NamedTuple):
    """What hands and surroundings do: times in seconds, evenly spaced, (T,), and by name what they
    are, to be broadcast to (N, T): percent, a switch's position, 0 or 1."""

    t_s: Numbers
    tracks: Mapping[str, Numbers]


class Frame:
    """What is known in one frame.

    Situations stand in rows. While a situation fades from one flight mode to another it has a row
    more for each mode with a share: there everything is worked out as that mode alone has it. So a
    signal has (N + F) rows: first every situation as it is, then the rows of modes. ``mode`` is the
    mode of each row, ``rows`` the situation of each row, ``shares`` the shares of the last F."""

    def __init__(self, machine: Machine, t_s: float, hands: dict[str, Numbers]) -> None:
        self.machine, self.t_s, self.hands = machine, t_s, hands
        self.count = len(hands[FULL])
        self.places: dict[str, Places] = {}
        self.flags: dict[str, Truths] = {}
        self.counts: dict[str, Places] = {}
        self.before: Frame | None = None
        self.changed: set[str] = set()
        """What is another than in the frame before."""
        self.pulses: dict[str, Numbers] = {}
        self.mode = np.zeros(self.count, np.intp)
        self.rows: Places | None = None
        self.shares = np.zeros(0)
        self.signals: dict[str, Numbers] = {}
        self.plain: dict[str, Numbers] = {}
        """Commands without their trim."""
        self.shared: dict[str, Numbers] = {}

    def fade(self, mode: Places, rows: Places, shares: Numbers) -> None:
        """Add the rows of modes that have a share."""
        self.mode = np.concatenate([self.mode, mode])
        self.rows = np.concatenate([np.arange(self.count), rows])
        self.shares = shares

    def bare(self) -> Frame:
        """The same without the rows of modes, for what is alike in all of them."""
        if self.rows is None:
            return self
        out = copy(self)
        out.rows, out.mode = None, self.mode[: self.count]
        out.signals, out.plain, out.shared = {}, {}, {}
        return out

    def spread(self, x: Any) -> Any:
        """Something known of every situation, for every row."""
        return x if self.rows is None else x[self.rows]

    def crossed(self, x: Numbers) -> Numbers:
        """A signal whose first rows are crossed from what the modes make of it, by their shares."""
        if self.rows is None:
            return x
        faded = self.rows[self.count :]
        out = x.copy()
        out[faded] = 0.0
        out[: self.count] += np.bincount(
            faded, weights=self.shares * x[self.count :], minlength=self.count
        )
        return out

    def signal(self, name: str, trim: bool = True) -> Numbers:
        """A source, in every row."""
        if not trim and name in self.plain:
            return self.plain[name]
        found = self.signals.get(name)
        if found is None:
            found = self.signals[name] = self.spread(self.hands[name])
        return found

    def now(self, name: str) -> Numbers:
        """A source as it is in every situation."""
        found = self.signals.get(name)
        return self.hands[name] if found is None else found[: self.count]

    def holds(self, text: str) -> Truths:
        """Whether a reference holds, in every situation."""
        asked = reference(text)
        frame = self.before if asked.before else self
        if frame is None:
            found = np.zeros(self.count, bool)
        elif asked.position is not None:
            table = frame.places if asked.name in frame.places else frame.counts
            found = table[asked.name] == asked.position
        else:
            found = frame.flags[asked.name]
        return ~found if asked.negated else found

    def holds_in_rows(self, text: str) -> Truths:
        """The same in every row: a mode as the row has it, the rest as it is."""
        asked = reference(text)
        if self.rows is None or asked.before or not asked.name.startswith("mode:"):
            found: Truths = self.spread(self.holds(text))
            return found
        here = self.mode == self.machine.mode_places.get(asked.name[5:], -1)
        return np.asarray(~here if asked.negated else here)

    def held_by(self, when: Sequence[str], modes: Truths | None) -> Truths | None:
        """Where all references hold and one of the modes is flown; None where nothing is asked."""
        found: Truths | None = None if modes is None else modes[self.mode]
        for text in when:
            here = self.holds_in_rows(text)
            found = here if found is None else found & here
        return found


Work = Callable[[Frame], bool]
"""Works something out in a frame; says whether it has come to rest: with the same to go by it would
be the same again in the next frame."""


class Node:
    """Something that is worked out once a frame, after what it ``asks``, and by what others were in
    the frame before (``was``). It ``writes`` entries of tables of the frame.

    While all that it goes by stays as it is, and it has come to rest, it stays as it is, too."""

    def __init__(
        self,
        name: str,
        asks: Sequence[str],
        work: Work,
        writes: Sequence[tuple[str, str]],
        was: Sequence[str] = (),
    ) -> None:
        self.name, self.asks, self._work, self._writes = name, tuple(asks), work, tuple(writes)
        self._asked, self._was = frozenset(asks), frozenset(was)
        self._rests = False

    def run(self, frame: Frame) -> None:
        """Work it out, or take it over from the frame before."""
        before = frame.before
        if (
            self._rests
            and before is not None
            and frame.changed.isdisjoint(self._asked)
            and before.changed.isdisjoint(self._was)
        ):
            for table, key in self._writes:
                getattr(frame, table)[key] = getattr(before, table)[key]
            return
        self._rests = self._work(frame)
        if before is None or self._differs(frame, before):
            frame.changed.add(self.name)

    def _differs(self, frame: Frame, before: Frame) -> bool:
        out = False
        for table, key in self._writes:
            now, last = getattr(frame, table), getattr(before, table)[key]
            if now[key].shape == last.shape and (now[key] == last).all():
                now[key] = last
            else:
                out = True
        return out


class Machine:
    """A radio at its first frame. Raises HypsosError where parts ask each other in a circle or name
    what isn't there."""

    def __init__(self, radio: Radio) -> None:
        self.radio = radio
        self.mode_places = {mode.name: i for i, mode in enumerate(radio.modes)}
        self.mode_names = [mode.name for mode in radio.modes] or [BASE]
        self._trims = {lever.name: TrimWork(lever, self) for lever in radio.levers}
        self._ports = [channel.port for channel in radio.channels]
        self._nodes = _in_order(list(self._all_nodes()), _given(radio))

    def _all_nodes(self) -> Iterator[Node]:
        radio = self.radio
        for rule in radio.rules:
            yield rule_node(rule)
        earlier: tuple[str, ...] = ()
        for mode in radio.modes:
            name = f"mode:{mode.name}"
            asks, was = _names([mode.when] if mode.when else [])
            work = _mode_work(mode, earlier)
            yield Node(name, (*asks, *earlier), work, [("flags", name)], was)
            earlier = (*earlier, name)
        yield Node("modes", earlier, ModeTrack(self).work, ())
        for shared in radio.shared:
            yield SharedWork(shared, self).node()
        for command in radio.commands:
            yield CommandWork(command, self).node()
        for made in radio.sums:
            yield SumWork(made, self).node()
        ears = Ears(radio)
        yield Node("ears", ("link", "power"), ears.hear, [("flags", "ears")])
        for channel in radio.channels:
            yield Output(channel, radio, ears).node()

    def trim(self, name: str) -> TrimWork:
        """A trim lever at work."""
        return self._trims[name]

    def among(self, modes: Sequence[str]) -> Truths | None:
        """Mode by mode whether it is one of these; None where none is named: then all are."""
        if not modes:
            return None
        for name in modes:
            if name not in self.mode_names:
                raise HypsosError(
                    f"there is no flight mode {name}",
                    name,
                    f"There is {', '.join(self.mode_names)}.",
                )
        return np.array([name in modes for name in self.mode_names])

    def run(self, moves: Moves) -> dict[int, Numbers]:
        """Port -> its pulses in microseconds (N, T), 0 where there is none."""
        tracks, count = self._tracks(moves)
        frames = len(moves.t_s)
        out = {port: np.empty((frames, count)) for port in self._ports}
        hands, places, flags = self._heard(tracks, count)
        moved = {name: _moved_in(x) for name, x in tracks.items()}
        before: Frame | None = None
        for i, t_s in enumerate(moves.t_s.tolist()):
            frame = Frame(self, t_s, {name: x[i] for name, x in hands.items()})
            frame.places = {name: x[i] for name, x in places.items()}
            frame.flags = {name: x[i] for name, x in flags.items()}
            frame.before = before
            frame.changed.update(name for name, x in moved.items() if x[i])
            if frame.changed & POWERED:
                frame.changed |= POWERED
            for node in self._nodes:
                node.run(frame)
            for port in self._ports:
                out[port][i] = frame.pulses[str(port)]
            before, frame.before = frame, None
        return {port: x.T for port, x in out.items()}

    def _tracks(self, moves: Moves) -> tuple[dict[str, Numbers], int]:
        """Every hand, lever and surrounding over time (T, N), and how many situations there are."""
        radio = self.radio
        rest = {hand.name: hand.rest for hand in radio.hands} | AROUND
        rest |= {lever.name: lever.start for lever in radio.levers}
        given = {n: np.atleast_2d(np.asarray(x, float)) for n, x in moves.tracks.items()}
        count = max([1, *(x.shape[0] for x in given.values())])
        shape = (count, len(moves.t_s))
        tracks = {}
        for name, still in rest.items():
            found = given.get(name, np.full((1, 1), still))
            tracks[name] = np.ascontiguousarray(np.broadcast_to(found, shape).T)
        return tracks, count

    def _heard(
        self, raw: Mapping[str, Numbers], count: int
    ) -> tuple[dict[str, Numbers], dict[str, Places], dict[str, Truths]]:
        """What hands and surroundings say over time: percent, positions of switches, and whether
        the receiver has power and hears; each (T, N)."""
        hands = dict(raw)
        hands[FULL] = np.full((len(raw["power"]), count), 100.0)
        places: dict[str, Places] = {}
        for hand in self.radio.hands:
            if hand.positions:
                place = places[hand.name] = raw[hand.name].astype(np.intp)
                # evenly spread from -100 to 100 %
                hands[hand.name] = -100.0 + 200.0 * place / (hand.positions - 1)
        power = raw["power"] > 0.5
        if not self.radio.receiver.own_battery:
            power = power & (raw["flight_battery"] > 0.5)
        link = power & (raw["link"] > 0.5)
        hands["link_quality"] = np.where(link, raw["link_quality"], 0.0)
        return hands, places, {"power": power, "link": link}


POWERED = frozenset(("link", "power", "link_quality", "flight_battery"))


def _moved_in(track: Numbers) -> Truths:
    """In which frames any of its situations (T, N) is another than in the frame before."""
    out = np.ones(len(track), bool)
    out[1:] = (track[1:] != track[:-1]).any(axis=1)
    return out


def simulate(radio: Radio, moves: Moves) -> dict[int, Numbers]:
    """Port -> the pulses in microseconds that a radio sends for these moves, from power-up on;
    (N, T), 0 where there is none. Raises HypsosError where the radio can't work as it is said."""
    return Machine(radio).run(moves)


def _given(radio: Radio) -> set[str]:
    """The names that nothing has to work out. Raises HypsosError where two hands, levers or outputs
    have one name or one port."""
    given = {FULL, "link", "power", *AROUND}
    for name in (*(h.name for h in radio.hands), *(x.name for x in radio.levers)):
        if name in given:
            raise HypsosError(f"there are two hands called {name}", name, "Take one of them out.")
        given.add(name)
    ports = [channel.port for channel in radio.channels]
    for port in ports:
        if ports.count(port) > 1:
            raise HypsosError(f"two outputs have port {port}", "outputs", "Give each its own.")
    return given


def _in_order(nodes: list[Node], given: set[str]) -> list[Node]:
    """The nodes, each after those that it asks."""
    by_name: dict[str, Node] = {}
    for node in nodes:
        if node.name in by_name or node.name in given:
            raise HypsosError(
                f"there are two things called {node.name}", node.name, "Name one anew."
            )
        by_name[node.name] = node
    done: list[Node] = []
    state: dict[str, int] = {}

    def visit(name: str, asked_by: str) -> None:
        if name in given or state.get(name) == 2:
            return
        if name not in by_name:
            text = f"{asked_by} asks for {name}, which isn't there"
            raise HypsosError(text, asked_by, "Write it in, or ask for something else.")
        if state.get(name) == 1:
            text = f"{name} hangs on itself in a circle"
            raise HypsosError(text, name, "Ask for one of them as it was in the frame before.")
        state[name] = 1
        for other in by_name[name].asks:
            visit(other, name)
        state[name] = 2
        done.append(by_name[name])

    for node in nodes:
        visit(node.name, node.name)
    return done


def _names(texts: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The names that references ask for in this frame, and as they were in the one before."""
    asked = [reference(text) for text in texts]
    now = tuple(r.name for r in asked if not r.before)
    return now, tuple(r.name for r in asked if r.before)


# -- rules and modes ---------------------------------------------------------------------------------


def rule_node(rule: Rule) -> Node:
    """A rule as something that is worked out once a frame."""
    both = [x for x in (rule.a, rule.b) if x]
    signals = rule.kind in ("above", "below")
    asks, was = (tuple(both), ()) if signals else _names(both)
    writes = [("flags", rule.name)]
    if rule.kind == "counts":
        writes.append(("counts", rule.name))
    return Node(rule.name, asks, rule_work(rule), writes, was)


def rule_work(rule: Rule) -> Work:
    """What works out a rule frame by frame."""
    if rule.kind == "counts":
        return _counting(rule)
    truth = _truth(rule)
    # edges and delays change by themselves; whatever else goes by the same stays the same
    rests = rule.kind not in ("begins", "lasts", "lingers", "pulse")

    def work(frame: Frame) -> bool:
        frame.flags[rule.name] = truth(frame)
        return rests

    return work


def _truth(rule: Rule) -> Callable[[Frame], Truths]:
    a, b = rule.a, rule.b
    if rule.kind in ("above", "below"):
        return lambda frame: _compared(rule, frame)
    if rule.kind == "and":
        return lambda frame: frame.holds(a) & frame.holds(b)
    if rule.kind == "or":
        return lambda frame: frame.holds(a) | frame.holds(b)
    if rule.kind == "either":
        return lambda frame: frame.holds(a) ^ frame.holds(b)
    if rule.kind == "latch":
        latch = Latch()
        return lambda frame: latch(frame.holds(a), frame.holds(b))
    if rule.kind == "begins":
        edge = Edge()
        return lambda frame: edge(frame.holds(a))
    timed = TIMED[rule.kind](rule.seconds)
    return lambda frame: timed(frame.holds(a), frame.t_s)


TIMED: dict[str, Callable[[float], Callable[[Truths, float], Truths]]] = {
    "lasts": OnDelay, "lingers": OffDelay, "pulse": Pulse,
}  # fmt: skip


def _compared(rule: Rule, frame: Frame) -> Truths:
    value = frame.now(rule.a)
    if rule.b:
        value = value - frame.now(rule.b)
    if rule.size:
        value = np.abs(value)
    if rule.kind == "above":
        return np.asarray(value > rule.level + NEAR)
    return np.asarray(value < rule.level - NEAR)


def _counting(rule: Rule) -> Work:
    edge, count = Edge(), max(1, int(rule.level))
    place: list[Places] = []

    def work(frame: Frame) -> bool:
        begins = edge(frame.holds(rule.a)).astype(np.intp)
        now = begins if not place else (place[0] + begins) % count
        place[:] = [now]
        frame.counts[rule.name] = now
        frame.flags[rule.name] = now > 0
        return False

    return work


def _mode_work(mode: Mode, earlier: tuple[str, ...]) -> Work:
    name = f"mode:{mode.name}"

    def work(frame: Frame) -> bool:
        here = frame.holds(mode.when) if mode.when else np.ones(frame.count, bool)
        for other in earlier:
            here = here & ~frame.flags[other]
        frame.flags[name] = here
        return True

    return work


class ModeTrack:
    """Which mode every situation flies, and how far it has faded into it."""

    def __init__(self, machine: Machine) -> None:
        modes = machine.radio.modes
        self._fade_s = np.array([mode.fade_s for mode in modes] or [0.0])
        self._names = [f"mode:{mode.name}" for mode in modes]
        self._eye = np.eye(len(self._fade_s))
        self._mode: Places | None = None
        self._since = self._start = self._now = np.zeros(0)

    def work(self, frame: Frame) -> bool:
        """Say the mode of every situation, and add rows for the modes that have a share in a
        fade."""
        mode = frame.mode
        for place, name in enumerate(self._names):
            mode[frame.flags[name]] = place
        before = frame.before
        if (
            before is None
            or before.rows is not None
            or self._mode is None
            or bool((self._mode != mode).any())
        ):
            frame.changed.add("modes")
        entered = None if self._mode is None else mode != self._mode
        self._mode = mode
        if self._fade_s.any():
            self._fade(frame, mode, entered)
        if frame.rows is not None:
            frame.changed.add("modes")
        return False

    def _fade(self, frame: Frame, mode: Places, entered: Truths | None) -> None:
        if entered is None:
            self._since = np.full(frame.count, -np.inf)
            self._start = self._now = self._eye[mode]
            return
        if entered.any():
            # the way into another mode begins from the shares of this moment
            self._start = np.where(entered[:, None], self._now, self._start)
            self._since = np.where(entered, frame.t_s, self._since)
        length = self._fade_s[mode]
        with np.errstate(divide="ignore", invalid="ignore"):
            way = np.where(length > 0, np.clip((frame.t_s - self._since) / length, 0.0, 1.0), 1.0)
        self._now = self._start + (self._eye[mode] - self._start) * way[:, None]
        on_the_way = self._now[np.arange(frame.count), mode] < 1.0
        if on_the_way.any():
            rows, places = np.nonzero((self._now != 0) & on_the_way[:, None])
            frame.fade(places, rows, self._now[rows, places])


# -- trims, shared values, commands ------------------------------------------------------------------


class TrimWork:
    """A trim lever at work: what it trims in each mode."""

    def __init__(self, lever: Lever, machine: Machine) -> None:
        self._lever, self._names = lever, machine.mode_names
        self._last: Numbers | None = None
        self._ways: list[Numbers] = []
        self._frame: Frame | None = None
        self._made = np.zeros((0, 0))

    def of(self, frame: Frame) -> Numbers:
        """What it trims, in the mode of every row."""
        lever, hand = self._lever, frame.hands[self._lever.name]
        if lever.scope == "common":
            found: Numbers = frame.spread(np.clip(hand, -lever.reach, lever.reach))
            return found
        if self._frame is not frame:
            self._frame, self._made = frame, np.stack(self._own(frame, hand))
        rows = np.arange(frame.count) if frame.rows is None else frame.rows
        return np.asarray(self._made[frame.mode, rows])

    def _own(self, frame: Frame, hand: Numbers) -> list[Numbers]:
        lever = self._lever
        last = np.full_like(hand, lever.start) if self._last is None else self._last
        if not self._ways:
            self._ways = [np.zeros_like(hand) for _ in self._names]
        self._last, change = hand, hand - last
        made, flown = [], frame.mode[: frame.count]
        for place, name in enumerate(self._names):
            # what is moved while a mode is flown is that mode's
            self._ways[place] = self._ways[place] + np.where(flown == place, change, 0.0)
            way, own = self._ways[place], lever.own.get(name)
            if lever.scope == "offset":
                value = lever.start + np.clip((own or 0.0) + way, -lever.reach, lever.reach)
            else:
                value = (lever.start if own is None else own) + way
            made.append(np.clip(value, -lever.reach, lever.reach))
        return made


class SharedWork:
    """A shared value at work."""

    def __init__(self, shared: Shared, machine: Machine) -> None:
        self._shared, self._machine = shared, machine
        self._table = np.array([shared.by_mode[name] for name in machine.mode_names])
        mover = shared.mover
        self._acts_in = machine.among(mover.modes) if mover is not None else None
        self._up, self._down = Edge(), Edge()
        self._steps: Numbers | None = None
        self._kept: Numbers | None = None
        self._left: Numbers | None = None
        self._known: Truths | None = None
        self._known_left: Truths | None = None

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        mover = self._shared.mover
        asks, was = ["modes"], list[str]()
        if mover is not None:
            now, before = _names([x for x in (mover.up, mover.down, mover.when) if x])
            asks += [*now, *([mover.control] if mover.control else [])]
            was += before
        name = self._shared.name
        return Node(f"shared:{name}", asks, self.work, [("shared", name)], was)

    def work(self, frame: Frame) -> bool:
        """Its value in every row."""
        mover, shared = self._shared.mover, self._shared
        value = self._table[frame.mode]
        if mover is not None:
            value = self._adjusted(frame, mover, value)
        frame.shared[shared.name] = clipped(value, shared.low, shared.high)
        # what moves it may remember something
        return mover is None

    def _adjusted(self, frame: Frame, mover: Mover, stored: Numbers) -> Numbers:
        acting, left, known = self._moved(frame, mover)
        moved: Numbers = frame.spread(acting)
        here = np.ones(len(stored), bool)
        if mover.when:
            acts = frame.holds_in_rows(mover.when)
            moved = np.where(acts, moved, frame.spread(left))
            here = acts | frame.spread(known)
        if self._acts_in is not None:
            here = here & self._acts_in[frame.mode]
        wanted = moved if mover.kind == "set" else stored + moved
        return np.where(here, wanted, stored)

    def _moved(self, frame: Frame, mover: Mover) -> tuple[Numbers, Numbers, Truths]:
        """What it does where it acts, what it has left where it doesn't, and where there is such a
        thing."""
        shared, count = self._shared, frame.count
        active = frame.holds(mover.when) if mover.when else np.ones(count, bool)
        nothing, never = np.zeros(count), np.zeros(count, bool)
        if mover.kind == "step":
            made = self._stepped(frame, mover, active)
            if mover.keep or not mover.when:
                return made, made, ~never
            last = nothing if self._kept is None else self._kept
            self._kept = np.where(active, made, last)
            return self._kept, nothing, ~never
        hand = frame.hands[mover.control] * self._scale(mover.control)
        if mover.kind == "set":
            moved = shared.low + (hand + 100.0) / 200.0 * (shared.high - shared.low)
        else:
            moved = mover.amount * hand / 100.0
        if not mover.keep or not mover.when:
            return moved, moved, never
        kept = nothing if self._kept is None else self._kept
        known = never if self._known is None else self._known
        self._kept, self._known = np.where(active, moved, kept), known | active
        # what it leaves is what it did last; looked at only while it does not act, so that a mode
        # that no longer sees it act finds what was there before
        left = nothing if self._left is None else self._left
        known_left = never if self._known_left is None else self._known_left
        self._left = np.where(active, left, self._kept)
        self._known_left = np.where(active, known_left, self._known)
        return moved, self._left, self._known_left

    def _scale(self, control: str) -> float:
        """A trim lever goes over its own reach; here it counts as a whole slider."""
        for lever in self._machine.radio.levers:
            if lever.name == control:
                return 100.0 / lever.reach
        return 1.0

    def _stepped(self, frame: Frame, mover: Mover, active: Truths) -> Numbers:
        count = len(active)
        step = np.zeros(count)
        for edge, text, sign in ((self._up, mover.up, 1.0), (self._down, mover.down, -1.0)):
            if text:
                pressed = edge(frame.holds(text)) & active
                step = step + np.where(pressed, sign * mover.amount, 0.0)
        now = np.zeros(count) if self._steps is None else self._steps
        if not mover.keep:
            now = np.where(active, now, 0.0)
        stored = self._table[frame.mode[: frame.count]]
        moved = np.clip(now + step, self._shared.low - stored, self._shared.high - stored)
        self._steps = np.where(step != 0, moved, now)
        return self._steps


class CommandWork:
    """A command at work."""

    def __init__(self, command: Command, machine: Machine) -> None:
        self._command, self._machine = command, machine
        self._bends = [BentLine(f.bend) if f.bend is not None else None for f in command.feels]
        self._modes = [machine.among(f.modes) for f in command.feels]
        if command.trim and command.trim not in {x.name for x in machine.radio.levers}:
            text = f"{command.name} has a trim lever {command.trim}, which isn't there"
            raise HypsosError(text, command.name, "Name a lever of this transmitter.")

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        asks, was = ["modes"], list[str]()
        if self._command.trim:
            asks.append(self._command.trim)
        for feel in self._command.feels:
            now, before = _names(feel.when)
            asks += [feel.control, *now]
            was += before
            asks += [f"shared:{x}" for x in (feel.weight_by, feel.expo_by) if x]
            if feel.bend is not None and feel.bend.live_by:
                asks.append(f"shared:{feel.bend.live_by}")
        name = self._command.name
        return Node(name, asks, self.work, [("signals", name), ("plain", name)], was)

    def work(self, frame: Frame) -> bool:
        """The command in every row, with its trim and without."""
        name, trim = self._command.name, self._command.trim
        plain = self._value(frame)
        frame.plain[name] = frame.crossed(plain)
        frame.signals[name] = frame.plain[name]
        if trim:
            frame.signals[name] = frame.crossed(plain + self._machine.trim(trim).of(frame))
        return True

    def _value(self, frame: Frame) -> Numbers:
        found = np.zeros(len(frame.mode))
        # from the last to the first, so that the first that holds has the last word
        for feel, bend, modes in reversed(
            list(zip(self._command.feels, self._bends, self._modes, strict=True))
        ):
            holds = frame.held_by(feel.when, modes)
            # nowhere on: what it would give need not be worked out
            if holds is not None and not holds.any():
                continue
            value, side = self._felt(frame, feel, bend)
            if side is not None:
                holds = side if holds is None else holds & side
            found = value if holds is None else np.where(holds, value, found)
        return found

    @staticmethod
    def _felt(frame: Frame, feel: Feel, bend: BentLine | None) -> tuple[Numbers, Truths | None]:
        """What a way of feeling gives, and where it is on the side for which it is meant."""
        value = frame.signal(feel.control)
        if feel.turned:
            value = -value
        if bend is not None:
            live = bend.bend.live_by
            value = bend.moved(value, frame.shared[live]) if live else bend(value)
        value = clipped(value, -100.0, 100.0)
        expo: Numbers | float = feel.expo
        if feel.expo_by:
            expo = clipped(frame.shared[feel.expo_by], -100.0, 100.0)
        if feel.expo_by or feel.expo:
            value = with_expo(value, expo)
        side: Truths | None = None
        if feel.side != "both":
            side = value >= 0 if feel.side == "above" else value < 0
        weight: Numbers | float = feel.weight
        if feel.weight_by:
            weight = clipped(frame.shared[feel.weight_by], 0.0, 150.0)
        return feel.pivot + weight / 100.0 * (value - feel.pivot), side


# -- sums --------------------------------------------------------------------------------------------


class ShareWork:
    """A line of a sum at work."""

    def __init__(self, share: Share, machine: Machine) -> None:
        self.share = share
        self._bend = BentLine(share.bend) if share.bend is not None else None
        self._modes = machine.among(share.modes)
        self._slow: Slow | None = None
        self.moves = False
        if share.slow_in or share.slow_out:
            self._slow = Slow(share.slow_in, share.slow_out, machine.radio.frame_s)

    def gives(self, frame: Frame, held: str) -> tuple[Numbers, Truths | None]:
        """What the line gives at last in every row, and where it holds."""
        share = self.share
        holds = frame.held_by(share.when, self._modes)
        # nowhere on: what it would give need not be worked out
        if holds is not None and self._slow is None and not holds.any():
            return NOTHING, holds
        value = frame.signal(share.source, share.trim)
        if self._bend is not None:
            live = self._bend.bend.live_by
            value = self._bend.moved(value, frame.shared[live]) if live else self._bend(value)
        if share.from_low:
            value = value + 100.0
        if holds is not None:
            value = np.where(holds, value, 0.0)
        if self._slow is not None:
            # it goes after what the modes make of it together
            together = frame.crossed(value)[: frame.count]
            slowed = self._slow(together, frame.holds(held) if held else None)
            self.moves = not bool((slowed == together).all())
            value = frame.spread(slowed)
        if share.above == share.below:
            value = share.above / 100.0 * value
        else:
            value = np.where(value > 0, share.above, share.below) / 100.0 * value
        if share.by:
            value = value * frame.shared[share.by] / 100.0
        return value, holds


def _goes_by_hands(share: Share, hands: set[str]) -> bool:
    """Whether a line reads a hand and asks neither modes nor shared values."""
    asks_mode = share.modes or any("mode:" in text for text in share.when)
    shared = share.by or (share.bend is not None and share.bend.live_by)
    slow = share.slow_in or share.slow_out
    return share.source in hands and not (asks_mode or shared or slow)


class SumWork:
    """A sum at work."""

    def __init__(self, made: Sum, machine: Machine) -> None:
        self._sum = made
        self._lines = [ShareWork(x, machine) for x in made.shares]
        hands = {hand.name for hand in machine.radio.hands} | {FULL, "link_quality"}
        self._of_hands = all(_goes_by_hands(x, hands) for x in made.shares)
        """Whether it is the same in all flight modes, and known before them: a mode may hang on
        it."""

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        now, before = _names([self._sum.held] if self._sum.held else [])
        asks, was = [*now], [*before]
        if not self._of_hands:
            asks.append("modes")
        for share in self._sum.shares:
            now, before = _names(share.when)
            asks += [share.source, *now]
            was += before
            if share.by:
                asks.append(f"shared:{share.by}")
            if share.bend is not None and share.bend.live_by:
                asks.append(f"shared:{share.bend.live_by}")
        table = "hands" if self._of_hands else "signals"
        return Node(self._sum.name, asks, self.work, [(table, self._sum.name)], was)

    def work(self, frame: Frame) -> bool:
        """The sum in every row, and crossed."""
        seen = frame.bare() if self._of_hands else frame
        total = np.zeros(len(seen.mode))
        for line in self._lines:
            value, holds = line.gives(seen, self._sum.held)
            if value is NOTHING:
                continue
            if line.share.join == "add":
                total = total + value
                continue
            made = value if line.share.join == "replace" else total * value / 100.0
            total = made if holds is None else np.where(holds, made, total)
        if self._of_hands:
            frame.hands[self._sum.name] = total
        else:
            frame.signals[self._sum.name] = frame.crossed(total)
        return not any(line.moves for line in self._lines)


# -- outputs and the receiver ------------------------------------------------------------------------


class Ears:
    """What the receiver hears in a frame."""

    def __init__(self, radio: Radio) -> None:
        self._silence = OnDelay(radio.receiver.after_s)
        self._known: Truths | None = None

    def hear(self, frame: Frame) -> bool:
        """One frame more: where its failsafe acts, where it has heard the transmitter since it has
        power, and whether any of this is new."""
        link, power = frame.flags["link"], frame.flags["power"]
        frame.flags["acting"] = power & self._silence(power & ~link, frame.t_s)
        before = np.zeros_like(link) if self._known is None else self._known
        # a receiver that was without power has heard nothing
        frame.flags["known"] = self._known = link | (before & power)
        frame.flags["ears"] = np.stack([frame.flags["acting"], self._known, link, power])
        return False


class Output:
    """An output at work, as far as the receiver's port."""

    def __init__(self, channel: Channel, radio: Radio, ears: Ears) -> None:
        self.channel, self._radio, self._ears = channel, radio, ears
        self._bend = BentLine(channel.bend) if channel.bend is not None else None
        self._slow: Slow | None = None
        if channel.slow_up or channel.slow_down:
            self._slow = Slow(channel.slow_up, channel.slow_down, radio.frame_s)
        self._safe = radio.receiver.ports.get(channel.port, Safe(action="none"))
        self._last: Numbers | None = None
        self._moves = False

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        now, was = _names([self.channel.cut] if self.channel.cut else [])
        asks = (self.channel.sum, "ears", *now)
        port = str(self.channel.port)
        return Node(f"port:{port}", asks, self.work, [("pulses", port)], was)

    def work(self, frame: Frame) -> bool:
        """What its port sends in microseconds, 0 where there is no pulse."""
        sent, safe, flags = self._sent(frame), self._safe, frame.flags
        last = np.full_like(sent, safe.unheard) if self._last is None else self._last
        self._last = last = np.where(flags["link"], sent, last)
        us = self._radio.centre_us + self._radio.us_per_percent * last
        heard, acting = flags["power"] & flags["known"], flags["acting"]
        if safe.action == "none":
            us = np.where(heard & ~acting, us, 0.0)
        elif safe.action == "hold":
            us = np.where(heard, us, 0.0)
        else:
            acts = acting if self._radio.receiver.stored else acting & flags["known"]
            us = np.where(acts, safe.place_us, np.where(heard, us, 0.0))
        frame.pulses[str(self.channel.port)] = us
        return not self._moves

    def _sent(self, frame: Frame) -> Numbers:
        """What the transmitter sends, in percent of the output."""
        x = self.channel
        value = clipped(frame.now(x.sum), x.low, x.high)
        cut = frame.holds(x.cut) if x.cut else None
        if cut is not None:
            value = np.where(cut, x.low, value)
        if self._slow is not None:
            slowed = self._slow(value, cut, x.low)
            self._moves = not bool((slowed == value).all())
            value = slowed
        if self._bend is not None:
            points = self._bend.bend.points
            inside = np.clip(value, points[0][0], points[-1][0])
            value = self._bend(inside) + (value - inside)
        if x.turned:
            value = -value
        value = x.centre + value * np.where(value < 0, x.end_below, x.end_above) / 100.0
        value = clipped(value, x.stop_below, x.stop_above)
        return value if cut is None else np.where(cut, x.cut_at, value)
