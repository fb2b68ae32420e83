# SPDX-License-Identifier: GPL-3.0-or-later
"""Small faults planted one at a time in the product, and whether a test notices: `make mutants`.

So many faults are drawn from the whole product, window and all, but for what only paints. Each is
tried by the tests that run its very line, in a process forked for it: those first that run most of
its module and little else. What no test notices is listed, to be looked at: a hole in the tests, or
a change that changes nothing (then it is named, with the reason, in tools/mutants_equal.txt). Not
part of `make test`. Which tests run which line is found out by `make covered`, before.

    .venv/bin/python tools/mutants.py [--draw 60] [--seed 1] [--only desk] [--minutes 60] [--workers 2]
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
from typing import cast

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/hypsos"
COVERED = ROOT / ".covered.json"
EQUAL = Path(__file__).with_name("mutants_equal.txt")
IN_A_PROCESS_OF_ITS_OWN = {
    "desk/services/search_server": ("test_faults", "test_shaking"),
    "desk/app": ("test_faults", "test_door"),
    "desk/display": ("test_door",),
}
"""Modules that tests start as programs: there nothing sees which lines run."""
WANTED = {"core": 0.90, "desk": 0.80}
"""The share of the faults in a part that tests should notice."""
LONGEST_S, LONGEST_FURTHER_S = 300, 900
"""Seconds after which tests count as some that do not end: those of a fault, and the further
ones."""


@dataclass(frozen=True)
class Mutant:
    """A fault: where it is and what it does. ``place`` and ``choice`` find it again in the
    module."""

    module: str
    line: int
    what: str
    place: int = -1
    choice: int = 0
    tests: tuple[str, ...] = ()
    """The tests that are tried."""
    further: tuple[str, ...] = ()
    """Others that call the function, tried where those notice nothing."""

    @property
    def key(self) -> str:
        """As it is named in the list of those that change nothing."""
        return f"{self.module}: {self.what}"

    @property
    def file(self) -> str:
        """The module's file below the package."""
        return f"{self.module}.py"

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
            yield ast.Compare(node.left, [cast(ast.cmpop, op())], node.comparators)
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
        yield ast.Constant(
            node.value + 1 if isinstance(node.value, int) else node.value * 1.5 + 1.0
        )
    elif (isinstance(node, ast.AugAssign)) or (
        isinstance(node, ast.Expr) and isinstance(node.value, ast.Call)
    ):
        yield ast.Pass()


class _Places(ast.NodeVisitor):
    """The nodes that may be changed: no annotations, no messages, no text, no default of what is
    never read (``_``)."""

    def __init__(self) -> None:
        self.found: list[tuple[ast.AST, str, int | None]] = []

    def generic_visit(self, node: ast.AST) -> None:
        for name, value in ast.iter_fields(node):
            if name in (
                "annotation",
                "returns",
                "decorator_list",
                "format_spec",
                "bases",
                "type_params",
            ):
                continue
            if (
                isinstance(node, ast.arguments)
                and name == "defaults"
                and node.args
                and node.args[0].arg == "_"
            ):
                continue
            for index, child in enumerate(value) if isinstance(value, list) else ((None, value),):
                if isinstance(
                    child, ast.Raise | ast.JoinedStr | ast.ImportFrom | ast.Import
                ) or not isinstance(child, ast.AST):
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


def mutants(module: str) -> list[Mutant]:
    """Every fault that could be planted in a module."""
    out = []
    for place, (parent, name, index) in enumerate(
        _places(ast.parse((SOURCE / f"{module}.py").read_text()))
    ):
        field = getattr(parent, name)
        node = field if index is None else field[index]
        for choice, other in enumerate(changes(node)):
            what = f"{ast.unparse(node)} -> {ast.unparse(other)}"
            out.append(
                Mutant(
                    module, getattr(node, "lineno", 0), " ".join(what.split())[:400], place, choice
                )
            )
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
        os.environ["PYTHONPATH"] = str(
            tree / "src"
        )  # programs that a test starts have the fault, too
        import pytest

        files = [f"tests/{t}.py" for t in mutant.tests]
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
    """Try some faults in a copy of the package; a line for each on the pipe: 0 or 1, and its
    number."""
    import hypothesis  # noqa: F401 - what every child needs is loaded once
    import numpy  # noqa: F401
    import pydantic  # noqa: F401
    import PyQt6.QtWidgets  # noqa: F401
    import pytest  # noqa: F401
    import scipy.interpolate  # noqa: F401

    sys.dont_write_bytecode = True
    os.environ |= {
        "QT_QPA_PLATFORM": "offscreen",
        "HYPSOS_RANDOM_MODELS": "60",
        "OPENBLAS_NUM_THREADS": "1",
    }
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder)
        for part in ("src", "tests", "benchmarks"):  # so that work may go on meanwhile
            shutil.copytree(ROOT / part, tree / part, copy_function=shutil.copy2)
        for mutant in mine:
            if time.monotonic() > deadline:
                break
            result = bool(mutant.tests) and noticed(mutant, tree)
            if not result and mutant.further:
                result = noticed(replace(mutant, tests=mutant.further), tree, LONGEST_FURTHER_S)
            os.write(pipe, f"{int(result)} {mutant.key} @{mutant.line}\n".encode())


def named_equal() -> list[tuple[str, str]]:
    """What changes nothing, and the part of its line that tells it from others alike (or "")."""
    rows = (
        row.split("  #")[0].split(" | ")
        for row in EQUAL.read_text().splitlines()
        if not row.startswith("#")
    )
    return [(key.strip(), "".join(rest).strip()) for key, *rest in rows]


