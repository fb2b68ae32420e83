# SPDX-License-Identifier: GPL-3.0-or-later
"""How dense the code reads, counted: `make measure`. A mirror, not a gate: nothing is split or
renamed to please it.

For each part of the product: decisions (branches, loops, handlers, each further ``and``/``or``,
conditional expressions, the loops and conditions inside comprehensions) for 1,000 letters;
conditional expressions and comprehensions for 100,000; functions whose decisions pass 10 and 15;
comments for 1,000 lines; lines over 100 letters; names of files and classes that stand twice.
Letters are those of the code itself, without docstrings, comments and the spaces in front. Beside
it are the figures of the well-kept code bases that were measured once, the same way, for the review
that asked for this.

    .venv/bin/python tools/measure.py [FOLDER ...]
"""

from __future__ import annotations

import ast
import io
import sys
import tokenize
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

ROOT = Path(__file__).parents[1]
PARTS = ("src/hypsos/core", "src/hypsos/desk", "src/hypsos/hangar", "tests")
BRANCHES = (ast.If, ast.IfExp, ast.For, ast.While, ast.ExceptHandler, ast.Assert, ast.match_case)
COMPREHENSIONS = (ast.ListComp, ast.SetComp, ast.DictComp, ast.GeneratorExp)
MODELS = {
    "decisions": "8.4-11.6", "conditional": "13-59", "comprehensions": "17-63", "over 10": "2-8 %", "over 15": "",
    "comments": "47-147", "long": "0.1-2 %",
}  # fmt: skip
"""What was counted in six well-kept code bases."""
TOOLS = ("noqa", "fmt:", "type:", "pragma", "SPDX")
"""Comments that speak to a tool, and not to a reader."""
LONG = 100


@dataclass
class Count:
    """What was counted in one part."""

    letters: int = 0
    lines: int = 0
    long: int = 0
    comments: int = 0
    decisions: int = 0
    conditional: int = 0
    comprehensions: int = 0
    functions: list[tuple[int, str]] = field(default_factory=list)

    def figures(self) -> dict[str, str]:
        """The figures of a row."""
        count = max(1, len(self.functions))

        def share(most: int) -> str:
            return f"{sum(n > most for n, _ in self.functions) / count:.1%}"

        return {
            "decisions": f"{1e3 * self.decisions / self.letters:.1f}",
            "conditional": f"{1e5 * self.conditional / self.letters:.0f}",
            "comprehensions": f"{1e5 * self.comprehensions / self.letters:.0f}",
            "over 10": share(10),
            "over 15": share(15),
            "comments": f"{1e3 * self.comments / self.lines:.0f}",
            "long": f"{self.long / self.lines:.1%}",
        }


def decisions(tree: ast.AST) -> int:
    """How many decisions a reader meets in a piece of code."""
    found = 0
    for node in ast.walk(tree):
        if isinstance(node, BRANCHES):
            found += 1
        elif isinstance(node, ast.BoolOp):
            found += len(node.values) - 1
        elif isinstance(node, ast.comprehension):
            found += 1 + len(node.ifs)
    return found


def letters(text: str) -> int:
    """The letters of the code itself: without comments, docstrings and white space."""
    found = 0
    before = tokenize.NEWLINE
    for token in tokenize.generate_tokens(io.StringIO(text).readline):
        alone = token.type == tokenize.STRING and before in (
            tokenize.NEWLINE,
            tokenize.NL,
            tokenize.INDENT,
        )
        if token.type not in (tokenize.COMMENT, tokenize.INDENT) and not alone:
            found += len(token.string.strip())
        if token.type != tokenize.COMMENT:
            before = token.type
    return found


def comments(text: str) -> int:
    """The comments that are written for a reader."""
    tokens = tokenize.generate_tokens(io.StringIO(text).readline)
    return sum(t.type == tokenize.COMMENT and not any(x in t.string for x in TOOLS) for t in tokens)


def counted(folder: Path) -> Count:
    """Count the files of a folder."""
    out = Count()
    for file in sorted(folder.rglob("*.py")):
        text = file.read_text()
        tree, lines = ast.parse(text), text.splitlines()
        out.letters += letters(text)
        out.lines += len(lines)
        out.long += sum(len(line) > LONG for line in lines)
        out.comments += comments(text)
        out.decisions += decisions(tree)
        for node in ast.walk(tree):
            out.conditional += isinstance(node, ast.IfExp)
            out.comprehensions += isinstance(node, COMPREHENSIONS)
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                out.functions.append((decisions(node), f"{file.relative_to(folder)}: {node.name}"))
    return out


def names_twice() -> tuple[list[str], list[str]]:
    """File names and class names that stand more than once in the product."""
    files, classes = Counter[str](), Counter[str]()
    for file in (ROOT / "src/hypsos").rglob("*.py"):
        files[file.stem] += not file.stem.startswith("__")
        for node in ast.parse(file.read_text()).body:
            if isinstance(node, ast.ClassDef):
                classes[node.name] += 1
    return twice(files), twice(classes)


def twice(names: Counter[str]) -> list[str]:
    """Those that stand more than once."""
    return sorted(name for name, count in names.items() if count > 1)


def main() -> None:
    """Print the table, what is most entangled, and what stands twice."""
    folders = [Path(x) for x in sys.argv[1:]] or [ROOT / x for x in PARTS]
    rows = {f.name: counted(f) for f in folders}
    print(f"{'':<16}" + "".join(f"{name:>14}" for name in rows) + f"{'well-kept':>14}")
    for figure, beside in MODELS.items():
        print(
            f"{figure:<16}"
            + "".join(f"{c.figures()[figure]:>14}" for c in rows.values())
            + f"{beside:>14}"
        )
    for name, count in rows.items():
        worst = sorted(count.functions, reverse=True)[:8]
        print(f"\n{name}, most decisions: " + ", ".join(f"{where} {n}" for n, where in worst))
    files, classes = names_twice()
    print(
        f"\nFile names twice: {', '.join(files) or 'none'}\nClass names twice: {', '.join(classes) or 'none'}"
    )


if __name__ == "__main__":
    main()
