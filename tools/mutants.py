"""Small faults planted one at a time in the core, and whether a test notices: `make mutants`.

Of every module a sample is drawn, always the same one; each fault is tried by the tests that touch the module, in a process
forked for it. What no test notices is listed, to be looked at: a hole in the tests, or a change that changes nothing
(then it is named, with the reason, in tools/mutants_equal.txt). Not part of `make test`.

    .venv/bin/python tools/mutants.py [--most 30] [--minutes 20] [--only guard,joined] [--seed 1]

With ``--draw 60`` so many faults are drawn from the whole product, window and all, but for what only paints (with ``--only
desk`` from the window alone). Which tests may
notice each is known from `tools/touched.py`, which has to be run first: the tests that call the function with the fault in
it, those first that call most of its module.

    PYTHONPATH=tools HYPSOS_TOUCHED=touched.json .venv/bin/python -m pytest -p touched tests
    .venv/bin/python tools/mutants.py --draw 60 --seed 7 --touched touched.json
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import re
import shutil
import signal
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/hypsos"
CORE = SOURCE / "core"
EQUAL = Path(__file__).with_name("mutants_equal.txt")
CORNERS = ("test_corners", "test_corners_engine", "test_corners_motor")
ENGINE = (
    "test_vectors", *CORNERS, "test_engine", "test_motor", "test_guard",
    "test_logic_modes", "test_figures", "test_reference",
)  # fmt: skip
TESTS: dict[str, tuple[str, ...]] = {
    "engine/axes": ENGINE,
    "engine/guard": ("test_guard_sequences", "test_motor", "test_guard", *ENGINE),
    "model/lines": ENGINE,
    "engine/logic": ("test_logic_modes", "test_voice", *ENGINE),
    "engine/memory": ("test_voice", *ENGINE, "test_workbench"),
    "engine/mixing": (*ENGINE, "test_motor", "test_guard"),
    "engine/modes": ("test_logic_modes", *ENGINE, "test_workbench"),
    "engine/motion": ("test_throws", *ENGINE),
    "engine/outputs": ("test_motor", "test_guard", *ENGINE),
    "engine/plan": ENGINE,
    "engine/shaping": ENGINE,
    "engine/situation": (*ENGINE, "test_hostile"),
    "parts/logic": ("test_logic_modes", *ENGINE),
    "engine/voice": ("test_voice", "test_scenarios"),
    "model/logic_order": ("test_voice", "test_logic_modes", "test_checks", *CORNERS, "test_reference"),
    "model/when_known": ("test_scenarios", "test_voice", "test_sentences", "test_checks"),
    "model/time_words": ("test_voice", "test_say_aloud"),
    "model/ready_voice": ("test_voice", "test_say_aloud", "test_jobs"),
    "model/choosing": ("test_sentences", "test_voice", "test_say"),
    "model/hands": ("test_hands", "test_transmitters", "test_sentences"),
    "model/transmitters": ("test_transmitters", "test_scenarios"),
    "model/guard_proposals": ("test_guard",),
    "flight/scenarios": ("test_scenarios", "test_timeline", "test_cli"),
    "flight/keeping": ("test_scenarios", "test_timeline"),
    "flight/ready_scenarios": ("test_scenarios", "test_timeline", "test_guard", "test_jobs"),
    "flight/tracks": ("test_timeline",),
    "flight/truth": ("test_guard_words", "test_say", "test_timeline"),
    "flight/guard_ways": ("test_guard_words",),
    "flight/rehearsals": ("test_guard_words",),
    "engine/sweep": (*ENGINE, "test_streams", "test_guard_words"),
    "engine/result": ("test_guard_words", *ENGINE),
    **dict.fromkeys(("shape/solid", "shape/solid_body", "shape/panel_frame", "shape/faces"), ("test_aeroplane",)),
    **dict.fromkeys(
        (
            f"shakedown/{n}"
            for n in (
                "acting",
                "apart",
                "compare",
                "conditions",
                "cone",
                "deciding",
                "giving",
                "motors",
                "motors_told",
                "moving",
                "papers",
                "play",
                "reach",
                "repairs",
                "report",
                "search",
                "space",
                "halves",
                "states",
                "steering",
                "surfaces",
                "waits",
            )
        ),
        ("test_apart", "test_shakedown_told", "test_shakedown"),
    ),
    "flight/capture": ("test_link",),
    **dict.fromkeys(
        (f"recipes/{n}" for n in ("camber", "corrections", "crow", "scaling", "snap_flap", "stick_flaps")),
        ("test_behaviours_more", "test_behaviours", "test_jobs_core"),
    ),
    **dict.fromkeys(
        ("model/mode_grid", "model/modes", "model/trim_sets", "model/tunables", "model/room", "flight/mode_ways"),
        ("test_program_parts", "test_behaviours_more", "test_modes"),
    ),
    **dict.fromkeys(
        ("model/mixes", "model/named_shapes", "flight/streams", "flight/sweeps"),
        ("test_program_parts", "test_behaviours_more", "test_streams"),
    ),
    "model/behaviours": ("test_program_parts", "test_behaviours_more", "test_behaviours", "test_streams"),
    "flight/showing": ("test_behaviours_more", "test_behaviours", "test_streams"),
    "fitting/carry": ("test_modes",),
    "fitting/rates": ("test_streams",),
    "model/reach": ("test_reach", *CORNERS),
    "flight/idle": (*CORNERS, "test_motor", "test_guard"),
    "flight/release": (*CORNERS, "test_motor", "test_guard"),
    "model/trims": (*CORNERS, "test_figures"),
    "model/failsafe": ("test_failsafe", "test_link", "test_motor", "test_guard", "test_engine"),
    "parts/linkage": (*CORNERS, "test_vectors", "test_throws", "test_logic_modes"),
    "fitting/throws": (*CORNERS, "test_throws", "test_figures"),
    "fitting/directions": (*CORNERS, "test_directions"),
    "fitting/mending": ("test_corners", "test_directions"),
    "model/joined": ("test_joined", "test_motor", "test_guard"),
    **dict.fromkeys(
        ("checking/checks", "checking/logic_checks", "checking/problem"),
        (
            "test_checks",
            "test_engine",
            "test_logic_modes",
            "test_figures",
            "test_joined",
            "test_airframe",
        ),
    ),
    "shape/adapt": (*CORNERS, "test_airframe", "test_figures"),
    "model/detach": ("test_behaviours", "test_jobs_core", *CORNERS, "test_figures", "test_directions"),
    "model/migrate": (*CORNERS, "test_migrate"),
    "recipes/ailerons": (*CORNERS, "test_engine", "test_figures"),
    "recipes/canards": (*CORNERS, "test_airframe", "test_figures"),
    "recipes/elevons": ("test_behaviours", *CORNERS, "test_airframe", "test_engine"),
    "recipes/flaps": (*CORNERS, "test_engine", "test_figures"),
    "recipes/base": ("test_behaviours", "test_airframe", *CORNERS, "test_figures"),
    "recipes/thrust": (
        "test_corners",
        "test_corners_motor",
        "test_airframe",
        "test_motor",
        "test_guard",
        "test_logic_modes",
    ),
    "recipes/v_tail": (*CORNERS, "test_airframe", "test_engine"),
}
IN_A_PROCESS_OF_ITS_OWN = {
    "desk/shaker": ("test_faults", "test_shaking"), "desk/app": ("test_faults", "test_door"), "desk/display": ("test_door",),
}  # fmt: skip
"""Modules that tests start as programs: there nothing sees which lines run."""
STRICT = ("engine/guard", "engine/outputs", "model/failsafe", "model/joined")
WANTED, WANTED_STRICT = 0.90, 0.97
LONGEST_S, LONGEST_FURTHER_S = 300, 900
"""Seconds after which tests count as some that do not end: those of a fault, and the further ones."""


@dataclass(frozen=True)
class Mutant:
    """A fault: where it is and what it does. ``place`` and ``choice`` find it again in the module."""

    module: str
    line: int
    what: str
    place: int = -1
    choice: int = 0
    root: str = "core"
    tests: tuple[str, ...] = ()
    """The tests that are tried; those of its module where none are named."""
    further: tuple[str, ...] = ()
    """Others that call the function, tried where those notice nothing."""

    @property
    def key(self) -> str:
        """As it is named in the list of those that change nothing."""
        return f"{self.module}: {self.what}"

    @property
    def file(self) -> str:
        """The module's file below the package."""
        return f"{self.root}/{self.module}.py" if self.root else f"{self.module}.py"

    def source(self) -> str:
        """The module's text with the fault in it."""
        tree = ast.parse((SOURCE / self.file).read_text())
        if self.place >= 0:
            parent, name, index = _places(tree)[self.place]
            field = getattr(parent, name)
            other = list(changes(field if index is None else field[index]))[self.choice]
            if index is None:
                setattr(parent, name, other)
            else:
                field[index] = other
        return ast.unparse(ast.fix_missing_locations(tree))


