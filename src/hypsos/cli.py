# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: the same core without a window.

Exit status: 0 done and clean, 1 done with findings, 2 not done, with one sentence on stderr.
"""

from __future__ import annotations

import json
import os
import sys
from contextlib import suppress
from pathlib import Path
from typing import NoReturn

import click

from hypsos import __version__
from hypsos.cli_backups import backup, restore
from hypsos.cli_common import asked_of, emit, opened, read_model, settings_of, shown, with_progress
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.paths import clean


@click.group(invoke_without_command=True)
@click.option("--demo", is_flag=True, help="Use a fresh copy of the demo hangar.")
@click.option(
    "--theme",
    type=click.Choice(["light", "dark"]),
    default=None,
    help="Light for the field, dark for the shed.",
)
@click.option("--version", is_flag=True, help="Show the version and exit.")
@click.option("--verbose", is_flag=True, help="With --version: all that a report needs.")
@click.pass_context
def cli(
    context: click.Context, demo: bool, theme: str | None, version: bool, verbose: bool
) -> None:
    """Hypsos: programme and prove radio-controlled aeroplanes. Without a command it opens the
    window; with a model file it opens it on that model."""
    context.obj = demo
    if version:
        from hypsos.hangar.faults import versions

        click.echo("\n".join(versions()) if verbose else f"Hypsos {__version__}")
        context.exit()
    if context.invoked_subcommand is None:
        from hypsos.desk.display import require_display

        require_display()
        from hypsos.desk.app import run

        sys.exit(run(demo=demo, theme=theme))


@cli.command()
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def models(demo: bool, as_json: bool) -> None:
    """List the hangar's models."""
    with opened(demo) as hangar:
        broken = hangar.damaged()
        places = [p for p in hangar.places() if p.id not in {d.id for d in broken}]
        rows = [(p.name, hangar.load(p.name), hangar.flight_count(p.id)) for p in places]
    for damaged in broken:
        click.echo(f"{clean(damaged.name)} cannot be read: {clean(damaged.why)}", err=True)
    if as_json:
        listed = [
            {"name": n, "kind": m.airframe.kind, "note": m.note, "flights": count}
            for n, m, count in rows
        ]
        click.echo(json.dumps(listed, indent=1, ensure_ascii=False))
    elif not rows and not broken:
        click.echo(
            "The hangar is empty. Import a model file, or start the window and make a new model."
        )
    else:
        for name, model, count in rows:
            click.echo(
                f"{name:<20} {model.airframe.kind:<24} {count} flight{'' if count == 1 else 's'}"
            )
    if broken:
        sys.exit(1)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option(
    "--moves", required=True, type=click.Path(path_type=Path), help="CSV: t_s and control names."
)
@click.option("--out", type=click.Path(path_type=Path))
@click.pass_obj
def trace(demo: bool, model_name: str, moves: Path, out: Path | None) -> None:
    """Play recorded moves through the engine, from power-up."""
    from hypsos.core.engine import compile_plan
    from hypsos.core.scenarios.moves_csv import LARGEST, read_moves, trace_lines
    from hypsos.hangar.files import read_text, write_pieces

    model = read_model(model_name, demo)
    situation = read_moves(read_text(moves, LARGEST), model, moves.name)
    pieces = with_progress("trace", trace_lines(compile_plan(model), situation))
    if out is not None:
        write_pieces(out, pieces)
    else:
        for piece in pieces:
            click.echo(piece, nl=False)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--control", required=True)
@click.option("--from", "start", type=float, default=-100.0, show_default=True)
@click.option("--to", "end", type=float, default=100.0, show_default=True)
@click.option("--steps", type=click.IntRange(2, 1_000_000), default=201, show_default=True)
@click.option("--set", "given", multiple=True, metavar="NAME=VALUE")
@click.option("--out", type=click.Path(path_type=Path))
@click.pass_obj
def sweep(
    demo: bool,
    model_name: str,
    control: str,
    start: float,
    end: float,
    steps: int,
    given: tuple[str, ...],
    out: Path | None,
) -> None:
    """Show every output against one control."""
    from hypsos.core.engine import compile_plan
    from hypsos.core.engine.sweep import sweep_columns
    from hypsos.core.scenarios.moves_csv import csv_lines

    model = read_model(model_name, demo)
    columns = sweep_columns(
        compile_plan(model), control, start, end, steps, settings_of(model, given)
    )
    emit("".join(csv_lines(columns)), out)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--target", required=True, metavar="SURFACE")
