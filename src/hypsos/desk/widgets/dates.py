# SPDX-License-Identifier: GPL-3.0-or-later
"""Times as the clock on the wall shows them."""

from __future__ import annotations

import datetime


def local_time(utc: str) -> str:
    """A stored time (UTC, ``2026-11-25T09:30:00Z``) as local date and time; what is no time comes
    back as it is."""
    try:
        return datetime.datetime.fromisoformat(utc).astimezone().strftime("%Y-%m-%d %H:%M")
    except ValueError:
        return utc