SWAPS: dict[type[ast.AST], tuple[type[ast.AST], ...]] = {
    ast.Lt: (ast.LtE, ast.GtE), ast.LtE: (ast.Lt, ast.Gt), ast.Gt: (ast.GtE, ast.LtE), ast.GtE: (ast.Gt, ast.Lt),
    ast.Eq: (ast.NotEq,), ast.NotEq: (ast.Eq,), ast.Is: (ast.IsNot,), ast.IsNot: (ast.Is,), ast.In: (ast.NotIn,),
    ast.NotIn: (ast.In,), ast.Add: (ast.Sub,), ast.Sub: (ast.Add,), ast.Mult: (ast.Div,), ast.Div: (ast.Mult,),
    ast.BitAnd: (ast.BitOr,), ast.BitOr: (ast.BitAnd,), ast.And: (ast.Or,), ast.Or: (ast.And,),
}  # fmt: skip


def changes(node: ast.AST) -> Iterator[ast.AST]:
    """Other nodes to stand in a node's place."""
    if isinstance(node, ast.Compare) and len(node.ops) == 1:
        for op in SWAPS.get(type(node.ops[0]), ()):
            yield ast.Compare(node.left, [op()], node.comparators)
    elif isinstance(node, ast.BinOp):
        for op in SWAPS.get(type(node.op), ()):
            yield ast.BinOp(node.left, op(), node.right)
    elif isinstance(node, ast.BoolOp):
        for op in SWAPS[type(node.op)]:
            yield ast.BoolOp(op(), node.values)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        yield node.operand
    elif isinstance(node, ast.IfExp):
        yield ast.IfExp(node.test, node.orelse, node.body)
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield ast.Constant(not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        yield ast.Constant(node.value + 1 if isinstance(node.value, int) else node.value * 1.5 + 1.0)
    elif (isinstance(node, ast.AugAssign)) or (isinstance(node, ast.Expr) and isinstance(node.value, ast.Call)):
        yield ast.Pass()


class _Places(ast.NodeVisitor):
    """The nodes that may be changed: no annotations, no messages, no text, no default of what is never read (``_``)."""

    def __init__(self) -> None:
        self.found: list[tuple[ast.AST, str, int | None]] = []

    def generic_visit(self, node: ast.AST) -> None:
        for name, value in ast.iter_fields(node):
            if name in ("annotation", "returns", "decorator_list", "format_spec", "bases", "type_params"):
                continue
            if isinstance(node, ast.arguments) and name == "defaults" and node.args and node.args[0].arg == "_":
                continue
            for index, child in enumerate(value) if isinstance(value, list) else ((None, value),):
                if isinstance(child, ast.Raise | ast.JoinedStr | ast.ImportFrom | ast.Import) or not isinstance(
                    child, ast.AST
                ):
                    continue
                if isinstance(child, ast.Assign) and any(
                    isinstance(t, ast.Name) and t.id == "__all__" for t in child.targets
                ):
                    continue
                self.found.append((node, name, index))
                self.visit(child)


def _places(tree: ast.AST) -> list[tuple[ast.AST, str, int | None]]:
    places = _Places()
    places.visit(tree)
    return places.found


def mutants(module: str, root: str = "core") -> list[Mutant]:
    """Every fault that could be planted in a module."""
    out = []
    for place, (parent, name, index) in enumerate(_places(ast.parse((SOURCE / root / f"{module}.py").read_text()))):
        field = getattr(parent, name)
        node = field if index is None else field[index]
        for choice, other in enumerate(changes(node)):
            what = f"{ast.unparse(node)} -> {ast.unparse(other)}"
            out.append(Mutant(module, getattr(node, "lineno", 0), " ".join(what.split())[:400], place, choice, root))
    return out


def noticed(mutant: Mutant, tree: Path, longest_s: float = LONGEST_S) -> bool:
    """Whether a test fails with it, or does not end."""
    target = tree / "src/hypsos" / mutant.file
    kept, stat = target.read_text(), target.stat()
    target.write_text(mutant.source())
    os.utime(target, (stat.st_atime, stat.st_mtime + 1000))
    child = os.fork()
    if child == 0:
        os.setsid()
        null = os.open(os.devnull, os.O_RDWR)
        for stream in (0, 1, 2):
            os.dup2(null, stream)
        os.chdir(tree)
        sys.path.insert(0, str(tree / "src"))
        os.environ["PYTHONPATH"] = str(tree / "src")  # programs that a test starts have the fault, too
        import pytest

        files = [f"tests/{t}.py" for t in dict.fromkeys(mutant.tests or TESTS[mutant.module])]
        os._exit(int(pytest.main(["-x", "-q", "-p", "no:cacheprovider", "-o", "addopts=", *files])))
    deadline = time.monotonic() + longest_s
    status: int | None = None
    while status is None and time.monotonic() < deadline:
        done, code = os.waitpid(child, os.WNOHANG)
        status = os.waitstatus_to_exitcode(code) if done else None
        time.sleep(0.02)
    if status is None:
        os.killpg(child, signal.SIGKILL)
        os.waitpid(child, 0)
    target.write_text(kept)
    os.utime(target, (stat.st_atime, stat.st_mtime))
    return status != 0


def worker(mine: list[Mutant], deadline: float, pipe: int) -> None:
    """Try some faults in a copy of the package; a line for each on the pipe: 0 or 1, and its number."""
    import hypothesis  # noqa: F401 - what every child needs is loaded once
    import numpy  # noqa: F401
    import pydantic  # noqa: F401
    import PyQt6.QtWidgets  # noqa: F401
    import pytest  # noqa: F401
    import scipy.interpolate  # noqa: F401

    sys.dont_write_bytecode = True
    os.environ |= {"QT_QPA_PLATFORM": "offscreen", "HYPSOS_RANDOM_MODELS": "60", "OPENBLAS_NUM_THREADS": "1"}
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder)
        for part in ("src", "tests", "bench"):  # so that work may go on meanwhile
            shutil.copytree(ROOT / part, tree / part, copy_function=shutil.copy2)
        for module in {TESTS[m.module]: m.module for m in mine if not m.tests}.values():
            if noticed(Mutant(module, 0, "nothing"), tree):
                os.write(pipe, f"! {module}: its tests fail without any fault\n".encode())
                return
        for mutant in mine:
            if time.monotonic() > deadline:
                break
            result = noticed(mutant, tree)
            if not result and mutant.further:
                result = noticed(replace(mutant, tests=mutant.further), tree, LONGEST_FURTHER_S)
            os.write(pipe, f"{int(result)} {mutant.key} @{mutant.line}\n".encode())


