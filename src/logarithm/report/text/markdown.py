"""The report as Markdown, for a pull request or a handout."""

from __future__ import annotations

import re

from ...results.findings import Findings
from ..contents import sections as parts
from ..contents.tables import Table

_SPECIAL = re.compile(r"([\\`*_{}\[\]<>#|~&])")
_LINE_START = re.compile(r"^(\s*)([-+]|\d+[.)])(\s)")


def markdown(findings: Findings, everything: bool = False, only: str | None = None) -> str:
    """The report as Markdown; nothing that comes from a study can be taken for markup."""
    title, question, facts = parts.heading(findings)
    lines = [f"# {plain(title)}", ""]
    if question:
        lines += [plain(question), ""]
    lines += [f"*{plain(facts)}*", ""]
    for section in parts.sections(findings, everything):
        if only not in (None, section.name):
            continue
        if section.title:
            lines += [f"## {plain(section.title)}", ""]
        told = [*(f"- {plain(line)}" for line in section.lines), ""] if section.lines else []
        tables = [line for table in section.tables if table.rows for line in (*_table(table), "")]
        lines += [*tables, *told] if section.tables_first else [*told, *tables]
    return "\n".join(lines).rstrip() + "\n"


def plain(text: str) -> str:
    """Text in which nothing is markup, on one line."""
    escaped = _SPECIAL.sub(r"\\\1", " ".join(text.split(" ")).replace("\n", " "))
    return _LINE_START.sub(r"\1\\\2\3", escaped)


def _table(table: Table) -> list[str]:
    lines = [f"**{plain(table.title)}**", ""] if table.title else []
    headings = table.headings or ("",) * len(table.rows[0])
    rules = ["---:" if at >= table.numbers else "---" for at in range(len(headings))]
    rows = [tuple(map(plain, row)) for row in table.rows]
    lines += [f"| {' | '.join(cells)} |" for cells in (tuple(map(plain, headings)), tuple(rules), *rows)]
    return [*lines, *(["", plain(table.foot)] if table.foot else [])]
