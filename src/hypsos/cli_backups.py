# SPDX-License-Identifier: GPL-3.0-or-later
"""The commands that keep the hangar whole, and bring it back."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from hypsos.core.base.errors import HypsosError


@click.command()
@click.argument("file", type=click.Path(path_type=Path), required=False)
@click.option("--list", "listed", is_flag=True, help="Only say which back-ups there are.")
def backup(file: Path | None, listed: bool) -> None:
    """Copy the whole hangar into FILE, or among the back-ups beside it."""
    from hypsos.hangar.backups import back_up, backup_folder, backups, copy_hangar
    from hypsos.hangar.places import user_hangar

    hangar = user_hangar()
    if listed:
        found = backups(hangar)
        for kept in found:
            click.echo(f"{kept.path.name}  {kept.words}")
        if not found:
            click.echo(f"There are no back-ups in {backup_folder(hangar)}.")
        return
    if not hangar.is_file():
        raise HypsosError("there is no hangar yet", str(hangar), "Start Hypsos and make a model.")
    if file is None:
        click.echo(str(back_up(hangar, "asked").path))
        return
    if file.exists():
        raise HypsosError("there is a file of that name already", str(file), "Choose another name.")
    copy_hangar(hangar, file)
    click.echo(str(file))


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--yes", is_flag=True, help="Do not ask.")
def restore(file: Path, yes: bool) -> None:
    """Bring a back-up of the hangar back. FILE is a file, or a name that `backup --list` says. What
    is in the hangar now is kept first."""
    from hypsos.hangar.backups import backup_folder
    from hypsos.hangar.places import user_hangar
    from hypsos.hangar.restoring import contents, restore

    hangar = user_hangar()
    beside = backup_folder(hangar) / file
    source = beside if not file.exists() and beside.exists() else file
    held = contents(source)
    if not yes:
        if not sys.stdin.isatty():
            raise HypsosError(
                "nobody is there to be asked", "--yes", "Add --yes where it is to be brought back."
            )
        names = ", ".join(held.changed_at) or "no models"
        click.confirm(f"It holds {names}. Bring it back in the place of {hangar}?", abort=True)
    click.echo(restore(source, hangar).words)
