# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet as one page of HTML: for a browser and a telephone, with boxes that can be ticked."""

from __future__ import annotations

from functools import cache
from typing import Any

from hypsos.core.schools.on_paper.blocks import NEW_LINE
from hypsos.core.sheet.sheet_blocks import Sheet

HTML = """<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>{{ sheet.title }}</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<style>
body { font-family: "B612", sans-serif; font-size: 9pt; color: #1d2b2f; max-width: 960px; margin: 0 auto; padding: 0 8px; }
h1 { font-size: 17pt; margin: 0 0 2mm 0; }
h2 { font-size: 12pt; margin: 6mm 0 1mm 0; page-break-after: avoid; }
p { margin: 0 0 2mm 0; }
ul { margin: 0 0 2mm 0; padding-left: 5mm; }
.wide { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; margin: 0 0 2mm 0; }
thead { display: table-header-group; }
th { text-align: left; background-color: #e3e9e6; font-weight: bold; }
th, td { border: 1px solid #9b9484; padding: 3px 5px; vertical-align: top; }
.caution { background-color: #f7dfd0; border-left: 4px solid #a63a12; padding: 2mm 3mm; font-weight: bold; }
td.first { font-weight: bold; }
.tick { text-align: center; width: 2em; }
.tick input { width: 1.3em; height: 1.3em; }
tr { page-break-inside: avoid; }
footer { margin: 4mm 0; color: #5b6664; }
</style></head><body>
<h1>{{ sheet.title }}</h1>
<p>{{ sheet.subtitle }}</p>
{% for block in sheet.blocks %}
<h2>{{ block.title }}</h2>
{% if block.caution %}<table width="100%" border="0" cellspacing="0" cellpadding="5"><tr>
<td class="caution" bgcolor="#f7dfd0"><b>Take care. {{ block.caution }}</b></td></tr></table>{% endif %}
{% if block.lines %}<ul>{% for line in block.lines %}<li>{{ line }}</li>
{% endfor %}</ul>{% endif %}
{% if block.rows %}<div class="wide"><table width="100%" border="1" cellspacing="0" cellpadding="3">
<thead><tr>{% for column in block.columns %}<th>{{ column }}</th>{% endfor %}
{% if block.ticked %}<th class="tick">✓</th>{% endif %}</tr></thead>
{% for row in block.rows %}<tr>
{% for cell in row.cells %}<td{% if loop.first %} class="first"{% endif %}>
{% for line in cell.split(new_line) %}{{ line }}{% if not loop.last %}<br>{% endif %}{% endfor %}</td>{% endfor %}
{% if block.ticked %}<td class="tick">{{ box }}</td>{% endif %}</tr>
{% endfor %}</table></div>{% endif %}
{% endfor %}
<p>{{ sheet.closing }}</p>
{% if sheet.mark %}<footer>{{ sheet.name }}, digest {{ sheet.mark }}</footer>{% endif %}
</body></html>
"""
BOX = '<input type="checkbox" aria-label="done">'


def sheet_html(sheet: Sheet, ticks: bool = True) -> str:
    """The sheet as one HTML page; ``ticks``: with boxes that can be ticked."""
    from markupsafe import Markup  # comes with jinja2

    # the box is ours, no text of a pilot's
    box = Markup(BOX) if ticks else ""
    return str(template().render(sheet=sheet, new_line=NEW_LINE, box=box))


@cache
def template() -> Any:
    """The page, made ready once."""
    from jinja2 import Environment  # dear to import, so only when a sheet is written

    return Environment(autoescape=True, trim_blocks=True).from_string(HTML)