def out_of_date() -> Iterator[tuple[str, str]]:
    """What is named as changing nothing, and is no change of any line as the modules are now."""
    for key, part in named_equal():
        module = key.split(": ")[0]
        file = SOURCE / f"{module}.py"
        text = file.read_text().splitlines() if file.exists() else []
        found = [m for m in mutants(module) if m.key == key] if text else []
        if not any(part in text[m.line - 1] for m in found):
            yield key, part


def main() -> int:
    """Draw, try, tell."""
    ask = argparse.ArgumentParser()
    ask.add_argument("--draw", type=int, default=60)
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--only", default="")
    ask.add_argument("--minutes", type=float, default=60.0)
    ask.add_argument("--workers", type=int, default=os.cpu_count() or 2)
    ask.add_argument("--covered", type=Path, default=COVERED)
    given = ask.parse_args()
    for key, part in out_of_date():
        print(f"{EQUAL.name}: there is no such change any more: {key} {part}".rstrip())
    return tried_all(
        drawn(given.draw, given.seed, json.loads(given.covered.read_text()), given.only), given
    )


PAINTS = re.compile(r"(?i)paint|draw|sizehint|resizeevent|polish")
PAINTING_CALLS = re.compile(r"painter\.|^self\.update\(\) -> pass")
"""What tells a painter something, or asks for a picture to be painted anew."""
LAYING_OUT = re.compile(
    r"\.(set(Column|Row)?Stretch|set(Horizontal|Vertical)?Spacing|setContentsMargins|addSpacing|add(Widget|Layout))\(|look\.hold\("
)
"""Lines that only say where, how wide or how far apart something is."""
PAINTING = (
    "desk/theme",
    "desk/bench/scene",
    "desk/bench/propeller",
    "desk/widgets/planform",
    "desk/shots",
)
"""Modules that only paint."""
MOST_FILES, FURTHER = 8, 20
"""Test files tried for a fault anywhere, and how many more where those notice nothing."""


def drawn(
    count: int, seed: int, covered: dict[str, dict[str, list[str]]], only: str = ""
) -> list[Mutant]:
    """So many faults from the whole product, or from the modules whose names begin with ``only``.

    A fault in a line that no test runs is drawn, too: it is one that nothing notices.
    """
    lines_of: dict[str, int] = {}
    """Test file -> how many lines of the product it runs: the fewer, the nearer it is to each of
    them."""
    for tests in (x for lines in covered.values() for x in lines.values()):
        for test in tests:
            lines_of[test] = lines_of.get(test, 0) + 1
    every: list[Mutant] = []
    for file in sorted(SOURCE.rglob("*.py")):
        module = str(file.relative_to(SOURCE).with_suffix(""))
        if module.startswith(only) and not module.startswith(PAINTING):
            every += faults_of(module, covered.get(module, {}), lines_of)
    return random.Random(seed).sample(every, min(count, len(every)))


def faults_of(
    module: str, lines: dict[str, list[str]], lines_of: dict[str, int]
) -> Iterator[Mutant]:
    """The faults of a module, each with the tests that run its line; without those that only paint
    or change nothing."""
    functions, text = functions_of(module), (SOURCE / f"{module}.py").read_text().splitlines()
    equal = [(part, key) for key, part in named_equal() if key.startswith(f"{module}: ")]
    weight: dict[str, int] = {}
    for tests in lines.values():
        for test in tests:
            weight[test] = weight.get(test, 0) + 1
    for m in mutants(module):
        line = text[m.line - 1]
        name = next((n for n, first, last in functions if first <= m.line <= last), "")
        paints = PAINTS.search(name) or PAINTING_CALLS.search(m.what) or LAYING_OUT.search(line)
        changes_nothing = any(m.key == key and part in line for part, key in equal)
        if paints or changes_nothing:
            continue
        nearest = sorted(lines.get(str(m.line), []), key=lambda t: (-weight[t], lines_of[t], t))
        first = (*IN_A_PROCESS_OF_ITS_OWN.get(module, ()), *nearest)
        yield replace(m, tests=first[:MOST_FILES], further=first[MOST_FILES : MOST_FILES + FURTHER])


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


def tried_all(drawn: list[Mutant], given: argparse.Namespace) -> int:
    """Try them all, some at a time, and tell."""
    print(f"{len(drawn)} faults, {given.workers} at a time", flush=True)
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
    tried: dict[str, list[bool]] = {}
    left = []
    with os.fdopen(read) as results:
        for line in results:
            seen, key = line[0] == "1", line[2:].strip()
            tried.setdefault(key.split("/")[0], []).append(seen)
            if not seen:
                left.append(key)
            count = sum(map(len, tried.values()))
            print(
                f"{count} of {len(drawn)}, {'noticed' if seen else 'NOT NOTICED'}: {key}",
                flush=True,
            )
    for child in children:
        os.waitpid(child, 0)
    return told(tried, left)


def told(tried: dict[str, list[bool]], left: list[str]) -> int:
    """How many were noticed, and what no test noticed. 1 where a part falls short of what is
    wanted."""
    short = 0
    for part, seen in sorted(tried.items()):
        share = sum(seen) / len(seen)
        short += share < WANTED.get(part, 0.0)
        print(f"{part:<10}{sum(seen):>4} of {len(seen)} noticed, {share:.0%}")
    if left:
        print("\nNo test noticed:")
        print("\n".join(f"  {x}" for x in sorted(left)))
    return int(short > 0)


if __name__ == "__main__":
    sys.exit(main())