def named_equal() -> list[tuple[str, str]]:
    """What changes nothing, and the part of its line that tells it from others alike (or "")."""
    rows = (row.split("  #")[0].split(" | ") for row in EQUAL.read_text().splitlines() if not row.startswith("#"))
    return [(key.strip(), "".join(rest).strip()) for key, *rest in rows]


def main() -> int:
    """Draw, try, tell."""
    ask = argparse.ArgumentParser()
    ask.add_argument("--most", type=int, default=24)
    ask.add_argument("--minutes", type=float, default=19.0)
    ask.add_argument("--only", default="")
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--workers", type=int, default=os.cpu_count() or 2)
    ask.add_argument("--draw", type=int, default=0)
    ask.add_argument("--touched", type=Path, default=Path("touched.json"))
    given = ask.parse_args()
    if given.draw:
        drawn = drawn_anywhere(given.draw, given.seed, json.loads(given.touched.read_text()), given.only)
        return tried_all(drawn, sorted({m.module for m in drawn}), given)
    names = [n for n in TESTS if not given.only or any(n == o or n.endswith("/" + o) for o in given.only.split(","))]
    equal = named_equal()
    dice, drawn = random.Random(given.seed), []
    for name in names:
        text = (CORE / f"{name}.py").read_text().splitlines()
        all_ = [m for m in mutants(name) if not any(m.key == k and part in text[m.line - 1] for k, part in equal)]
        drawn += dice.sample(all_, min(given.most, len(all_)))
    dice.shuffle(drawn)
    return tried_all(drawn, names, given)


