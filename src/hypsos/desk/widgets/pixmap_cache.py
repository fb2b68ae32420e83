# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures kept of what does not move."""

from __future__ import annotations

from math import ceil

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QColor, QPixmap


def still(size: QSize, ratio: float, ground: QColor | Qt.GlobalColor) -> QPixmap:
    """A picture to paint on that covers ``size`` wholly, also where a screen enlarges by a quarter;
    ``ratio`` is how many pixels of the screen there are to one of it."""
    made = QPixmap(ceil(size.width() * ratio), ceil(size.height() * ratio))
    made.setDevicePixelRatio(ratio)
    made.fill(ground)
    return made
