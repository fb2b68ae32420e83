"""Where the hangar lies, and the sample hangar made anew from the files that ship with Hypsos."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from hypsos.hangar.store import Hangar


def user_hangar() -> Path:
    """The hangar in the user's data folder; ``HYPSOS_HANGAR`` names another file."""
    import os

    from platformdirs import user_data_path

    chosen = os.environ.get("HYPSOS_HANGAR")
    return Path(chosen) if chosen else user_data_path("hypsos", appauthor=False) / "hangar.sqlite3"


def demo_hangar(folder: Path) -> Hangar:
    """A fresh hangar in this folder with the Sandreach Dune Watch's aeroplanes and their flights."""
    import json

    hangar = Hangar(folder / "demo-hangar.sqlite3")
    shipped = resources.files("hypsos.demo")
    with hangar.together():
        for file in sorted(shipped.iterdir(), key=lambda f: f.name):
            if file.name.endswith(".model.json"):
                text = file.read_text(
                    encoding="utf-8"
                )  # ours, held by the tests; it is checked when it is put on the bench
                hangar.add_text(json.loads(text)["name"], text)
        for name, flights in json.loads(shipped.joinpath("flights.json").read_text(encoding="utf-8")).items():
            for flight in flights:
                hangar.log_text(name, json.dumps(flight))
    return hangar
