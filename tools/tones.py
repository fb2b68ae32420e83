# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the three short tones that go with captions, into the folder from which the window plays
them."""

from __future__ import annotations

import sys
import wave
from pathlib import Path

import numpy as np

RATE = 22_050
TONES = {
    "danger": ((880.0, 0.11), (0.0, 0.05), (880.0, 0.11), (0.0, 0.05), (1175.0, 0.16)),
    "state": ((587.0, 0.10), (784.0, 0.14)),
    "remark": ((440.0, 0.12),),
}
"""Rank -> pieces of (hertz, seconds); 0 Hz is silence."""
LOUD = 0.35


def samples(pieces: tuple[tuple[float, float], ...]) -> np.ndarray:
    """The pieces one after the other, each with soft ends."""
    out = []
    for hertz, seconds in pieces:
        t = np.arange(round(seconds * RATE)) / RATE
        soft = np.minimum(1.0, np.minimum(t, seconds - t) / 0.012).clip(0.0)
        out.append(
            soft
            * (np.sin(2 * np.pi * hertz * t) + 0.25 * np.sin(4 * np.pi * hertz * t))
            * (hertz > 0)
        )
    return np.concatenate(out)


def main(folder: Path) -> None:
    """Write one WAV file per rank, sixteen bits, one channel."""
    folder.mkdir(parents=True, exist_ok=True)
    for rank, pieces in TONES.items():
        with wave.open(str(folder / f"{rank}.wav"), "wb") as file:
            file.setnchannels(1)
            file.setsampwidth(2)
            file.setframerate(RATE)
            file.writeframes((samples(pieces) * LOUD * 32767).astype("<i2").tobytes())


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "src/hypsos/desk/sounds"))
