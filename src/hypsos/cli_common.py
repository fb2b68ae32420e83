# SPDX-License-Identifier: GPL-3.0-or-later
"""What the commands share: the hangar, models by name or file, what is written and how far long
work is."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path
from typing import TYPE_CHECKING

import click

from hypsos.core.base.errors import HypsosError

if TYPE_CHECKING:
    from hypsos.core.document.document import Model
    from hypsos.core.review.findings import Ask
    from hypsos.hangar import Hangar


@contextmanager
def opened(demo: bool) -> Iterator[Hangar]:
    """The hangar: one's own, or a fresh copy of the demo's that is gone afterwards."""
    from hypsos.hangar import Hangar
    from hypsos.hangar.places import demo_hangar, passing_folder, user_hangar

    with passing_folder() if demo else nullcontext(Path()) as folder:
        hangar = demo_hangar(folder) if demo else Hangar(user_hangar())
        try:
            yield hangar
        finally:
            hangar.close()


def read_model(name: str, demo: bool) -> Model:
    """A model of the hangar, or one in a file. Raises HypsosError."""
    from hypsos.core.checking.reader import from_json
    from hypsos.hangar.files import read_text

    path = Path(name)
    if path.suffix.lower() == ".json" or path.is_file():
        return from_json(read_text(path), path.name)
    with opened(demo) as hangar:
        return hangar.load(name)


def settings_of(model: Model, given: tuple[str, ...]) -> dict[str, float]:
    """What ``--set`` gives: control -> value. Raises HypsosError."""
    from hypsos.core.engine.situation import checked_value

    out = {}
    for item in given:
        name, _, text = item.partition("=")
        try:
            value = float(text)
        except ValueError:
            raise HypsosError(
                f"{item!r} is not NAME=VALUE with a number", "--set", "For instance flap_switch=1."
            ) from None
        out[name] = checked_value(model, name, value)
    return out


def with_progress(what: str, pieces: Iterator[tuple[float, str]]) -> Iterator[str]:
    """The pieces of long work; how far it is shows on stderr when that is a terminal."""
    shows = sys.stderr.isatty()
    for done, piece in pieces:
        yield piece
        if shows:
            sys.stderr.write(f"\r{what}: {done:4.0%}" + ("\n" if done >= 1 else ""))
            sys.stderr.flush()


def emit(text: str, out: Path | None) -> None:
    """Write a text to a file, or to the output."""
    from hypsos.hangar.files import write_whole

    if out is None:
        click.echo(text, nl=False)
    else:
        write_whole(out, text)


def shown(what: str) -> Callable[[float, str], None]:
    """Shows on stderr how far long work is, when that is a terminal."""

    def show(share: float, task: str) -> None:
        if sys.stderr.isatty():
            sys.stderr.write(f"\r\033[K{what}: {share:4.0%}  {task}")
            sys.stderr.flush()

    return show


def asked_of(name: str, demo: bool) -> Ask:
    """What is asked of a model, with what the hangar knows besides."""
    from hypsos.core.review.findings import Ask

    model = read_model(name, demo)
    from hypsos.hangar.places import user_hangar

    if not demo and not user_hangar().exists():
        return Ask(model)
    with opened(demo) as hangar:
        others = {n: number for n, number in hangar.receivers().items() if n != model.name}
        profile = next(
            (p for p in hangar.transmitters() if p.name == model.transmitter.taken), None
        )
    return Ask(model, profile, others)