@click.option("--set", "given", multiple=True, metavar="NAME=VALUE")
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def why(demo: bool, model_name: str, target: str, given: tuple[str, ...], as_json: bool) -> None:
    """Say why a surface stands where it stands: the contributions, in order, and their sum."""
    from hypsos.core.engine import compile_plan
    from hypsos.core.engine.sweep import settled
    from hypsos.core.explain.explain_part import amount_words, explain
    from hypsos.core.wording.words import part_named

    model = read_model(model_name, demo)
    part_named(model, target)
    result = settled(compile_plan(model), settings_of(model, given), [target])
    explanation = explain(model, result, target)
    if as_json:
        bars = [
            {"label": b.label, "kind": b.kind, "percent": b.amount, "path": b.path}
            for b in explanation.bars
        ]
        whole = {
            "model": model.name,
            "target": target,
            "contributions": bars,
            "stand": explanation.stand,
        }
        whole |= {"deg": explanation.deg, "mm": explanation.mm, "sentence": explanation.sentence}
        click.echo(json.dumps(whole, indent=1, ensure_ascii=False))
        return
    for bar in explanation.bars:
        click.echo(f"{amount_words(explanation.part, bar):>18}  {bar.label:<34} {bar.path}")
    click.echo(explanation.sentence)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--transmitter", default="", help="One that ships, or one of your own.")
