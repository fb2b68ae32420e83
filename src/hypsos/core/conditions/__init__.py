# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions: named booleans, and signals that pass while one holds. A new kind is a file here and
a line in ``KINDS``."""

from typing import TYPE_CHECKING, Annotated, TypeAlias, Union, get_args

from pydantic import Discriminator

from hypsos.core.conditions.combine import Combine
from hypsos.core.conditions.compare import Compare
from hypsos.core.conditions.condition_base import UNNAMED, ConditionBase, conditions_of, signals_of
from hypsos.core.conditions.counter import Counter
from hypsos.core.conditions.delay import Delay
from hypsos.core.conditions.gate import Gate
from hypsos.core.conditions.latch import Latch

KINDS: tuple[type[ConditionBase], ...] = (Compare, Combine, Delay, Latch, Counter, Gate)
"""In the order in which they are offered."""
KIND_NAMES = frozenset(
    name for kind in KINDS for name in get_args(kind.model_fields["kind"].annotation)
)
"""What stands as ``kind`` in a document."""

if TYPE_CHECKING:
    LogicSwitch: TypeAlias = ConditionBase
else:
    LogicSwitch = Annotated[Union[KINDS], Discriminator("kind")]  # noqa: UP007 - made from the list

__all__ = [
    "KINDS",
    "KIND_NAMES",
    "UNNAMED",
    "Combine",
    "Compare",
    "ConditionBase",
    "Counter",
    "Delay",
    "Gate",
    "Latch",
    "LogicSwitch",
    "conditions_of",
    "signals_of",
]
