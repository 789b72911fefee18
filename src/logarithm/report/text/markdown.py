"""A document as Markdown, for a pull request or a handout."""

from __future__ import annotations

import re

from ..document import Document, Line, Section, Table, plain

_SPECIAL = re.compile(r"([\\`*_{}\[\]<>#|~&])")
_LINE_START = re.compile(r"^(\s*)([-+]|\d+[.)])(\s)")


def markdown(document: Document) -> str:
    """A document as Markdown; nothing that comes from a study can be taken for markup."""
    lines = [f"# {escaped(document.title)}", ""] if document.title else []
    lines += [escaped(document.subtitle), ""] if document.subtitle else []
    lines += [f"*{escaped(document.facts)}*", ""] if document.facts else []
    for section in document.sections:
        lines += _section(section)
    return "\n".join(lines).rstrip() + "\n"


def _section(section: Section) -> list[str]:
    head = [f"## {escaped(section.title)}", ""] if section.title else []
    told = [*(f"- {escaped(line)}" for line in section.lines), ""] if section.lines else []
    tables = [line for table in section.tables if table.rows for line in (*_table(table), "")]
    as_it_is = ["```", section.text.replace("```", "'''"), "```", ""] if section.text else []
    return [*head, *([*tables, *told] if section.tables_first else [*told, *tables]), *as_it_is]


def escaped(line: Line) -> str:
    """Text in which nothing is markup, on one line."""
    text = _SPECIAL.sub(r"\\\1", plain(line).replace("\n", " "))
    return _LINE_START.sub(r"\1\\\2\3", text)


def _table(table: Table) -> list[str]:
    lines = [f"**{escaped(table.title)}**", ""] if table.title else []
    headings = table.headings or ("",) * len(table.rows[0])
    rules = ["---:" if at >= table.numbers else "---" for at in range(len(headings))]
    rows = [tuple(map(escaped, row)) for row in table.rows]
    lines += [f"| {' | '.join(cells)} |" for cells in (tuple(map(escaped, headings)), tuple(rules), *rows)]
    return [*lines, *(["", escaped(table.below)] if table.below else [])]
