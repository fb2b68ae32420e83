# SPDX-License-Identifier: GPL-3.0-or-later
"""What takes its time of a sheet: what lacks cost, the proof, the checks that are chosen."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from hypsos.core.schools.costs import priced
from hypsos.core.schools.keying import Keying, proved
from hypsos.core.schools.lacks import Lack
from hypsos.core.schools.proof import TranslationProof
from hypsos.core.schools.proof_memory import ProofMemory
from hypsos.core.schools.proof_words import difference_words, proof_lines
from hypsos.core.sheet.chosen_checks import Checks, choose_checks

Progress = Callable[[float, str], None]
COSTS_SHARE, PROOF_SHARE = 0.1, 0.7
"""How far the work is when the costs, and when the proof is done."""


class KeyedWork(NamedTuple):
    """``checks`` is None, and ``whole`` False, where the work was stopped."""

    lacks: tuple[Lack, ...]
    proof: TranslationProof
    checks: Checks | None
    whole: bool

    def lines(self, made: Keying) -> tuple[str, ...]:
        """What a sheet says of the proof."""
        if self.proof.fault is not None:
            words = difference_words(made.reduced.model, self.proof.fault)
            return (f"THE TRANSLATION IS NOT RIGHT, which is a fault of Hypsos: {words} Do not key it in.",)  # fmt: skip
        if not self.whole:
            return ("The proof was stopped: not everything was played.",)
        return proof_lines(self.proof, made.reduced)


def work_out(
    made: Keying,
    told: Progress = lambda _share, _what: None,
    stopped: Callable[[], bool] = lambda: False,
    memory: ProofMemory | None = None,
) -> KeyedWork:
    """Work it all out; as far as it has come where it is stopped. What is in the ``memory`` of
    proofs is not played again."""
    lacks = priced(made.reduced, _part(told, 0.0, COSTS_SHARE), stopped)
    found = proved(made, None, _part(told, COSTS_SHARE, PROOF_SHARE), stopped, memory)
    checks = None
    if not stopped() and found.fault is None:
        checks = choose_checks(made, _part(told, PROOF_SHARE, 1.0), stopped)
    return KeyedWork(lacks, found, checks, not stopped())


def _part(told: Progress, start: float, end: float) -> Progress:
    """Progress of a part of the work as progress of the whole."""
    return lambda share, what: told(start + share * (end - start), what)
