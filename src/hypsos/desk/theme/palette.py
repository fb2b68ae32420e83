# SPDX-License-Identifier: GPL-3.0-or-later
"""Two palettes: a light one for a bright field, a dark one for the shed. Sand, marram grass, sea
and rust."""

from __future__ import annotations

from typing import NamedTuple


class Palette(NamedTuple):
    """Colours by what they are for, as #rrggbb."""

    name: str
    paper: str
    """The window's ground."""
    card: str
    """A sheet lying on it."""
    field: str
    """The ground of what can be typed into."""
    line: str
    edge: str
    """The border of what can be touched."""
    ink: str
    faint: str
    """Text of second rank."""
    sea: str
    """Chosen, active, leading on."""
    on_sea: str
    sea_soft: str
    rust: str
    """Danger, cut off, needs attention."""
    on_rust: str
    rust_soft: str
    ochre: str
    """What moves: surfaces, the present stick."""
    sky: str
    ground: str
    body: str
    wing: str
    surface: str
    glass: str
    dark: str
    shadow: str


LIGHT = Palette(
    name="light",
    paper="#efe9dd", card="#faf7f0", field="#fffdf8", line="#d9d0bf", edge="#7a7363", ink="#1d2b2f", faint="#55605f",
    sea="#0d5f69", on_sea="#ffffff", sea_soft="#d3e5e3", rust="#a63a12", on_rust="#ffffff", rust_soft="#f7dfd0",
    ochre="#8f5a00", sky="#cfe0e4", ground="#efe4cd", body="#eef0ec", wing="#f4f1e6", surface="#e0913a",
    glass="#4d6f7c", dark="#3a474b", shadow="#8a8468",
)  # fmt: skip

DARK = Palette(
    name="dark",
    paper="#10181b", card="#182225", field="#0d1416", line="#2c393d", edge="#6d7c80", ink="#ece7db", faint="#a5b0af",
    sea="#6ccbc2", on_sea="#08201f", sea_soft="#1d3d3f", rust="#ff9a6b", on_rust="#2a0d00", rust_soft="#48291b",
    ochre="#e9b45c", sky="#152a33", ground="#2a2a24", body="#c9d0cf", wing="#d9d6ca", surface="#d98a35",
    glass="#2d4a56", dark="#1b2427", shadow="#0b0f0f",
)  # fmt: skip