PAINTS = re.compile(r"(?i)paint|draw|sizehint|resizeevent|polish")
PAINTING_CALLS = re.compile(r"painter\.|^self\.update\(\) -> pass")
"""What tells a painter something, or asks for a picture to be painted anew."""
LAYING_OUT = re.compile(
    r"\.(set(Column|Row)?Stretch|set(Horizontal|Vertical)?Spacing|setContentsMargins|addSpacing|add(Widget|Layout))\(|look\.hold\("
)
"""Lines that only say where, how wide or how far apart something is."""
PAINTING = ("desk/theme", "desk/bench/scene", "desk/bench/propeller", "desk/widgets/planform", "desk/shots")
"""Modules that only paint."""
MOST_FILES, FURTHER = 8, 20
"""Test files tried for a fault anywhere, and how many more where those notice nothing."""


def drawn_anywhere(count: int, seed: int, touched: dict[str, dict[str, list[str]]], only: str = "") -> list[Mutant]:
    """So many faults from the whole product (or ``only`` where the names of modules begin so), each in a function that some
    test calls or in none at all."""
    dice, equal = random.Random(seed), named_equal()
    modules = sorted(str(p.relative_to(SOURCE).with_suffix("")) for p in SOURCE.rglob("*.py"))
    modules = [m for m in modules if m.startswith(only)]
    breadth: dict[str, int] = {}
    """Test file -> how many functions of the product it calls: the fewer, the nearer it is to each of them."""
    for mine in (x for called in touched.values() for x in called.values()):
        for test in mine:
            breadth[test] = breadth.get(test, 0) + 1
    every = []
    for module in (m for m in modules if not m.startswith(PAINTING)):
        called, functions = touched.get(module, {}), functions_of(module)
        core, text = module.removeprefix("core/"), (SOURCE / f"{module}.py").read_text().splitlines()
        for m in mutants(module, root=""):
            name = next((n for n, first, last in functions if first <= m.line <= last), "")
            changes_nothing = any(f"{core}: {m.what}" == k and part in text[m.line - 1] for k, part in equal)
            paints = PAINTS.search(name) or PAINTING_CALLS.search(m.what) or LAYING_OUT.search(text[m.line - 1])
            if paints or changes_nothing:
                continue
            anywhere = called.get(name, []) if name else sorted({t for mine in called.values() for t in mine})
            files = called.get(f"line {m.line}", anywhere)
            weight = {t: sum(t in mine for mine in called.values()) for t in files}
            nearest = sorted(files, key=lambda t: (-weight[t], breadth[t], t))
            named = TESTS.get(core, ()) + IN_A_PROCESS_OF_ITS_OWN.get(module, ())
            tests = tuple(dict.fromkeys((*named, *nearest)))[: max(MOST_FILES, len(named))]
            further = tuple(t for t in nearest if t not in tests)[:FURTHER]
            every.append(replace(m, tests=tests or ("test_words",), further=further))
    return dice.sample(every, min(count, len(every)))


