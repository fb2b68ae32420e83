# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet as one page of HTML, for a browser, a printer, or the PDF."""

from __future__ import annotations

from functools import cache
from typing import Any

from hypsos.core.sheet.sheet_parts import Sheet

HTML = """<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>{{ sheet.title }}</title>
<style>
body { font-family: "B612", sans-serif; font-size: 9pt; color: #1d2b2f; max-width: 720px; margin: 0 auto; }
h1 { font-size: 17pt; margin: 0 0 2mm 0; }
h2 { font-size: 12pt; margin: 6mm 0 1mm 0; }
p { margin: 0 0 2mm 0; }
table { border-collapse: collapse; width: 100%; margin: 0 0 2mm 0; }
th { text-align: left; background-color: #e3e9e6; font-weight: bold; }
th, td { border: 1px solid #9b9484; padding: 3px 5px; vertical-align: top; }
.number, .tick { text-align: right; }
.caution { background-color: #f7dfd0; border-left: 4px solid #a63a12; padding: 2mm 3mm; font-weight: bold; }
tr { page-break-inside: avoid; }
</style></head><body>
<h1>{{ sheet.title }}</h1>
<p>{{ sheet.subtitle }}</p>
{% for line in sheet.proof %}<p><b>{{ line }}</b></p>
{% endfor %}<h2>Port list</h2>
<table width="100%" border="1" cellspacing="0" cellpadding="3">
<thead><tr><th width="12%">Port</th><th width="44%">Lead</th><th width="44%">Moves</th></tr></thead>
{% for port, lead, part in sheet.ports %}<tr><td>{{ port }}</td><td>{{ lead }}</td><td>{{ part }}</td></tr>
{% endfor %}</table>
{% for section in sheet.sections %}
<h2>{{ section.title }}</h2>
{% if section.caution %}<table width="100%" border="0" cellspacing="0" cellpadding="5"><tr>
<td class="caution" bgcolor="#f7dfd0"><b>Take care. {{ section.caution }}</b></td></tr></table>{% endif %}
<table width="100%" border="1" cellspacing="0" cellpadding="3">
<thead><tr><th width="8%">No</th><th width="30%">Set</th><th width="27%">To</th><th width="24%">You should see</th>
<th width="11%">✓</th></tr></thead>
{% for step in section.steps %}<tr><td class="number">{{ step.number }}</td><td>{{ step.what }}</td>
<td><b>{{ step.value }}</b></td><td>{{ step.expect }}</td><td class="tick">&nbsp;</td></tr>
{% endfor %}</table>
{% endfor %}
<p>{{ sheet.closing }}</p>
</body></html>
"""


def sheet_html(sheet: Sheet) -> str:
    """The sheet as one HTML page, for a browser, a printer, or the PDF."""
    return str(template().render(sheet=sheet))


@cache
def template() -> Any:
    """The page, made ready once."""
    from jinja2 import Environment  # dear to import, so only when a sheet is written

    return Environment(autoescape=True, trim_blocks=True).from_string(HTML)
