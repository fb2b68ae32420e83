# SPDX-License-Identifier: GPL-3.0-or-later
"""Text for the clipboard."""

from PyQt6.QtGui import QGuiApplication


def copy_text(text: str) -> None:
    """Put a text into the clipboard."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)