@click.option(
    "--out", required=True, type=click.Path(path_type=Path), help="A .pdf, .html or .md file."
)
@click.option(
    "--settings", type=click.Path(path_type=Path), help="Write what is keyed in as JSON, too."
)
@click.option("--seen", is_flag=True, help="The lacks that touch a motor were read.")
@click.option("--paper", type=click.Choice(["A4", "Letter"]), default="A4", help="Of a .pdf file.")
@click.pass_obj
def sheet(
    demo: bool,
    model_name: str,
    transmitter: str,
    out: Path,
    settings: Path | None,
    seen: bool,
    paper: str,
) -> None:
    """Write the sheet to key in: for a transmitter, or for the one that the model has taken."""
    from datetime import date

    from hypsos.cli_keying import keyed, motors_lack
    from hypsos.core.review.report import proof_lines
    from hypsos.core.review.shakedown import ShakedownSearch
    from hypsos.core.schools.settings_reader import settings_to_json
    from hypsos.core.sheet import make_sheet
    from hypsos.core.sheet.keyed_work import work_out
    from hypsos.desk.services.sheet_files import check_ending, write_sheet
    from hypsos.hangar.files import write_whole

    check_ending(out)  # before the work, not after it
    model, made = keyed(model_name, transmitter, demo)
    if not seen:
        motors_lack(model, made)
    work = work_out(made, shown("Keying it in"))
    if work.proof.fault is not None:
        raise HypsosError(work.lines(made)[0])
    found = ShakedownSearch().run(asked_of(model_name, demo), (), shown("Shaking it down"))
    shaken = proof_lines(found, f"{date.today():%-d %B %Y}")
    lines = (*shaken, *work.lines(made))
    write_sheet(out, make_sheet(model, made, work.lacks, lines, work.checks), paper)
    if settings is not None:
        write_whole(settings, settings_to_json(made.settings))


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--transmitter", default="", help="One that ships, or one of your own.")
@click.option("--out", required=True, type=click.Path(path_type=Path), help="A .pdf or .png file.")
@click.pass_obj
def card(demo: bool, model_name: str, transmitter: str, out: Path) -> None:
    """Write the field card: two on a page of A4, or a picture for a telephone."""
    from hypsos.cli_keying import keyed
    from hypsos.core.sheet.field_card import field_card
    from hypsos.desk.services.sheet_files import write_card

    model, made = keyed(model_name, transmitter, demo)
    write_card(out, field_card(model, made))


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.argument("settings_file", type=click.Path(path_type=Path), metavar="SETTINGS.json")
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def prove(demo: bool, model_name: str, settings_file: Path, as_json: bool) -> None:
    """Play a model against settings: the same pulses, or where they differ."""
    from hypsos.cli_keying import keyed, played, proof_json, read_settings
    from hypsos.core.schools.proof_words import difference_words, played_words, rounding_words

    other = read_settings(settings_file)
    _, made = keyed(model_name, other.transmitter, demo)
    found = played(made, other)
    worst = found.fault or found.difference
    if as_json:
        click.echo(json.dumps(proof_json(made, found), indent=1, ensure_ascii=False))
    elif worst is None:
        lacks = len(made.reduced.lacks)
        less = f" It lacks {lacks} of what the design asks for." if lacks else ""
        click.echo(
            f"The same pulses in {played_words(found)}. {rounding_words(found, made.reduced.near)}{less}"
        )
    else:
        click.echo(difference_words(made.reduced.model, worst))
    if worst is not None:
        sys.exit(1)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def scenarios(demo: bool, model_name: str, as_json: bool) -> None:
    """Play the model's scenarios and say which expectations are not met."""
    from hypsos.core.scenarios.scenario_run import run_scenarios

    model = read_model(model_name, demo)
    outcomes = run_scenarios(model)
    if as_json:
        listed = [
            {
                "scenario": x.label,
                "expectations": x.expectations,
                "broken": [
                    {"expectation": b.place, "t_s": round(b.t_s, 4), "text": b.text}
                    for b in x.broken
                ],
            }
            for x in outcomes
        ]
        click.echo(
            json.dumps({"model": model.name, "scenarios": listed}, indent=1, ensure_ascii=False)
        )
    elif not outcomes:
        click.echo(f"{model.name} has no scenarios yet. The window keeps them from its timeline.")
    else:
        for x in outcomes:
            click.echo(
                f"{'as expected' if x.good else 'BROKEN':<12} {x.label} ({x.expectations} expectations)"
            )
            for broken in x.broken:
                click.echo(f"{'':<12} {broken.text}")
    if not all(x.good for x in outcomes):
        sys.exit(1)


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.option("--only", default="", help="Statements to search, with commas between: M1,S2.")
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def shakedown(demo: bool, model_name: str, only: str, as_json: bool) -> None:
    """Search everything the hands can do for what must not happen."""
    from hypsos.core.review.report import as_json as report
    from hypsos.core.review.report import as_text
    from hypsos.core.review.rules import STATEMENTS
    from hypsos.core.review.shakedown import ShakedownSearch, foreseen_words

    wanted = [s.strip().upper() for s in only.split(",") if s.strip()]
    for s in wanted:
        if s not in STATEMENTS:
            raise HypsosError(
                f"there is no statement {clean(s)}", "--only", f"There is {', '.join(STATEMENTS)}."
            )
    ask = asked_of(model_name, demo)
    if foreseen := foreseen_words(ask.model):
        click.echo(foreseen, err=True)
    found = ShakedownSearch().run(ask, wanted, shown("Shaking it down"))
    if as_json:
        click.echo(json.dumps(report(found), indent=1, ensure_ascii=False))
    else:
        click.echo("\n".join(as_text(found)))
    if found.findings:
        sys.exit(1)


@cli.command()
@click.argument("first", metavar="A")
@click.argument("second", metavar="B")
@click.option("--json", "as_json", is_flag=True)
@click.pass_obj
def compare(demo: bool, first: str, second: str, as_json: bool) -> None:
    """Say where and by how much two models answer differently."""
    from hypsos.core.review.compare_models import compared
    from hypsos.core.review.report import comparison_json, comparison_text

    found = compared(read_model(first, demo), read_model(second, demo))
    if as_json:
        click.echo(json.dumps(comparison_json(found), indent=1, ensure_ascii=False))
    else:
        click.echo("\n".join(comparison_text(found)))
    if not (found.same and found.proved):
        sys.exit(1)


@cli.command()
@click.argument("file", type=click.Path(path_type=Path))
def check(file: Path) -> None:
    """Validate a model file; each error, and each danger of a motor, is shown with its path in the
    document."""
    from hypsos.core.checking.reader import file_problems, from_json
    from hypsos.core.explain.idle_pulse import motor_dangers
    from hypsos.hangar.files import read_text

    text = read_text(file)
    found = file_problems(text, file.name)
    if not found:
        found = [
            f"{file.name}, {path}: danger: {said}"
            for path, said in motor_dangers(from_json(text, file.name))
        ]
    for said in found:
        click.echo(said)
    if found:
        sys.exit(1)
    click.echo(
        f"{file.name}: sound. It can be read, and its motors are at idle where they must be; the shakedown looks further."
    )


