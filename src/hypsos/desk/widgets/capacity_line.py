# SPDX-License-Identifier: GPL-3.0-or-later
"""What the model needs of the transmitter it has taken, in one line: red where it doesn't fit."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel

from hypsos.core.edits.capacity import needs, needs_words
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look


class RoomLine(QLabel):
    """The needs of the model on the bench."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._found: tuple[str, Profile | None] = ("", None)
        """The transmitter looked for last, and what was found."""
        workbench.document.hangar_changed.connect(self._forget)
        self.setWordWrap(True)
        self.setMinimumWidth(1)
        look.follow(self, self.refresh)

    def _profile(self) -> Profile | None:
        taken = self.workbench.loaded.transmitter.taken
        if self._found[0] != taken:
            held = self.workbench.document.hangar.transmitters() if taken else []
            self._found = (taken, next((p for p in held if p.name == taken), None))
        return self._found[1]

    def _forget(self) -> None:
        self._found = ("", None)

    def refresh(self) -> None:
        """Say it anew."""
        if self.workbench.model is None:
            return
        profile = self._profile()
        found = [n for n in needs(self.workbench.model, profile) if n.needed or n.has is not None]
        short = [n for n in found if not n.fits]
        said = f"This takes {needs_words(found)}"
        said += f" on {profile.name}." if profile is not None else "."
        if short:
            said += f" It does not fit: {', '.join(n.words for n in short)}."
        colour = look.colour("rust" if short else "faint").name()
        self.setStyleSheet(f"color: {colour};")
        self.setText(said)
        self.setAccessibleName(said)
