# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures as they are said and keyed in."""

from __future__ import annotations

MINUS = "−"


def number(value: float, digits: int = 0) -> str:
    """A figure with a true minus sign, and none in front of zero.

    >>> number(-0.2), number(59.432, 1), number(-3)
    ('0', '59.4', '−3')
    """
    text = f"{value:.{digits}f}"
    return text.lstrip("-") if float(text) == 0 else text.replace("-", MINUS)


def plain(value: float) -> str:
    """A figure as it is keyed in, with up to two decimals and never ``−0``.

    >>> plain(-0.0), plain(56.27), plain(-12.50)
    ('0', '56.27', '−12.5')
    """
    text = f"{round(value, 2) + 0.0:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text.replace("-", MINUS)


def power_percent(stand: float) -> float:
    """Idle to full, -100...100, as 0...100 % power."""
    return (stand + 100.0) / 2.0


def said_name(label: str, default: str, name: str) -> str:
    """What a thing is called; by its own name where nobody has given it another."""
    return name.replace("_", " ") if label == default else label
