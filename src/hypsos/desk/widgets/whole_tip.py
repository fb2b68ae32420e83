# SPDX-License-Identifier: GPL-3.0-or-later
"""The tip of words that are cut short: the whole of them."""

from __future__ import annotations

from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QToolTip, QWidget


def told_whole(widget: QWidget, asked: QHelpEvent, shown: str, whole: str) -> bool:
    """Show the whole where words are cut short; whether that was so."""
    if shown == whole:
        return False
    QToolTip.showText(asked.globalPos(), whole, widget)
    return True
