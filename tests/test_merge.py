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
    "inside": (
        {"a": {"b": [1, 2]}},
        {"a": {"b": [1, 5]}},
        {"a": {"b": [3, 2]}, "c": 1},
        {"a": {"b": [3, 5]}, "c": 1},
    ),
}


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