def functions_of(module: str) -> list[tuple[str, int, int]]:
    """The functions of a module as (qualified name, first line, last line), the innermost first."""
    out: list[tuple[str, int, int]] = []

    def walk(node: ast.AST, before: str) -> None:
        for child in ast.iter_child_nodes(node):
            name = getattr(child, "name", "")
            if isinstance(child, ast.FunctionDef):
                walk(child, f"{before}{name}.<locals>.")
                out.append((f"{before}{name}", child.lineno, child.end_lineno or child.lineno))
            else:
                walk(child, f"{before}{name}." if isinstance(child, ast.ClassDef) else before)

    walk(ast.parse((SOURCE / f"{module}.py").read_text()), "")
    return out


def tried_all(drawn: list[Mutant], names: list[str], given: argparse.Namespace) -> int:
    """Try them all, some at a time, and tell."""
    print(f"{len(drawn)} faults in {len(names)} modules, {given.workers} at a time")
    deadline = time.monotonic() + 60 * given.minutes
    read, write = os.pipe()
    children = []
    for k in range(given.workers):
        child = os.fork()
        if child == 0:
            os.close(read)
            worker(drawn[k :: given.workers], deadline, write)
            os._exit(0)
        children.append(child)
    os.close(write)
    tried: dict[str, list[bool]] = {n: [] for n in names}
    left = []
    with os.fdopen(read) as results:
        for line in results:
            if line[0] == "!":
                print(line[2:].strip())
                return 2
            seen, key = line[0] == "1", line[2:].strip()
            tried[key.split(":")[0]].append(seen)
            count = sum(map(len, tried.values()))
            if not seen:
                left.append(key)
                print(f"{count} of {len(drawn)}, not noticed: {key}", flush=True)
            if sys.stderr.isatty():
                sys.stderr.write(f"\r{count} of {len(drawn)}")
    for child in children:
        os.waitpid(child, 0)
    return told(tried, left, len(drawn))


def told(tried: dict[str, list[bool]], left: list[str], drawn: int) -> int:
    """The table, and what no test noticed. 1 where a module falls short."""
    short = 0
    print(f"{'module':<22}{'tried':>6}{'noticed':>9}")
    for name, seen in tried.items():
        if seen:
            share, wanted = sum(seen) / len(seen), WANTED_STRICT if name in STRICT else WANTED
            short += share < wanted
            print(f"{name:<22}{len(seen):>6}{share:>9.0%}{'' if share >= wanted else f'   wanted {wanted:.0%}'}")
    every = [s for seen in tried.values() for s in seen]
    print(f"{'all':<22}{len(every):>6}{sum(every) / max(1, len(every)):>9.0%}   of {drawn} drawn")
    for part in ("core", "desk"):
        mine = [s for name, seen in tried.items() if name.startswith(f"{part}/") for s in seen]
        if mine:
            print(f"{part:<22}{len(mine):>6}{sum(mine) / len(mine):>9.0%}")
    if left:
        print("\nNo test noticed:")
        print("\n".join(f"  {x}" for x in sorted(left)))
    return int(short > 0)


if __name__ == "__main__":
    sys.exit(main())
