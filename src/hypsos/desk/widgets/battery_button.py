# SPDX-License-Identifier: GPL-3.0-or-later
"""A button that takes a battery out of the aeroplane on the bench, and puts it in again."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton


def battery_words(battery: str, out: bool) -> str:
    """What a press does."""
    return f"Put the {battery} in again" if out else f"Take the {battery} out"


class BatteryButton(QPushButton):
    """It says what a press does; pressed down while the battery is out. With ``short`` the words do
    not name the battery."""

    def __init__(self, battery: str, short: bool = False) -> None:
        super().__init__("")
        self.battery, self.short = battery, short
        self.setCheckable(True)
        self.show_out(False)

    def show_out(self, out: bool) -> None:
        """Show whether it is out."""
        self.setChecked(out)
        whole = battery_words(self.battery, out)
        if self.accessibleName() == whole:
            return
        short = "Put battery in" if out else "Take battery out"
        self.setText(short if self.short else whole)
        self.setAccessibleName(whole)
