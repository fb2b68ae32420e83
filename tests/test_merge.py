# SPDX-License-Identifier: GPL-3.0-or-later
"""Two edits of one state put together: field by field, key by key, item by item."""

from __future__ import annotations

from typing import Any

import pytest

from hypsos.core.base.errors import DocumentError
from hypsos.core.checking.merge import _carried, carried
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.shape.templates import TEMPLATES

CASES = {
    "each another field": ({"a": 1, "b": 2}, {"a": 5, "b": 2}, {"a": 1, "b": 7}, {"a": 5, "b": 7}),
    "both the same field": ({"a": 1}, {"a": 5}, {"a": 7}, {"a": 5}),
    "each a new key": ({}, {"x": 1}, {"y": 2}, {"x": 1, "y": 2}),
    "taken out here": ({"a": 1, "b": 2}, {"b": 2}, {"a": 1, "b": 3}, {"b": 3}),
    "taken out there": ({"a": 1, "b": 2}, {"a": 5, "b": 2}, {"a": 1}, {"a": 5}),
    "taken out there, changed here": (
        {"a": 1, "b": 2},
        {"a": 1, "b": 9},
        {"a": 1},
        {"a": 1, "b": 9},
    ),
    "nothing was there": ({"a": None}, {"a": None, "b": 1}, {"a": 4}, {"a": 4, "b": 1}),
    "items": ([1, 2, 3], [1, 9, 3], [1, 2, 8], [1, 9, 8]),
    "a longer list goes over whole": ([1, 2], [1, 2, 3], [7, 2], [1, 2, 3]),
    "a list that grew there is kept": ([1, 2], [1, 2], [1, 2, 3], [1, 2, 3]),
    "an item that grew, no names to go by": ([[1]], [[1], [2]], [[5]], [[1], [2]]),
    "inside": (
        {"a": {"b": [1, 2]}},
        {"a": {"b": [1, 5]}},
        {"a": {"b": [3, 2]}, "c": 1},
        {"a": {"b": [3, 5]}, "c": 1},
    ),
}


def mixes(**gains: int) -> list[dict[str, Any]]:
    return [{"name": name, "gain": gain} for name, gain in gains.items()]


BY_NAME = {
    "one gone there, the next edited here": (
        mixes(a=1, b=2, c=3), mixes(a=1, b=9, c=3), mixes(b=2, c=3), mixes(b=9, c=3),
    ),
    "one gone and one come there, so the list is as long as before": (
        mixes(a=1, b=2), mixes(a=1, b=9), mixes(b=2, c=3), mixes(b=9, c=3),
    ),
    "added here, edited there": (
        mixes(a=1, b=2), mixes(a=1, x=5, b=2), mixes(a=7, b=2), mixes(a=7, x=5, b=2),
    ),
    "taken out here, edited there": (
        mixes(a=1, b=2), mixes(b=2), mixes(a=1, b=8), mixes(b=8),
    ),
    "added here and there": (
        mixes(a=1), mixes(a=1, x=5), mixes(a=1, y=6), mixes(a=1, x=5, y=6),
    ),
    "renamed there, edited here": (
        mixes(a=1, b=2), mixes(a=1, b=9), mixes(a=1, z=2), mixes(a=1, z=9),
    ),
    "renamed here, edited there": (
        mixes(a=1, b=2), mixes(a=1, z=2), mixes(a=1, b=9), mixes(a=1, z=9),
    ),
    "moved here, edited there": (
        mixes(a=1, b=2, c=3), mixes(c=3, a=1, b=2), mixes(a=1, b=8, c=3), mixes(c=3, a=1, b=8),
    ),
    "moved there, edited here": (
        mixes(a=1, b=2), mixes(a=9, b=2), mixes(b=2, a=1), mixes(b=2, a=9),
    ),
    "gone there, edited here": (
        mixes(a=1, b=2), mixes(a=1, b=9), mixes(a=1), mixes(a=1, b=9),
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", BY_NAME)
def test_parts_are_known_by_name_wherever_they_stand(case: str) -> None:
    before, after, newer, wanted = BY_NAME[case]
    assert _carried(before, after, newer) == wanted


def test_two_windows_that_add_another_part_of_one_name_are_told_so() -> None:
    with pytest.raises(DocumentError, match="both windows have added x, and not the same"):
        _carried(mixes(a=1), mixes(a=1, x=5), mixes(a=1, x=6))
    assert _carried(mixes(a=1), mixes(a=1, x=5), mixes(a=1, x=5)) == mixes(a=1, x=5)


@pytest.mark.parametrize("case", CASES)
def test_two_edits_put_together(case: Any) -> None:
    before, after, newer, wanted = CASES[case]
    assert _carried(before, after, newer) == wanted


def test_one_window_takes_a_figure_of_a_mode_out_while_the_other_types_another() -> None:
    """The trims of two flight modes: one has gone in the other window, this window clicks the other
    one."""
    before = with_at(
        TEMPLATES["trainer"].make("Trial"), "program.axes[0].trim.by_mode", {"one": 3, "two": 4}
    )
    here = with_at(before, "program.axes[0].trim.by_mode", {"one": 3, "two": 6})
    there = with_at(before, "program.axes[0].trim.by_mode", {"two": 4})
    there = with_at(there, "note", "mine")
    with pytest.raises(DocumentError, match="make yours by hand"):
        carried(before, here, there)  # there are no such modes: said as a problem of the document
    bare = with_at(there, "program.axes[0].trim.by_mode", {})
    made = carried(before, with_at(before, "leads[0].centre", 4.0), bare)
    assert (
        get_at(made, "leads[0].centre") == 4.0
        and made.note == "mine"
        and made.program.axes[0].trim.by_mode == {}
    )