@cli.command("import")
@click.argument("file", type=click.Path(path_type=Path))
@click.pass_obj
def import_(demo: bool, file: Path) -> None:
    """Put a model file into the hangar."""
    from hypsos.core.checking.reader import from_json
    from hypsos.hangar.files import read_text

    model = from_json(read_text(file), file.name)
    with opened(demo) as hangar:
        owner = hangar.numbers().get(model.receiver.number)
        hangar.add(model)
    click.echo(f"{model.name} is in the hangar.")
    if owner is not None:
        click.echo(
            f"Its receiver number {model.receiver.number} is {owner}'s too: give it one of its own.",
            err=True,
        )


@cli.command()
@click.argument("model_name", metavar="MODEL")
@click.argument("file", type=click.Path(path_type=Path))
@click.pass_obj
def export(demo: bool, model_name: str, file: Path) -> None:
    """Write a model to a JSON file; one that cannot be read is written as it lies in the hangar."""
    from hypsos.core.base.errors import DocumentError
    from hypsos.core.document.document import to_json
    from hypsos.hangar.files import write_whole

    try:
        text = to_json(read_model(model_name, demo))
    except DocumentError as error:
        with opened(demo) as hangar:
            if model_name not in hangar.names():
                raise
            text = hangar.raw(model_name)
        click.echo(f"Written as it is: {clean(str(error))}", err=True)
    write_whole(file, text)


@cli.command()
@click.argument("what", type=click.Choice(["model", "settings", "transmitter"]), default="model")
def schema(what: str) -> None:
    """Print the JSON Schema of the model file, of settings, or of a transmitter."""
    if what == "model":
        from hypsos.core.document.document import json_schema

        found = json_schema()
    elif what == "settings":
        from hypsos.core.schools.settings_reader import settings_schema

        found = settings_schema()
    else:
        from hypsos.core.parts.transmitter_profile import Profile

        found = Profile.model_json_schema()
    click.echo(json.dumps(found, indent=1))


@cli.command()
@click.argument("folder", type=click.Path(path_type=Path))
@click.option("--size", default="1280x800", show_default=True, metavar="WxH")
def shots(folder: Path, size: str) -> None:
    """Write one PNG of each main view, from the demo hangar."""
    from hypsos.desk.shots import take_shots

    width, _, height = size.partition("x")
    if not (
        width.isdigit()
        and height.isdigit()
        and 640 <= int(width) <= 7680
        and 480 <= int(height) <= 4320
    ):
        raise HypsosError(f"{size!r} is not a size", "--size", "Write it as 1280x800.")
    for path in take_shots(folder, int(width), int(height)):
        click.echo(str(path))


cli.add_command(backup)
cli.add_command(restore)


def main() -> NoReturn:
    """Run the command line; every error is one sentence on stderr and status 2."""
    status = 0
    try:
        cli.main(standalone_mode=False)
        sys.stdout.flush()
    except SystemExit as leave:
        status = int(leave.code or 0)
        with suppress(OSError):
            sys.stdout.flush()
    except click.exceptions.Exit as leave:
        status = leave.exit_code
    except click.ClickException as error:
        _fail(error.format_message())
    except click.Abort:
        _fail("Stopped.")
    except HypsosError as error:
        _fail(str(error))
    except BrokenPipeError:
        _no_more_output()
        sys.exit(2)
    except OSError as error:
        _no_more_output()
        _fail(f"The output cannot be written ({error.strerror}).")
    except KeyboardInterrupt:
        _fail("Stopped.")
    except Exception as error:  # noqa: BLE001  whatever it is, it is written down and said in our words
        from hypsos.hangar.faults import sentence_of

        _fail(sentence_of(error, "command", " ".join(sys.argv[1:])))
    sys.exit(status)


def _no_more_output() -> None:
    """What is still waiting to be written has nowhere to go; Python would try it again at the end
    and complain."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _fail(sentence: str) -> NoReturn:
    click.echo(" ".join(sentence.split()).encode("utf-8", "replace").decode(), err=True)
    sys.exit(2)
