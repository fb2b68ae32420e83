# SPDX-License-Identifier: GPL-3.0-or-later
"""The lanes of the timeline as one picture, every pixel column from all that was held in its
time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QColor, QImage

from hypsos.core.base.backends import Array, Places
from hypsos.desk.services.recorder import Recorder
from hypsos.desk.theme.look import look

COLOURS = {
    "hands": "ochre", "guard": "rust", "mode": "sea", "conditions": "sea", "timers": "edge", "motors": "rust",
    "surfaces": "sea",
}  # fmt: skip
"""Group of a track -> its colour."""
Pixels = NDArray[np.uint32]


def lanes_image(
    recorder: Recorder, lanes: list[int], times: tuple[float, float], width: int, lane: int
) -> QImage:
    """Some tracks below each other, each ``lane`` pixels high, between two times. What lasted less
    than a pixel is seen, too: a level as an upright line, a flag as a mark in ink."""
    start, end = times
    count = len(lanes)
    back, line, ink = (_argb(look.colour(x)) for x in ("card", "paper", "ink"))
    edges = start + (end - start) * np.arange(width + 1) / width
    index = np.searchsorted(recorder.t_s, edges + 1e-9, side="right") - 1
    known = index[1:] >= 0
    index = np.maximum(index, 0)
    tracks = [recorder.tracks[k] for k in lanes]
    least, most = _between(recorder.rows, lanes, index)
    low = np.array([x.low for x in tracks])[:, None]
    high = np.array([x.high for x in tracks])[:, None]
    first, last = (
        np.rint((lane - 5) * (1 - np.clip((x - low) / (high - low), 0, 1)) + 2).astype(np.int16)
        for x in (most, least)
    )
    last += 1
    flags = np.array([x.kind == "flag" for x in tracks])
    last[flags] = np.where(most[flags] > 0.5, lane - 3, last[flags])
    colours = np.array([_argb(look.colour(COLOURS[x.group])) for x in tracks], np.uint32)
    rows = np.arange(lane, dtype=np.int16)[None, :, None]
    inked = (rows >= first[:, None, :]) & (rows <= last[:, None, :]) & known
    block: Pixels = np.where(inked, colours[:, None, None], np.uint32(back)).astype(np.uint32)
    for k, x in enumerate(tracks):
        mixed = least[k] != most[k]
        if x.kind == "flag":
            block[k][:, mixed & known] = ink
        elif x.kind == "place":
            shades = _shades(look.colour("card"), look.colour(COLOURS[x.group]), round(x.high) + 1)
            held = np.clip(most[k], 0, x.high).astype(np.intp)
            block[k] = np.where(known, np.where(mixed, colours[k], shades[held]), np.uint32(back))
        elif x.low < 0 < x.high:
            middle = (lane - 5) // 2 + 2
            block[k, middle] = np.where(inked[k, middle], block[k, middle], np.uint32(line))
    block[:, -1, :] = line
    return QImage(
        block.tobytes(), width, count * lane, 4 * width, QImage.Format.Format_RGB32
    ).copy()


def _between(rows: Array, lanes: list[int], index: Places) -> tuple[Array, Array]:
    """The least and the most of each track in each pixel column, from what was held as it begins to
    what is as it ends."""
    first, end = int(index[0]), int(index[-1]) + 1
    held = rows[first:end][:, lanes]
    at = index - first
    least, most = (f.reduceat(held, at[:-1], axis=0) for f in (np.minimum, np.maximum))
    right = held[at[1:]]
    return np.minimum(least, right).T, np.maximum(most, right).T


def _shades(ground: QColor, colour: QColor, count: int) -> Pixels:
    """From the ground towards a colour, one shade for each place."""
    shares = np.linspace(0.06, 0.5, max(2, count))
    a, b = (np.array(x.getRgb()[:3], float) for x in (ground, colour))
    mixed = np.rint(a + (b - a) * shares[:, None]).astype(np.uint32)
    return np.asarray(
        (0xFF << 24) | (mixed[:, 0] << 16) | (mixed[:, 1] << 8) | mixed[:, 2], np.uint32
    )


def _argb(colour: QColor) -> int:
    return int(colour.rgb()) & 0xFFFFFFFF
