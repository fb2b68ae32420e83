# SPDX-License-Identifier: GPL-3.0-or-later
"""Times as they are said and shown."""

from __future__ import annotations

from hypsos.core.base.figure_words import MINUS, plain, said_name
from hypsos.core.parts.announcement_values import Timer


def clock(seconds: float) -> str:
    """A reading as a clock shows it.

    >>> clock(185.4), clock(-5), clock(3723)
    ('3:05', '−0:05', '1:02:03')
    """
    whole = int(abs(seconds) + 1e-6)
    hours, rest = divmod(whole, 3600)
    minutes, rest = divmod(rest, 60)
    shown = f"{hours}:{minutes:02d}:{rest:02d}" if hours else f"{minutes}:{rest:02d}"
    return f"{MINUS}{shown}" if seconds < 0 and whole else shown


def time_said(seconds: float) -> str:
    """A time in words.

    >>> time_said(60), time_said(90), time_said(5.5), time_said(1)
    ('1 minute', '1 minute 30', '5.5 seconds', '1 second')
    """
    minutes, rest = divmod(seconds, 60)
    if not minutes:
        return "1 second" if rest == 1 else f"{plain(rest)} seconds"
    said = "1 minute" if minutes == 1 else f"{plain(minutes)} minutes"
    return f"{said} {plain(rest)}" if rest else said


def timer_label(timer: Timer) -> str:
    """What people call a timer."""
    return said_name(timer.label, "Timer", timer.name)


def moment_words(timer: Timer, reading_s: float) -> str:
    """What is said as a timer shows so many seconds: ``'Flight timer: 1 minute left'``."""
    if timer.counts == "down" and reading_s == 0:
        return f"{timer_label(timer)}: time is up"
    said = f"{timer_label(timer)}: {time_said(reading_s)}"
    return f"{said} left" if timer.counts == "down" else said


def last_words(left_s: int) -> str:
    """What is said of the last seconds."""
    return str(left_s)
