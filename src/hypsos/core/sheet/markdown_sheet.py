# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet as Markdown, with boxes to tick."""

from __future__ import annotations

import re

from hypsos.core.sheet.sheet_parts import Sheet

_MARKS = re.compile(r"([\\`*_{}\[\]<>#|~])")


def sheet_markdown(sheet: Sheet) -> str:
    """The sheet as Markdown, with boxes to tick."""
    lines = [
        f"# {_text(sheet.title)}",
        "",
        _text(sheet.subtitle),
        "",
        *(x for line in sheet.proof for x in (f"**{_text(line)}**", "")),
        "## Port list",
        "",
        "| port | lead | moves |",
        "|---|---|---|",
    ]
    lines += [f"| {_text(a)} | {_text(b)} | {_text(c)} |" for a, b, c in sheet.ports]
    for section in sheet.sections:
        lines += ["", f"## {_text(section.title)}", ""]
        if section.caution:
            lines += [f"> **Take care.** {_text(section.caution)}", ""]
        lines += ["| no. | set | to | you should see | done |", "|---:|---|---|---|---|"]
        lines += [
            f"| {s.number} | {_text(s.what)} | {_text(s.value)} | {_text(s.expect)} | [ ] |"
            for s in section.steps
        ]
    return "\n".join([*lines, "", _text(sheet.closing), ""])


def _text(text: str) -> str:
    """A text that stays a text: what a pilot has written makes no heading, no row, no tick and no
    link."""
    return _MARKS.sub(r"\\\1", " ".join(text.split()))
