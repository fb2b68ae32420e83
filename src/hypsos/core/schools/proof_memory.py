# SPDX-License-Identifier: GPL-3.0-or-later
"""What was proved is remembered output by output, so that after an edit only those outputs are
played again that it reaches.

Sought: the answer that playing everything again would give, in a fraction of the time.

What must stay true: an output is taken over only where neither the design nor the transmitter can
send another pulse there than when it was proved.

How it is made: of each output there is a digest of all that reaches it, on three sides: the part of
the design, of the transmitter with figures as fine as one likes, and of the one with figures as
they are typed. Outputs with a digest that was proved are taken over. The others are cut out of
design and transmitters together, and played like a whole aeroplane of its own.

Why it is right: what is left out of a part is read by nothing that is left in; see
:func:`hypsos.core.review.search.model_slice.part_flown` and
:func:`hypsos.core.schools.stand_in.reach.reaching`. A hand that any of the three reads is moved."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Collection
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.review.search.model_slice import part_flown
from hypsos.core.schools.proof import PortProof, Progress, Prover, TranslationProof, silent
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.parts import Radio
from hypsos.core.schools.stand_in.reach import reaching

MOST = 2000
"""So many outputs are remembered."""


class Pair(NamedTuple):
    """A design, and the transmitter that its settings make: ``exact`` with figures as fine as one
    likes, ``rounded`` as they are typed."""

    design: Model
    exact: Radio
    rounded: Radio

    def part(self, ports: Collection[int]) -> Pair:
        """What reaches these outputs; a motor brings all motors with it. Raises HypsosError where a
        transmitter can't work."""
        leads = Ruler(self.design).leads
        targets = [leads[port].target for port in ports]
        # a hand that only a transmitter reads belongs to it as well, or it would never be moved
        radios = [reaching(radio, ports) for radio in (self.exact, self.rounded)]
        hands = {hand.name for radio in radios for hand in radio.hands}
        levers = {lever.name for radio in radios for lever in radio.levers}
        axes = [a.command for a in self.design.program.axes if f"{a.command}_trim" in levers]
        design = part_flown(self.design, targets, hands, axes)
        there = set(Ruler(design).leads)
        return Pair(design, reaching(self.exact, there), reaching(self.rounded, there))

    def digest(self, port: int) -> str:
        """Of all that reaches an output."""
        from hashlib import sha256

        part = self.part([port])
        said = "\n".join(x.model_dump_json() for x in part)
        return sha256(f"{port}\n{said}".encode()).hexdigest()


class ProofMemory:
    """The outputs that were proved last, by their digests."""

    def __init__(self) -> None:
        self._proved: OrderedDict[str, PortProof] = OrderedDict()

    def proved(
        self, pair: Pair, told: Progress = silent, stopped: Callable[[], bool] = lambda: False
    ) -> TranslationProof:
        """Play what was not proved before; with nothing to go by, everything."""
        digests = {port: pair.digest(port) for port in Ruler(pair.design).leads}
        known = {port: self._proved[x] for port, x in digests.items() if x in self._proved}
        new = [port for port in digests if port not in known]
        part = pair.part(new) if known and new else pair
        if new:
            found = Prover(*part, None, told, stopped).run()
        else:
            found = TranslationProof(0, 0.0, {})
        if found.fault is None and not stopped():
            self._remember(digests, found.ports)
        if not known:
            return found
        ports = {port: known.get(port) or found.ports[port] for port in digests}
        return found._replace(
            situations=min(x.situations for x in ports.values()),
            seconds=min(x.seconds for x in ports.values()),
            ports=ports,
            taken_over=tuple(sorted(known)),
        )

    def _remember(self, digests: dict[int, str], ports: dict[int, PortProof]) -> None:
        for port, x in ports.items():
            self._proved[digests[port]] = x
            self._proved.move_to_end(digests[port])
        while len(self._proved) > MOST:
            self._proved.popitem(last=False)
