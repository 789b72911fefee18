"""The report as text for a terminal: the answer in sentences, then the tables."""

from __future__ import annotations

from collections.abc import Sequence

from rich.box import Box
from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table as Grid
from rich.text import Text

from ...results.findings import Findings
from .. import units
from ..contents import sections as parts
from ..contents.tables import Table
from .chart import charts

WIDE = 100
BELOW_HEAD = Box("    \n    \n ── \n    \n    \n    \n    \n    \n")
QUIET = ("no claim", "no other", "not counted", units.NOTHING)
MISSED = ((), ("tail exponent",), ("work",), ("cost",), ("work", "cost"), ("tail exponent", "cost"))
"""Columns that a narrow terminal can do without, what is missed least first."""
WRAPPED, SQUEEZED = 20, 1.15  # wider cells are wrapped, and a table may be wrapped a little more
TONES = {"contradicted": "red", "slower": "red", "faster": "green"}


def render(
    findings: Findings, width: int = WIDE, only: str | None = None, everything: bool = False, ruled: bool = False
) -> RenderableType:
    """The report.

    Args:
        findings: what was found.
        width: how many columns there are.
        only: the name of a single section.
        everything: also what is left out of a first look.
        ruled: with a line below the headings of tables.
    """
    title, question, facts = parts.heading(findings)
    longest = max((len(name) for name in findings.study.contenders), default=8)
    shown = max(3, min(8, (width - min(longest, 24)) // 9))
    made = parts.sections(findings, everything or only is not None, shown)
    head = Text(title, style="bold")
    if question:
        head.append(f" · {question}", style="not bold")
    blocks: list[RenderableType] = [] if only else [Group(head, Text(facts, style="dim"))]
    blocks += [_section(each, width, ruled) for each in made if only in (None, each.name)]
    if only == "chart" or everything:
        blocks += [Text(chart) for chart in charts(findings, width)]
    if only and not blocks:
        blocks = [Text("there is nothing to report in this section")]
    spaced: list[RenderableType] = []
    for block in blocks:
        spaced += [block, ""]
    return Group(*spaced[:-1])


def text(findings: Findings, width: int = WIDE, only: str | None = None, everything: bool = False) -> str:
    """The report as plain text of at most `width` columns."""
    told = plainly(render(findings, width, only, everything), width)
    return "\n".join(line.rstrip() for line in told.splitlines()) + "\n"


def plainly(shown: RenderableType, width: int) -> str:
    """What is shown, as text without colours in lines of `width` columns."""
    console = Console(width=width, color_system=None, force_terminal=False, markup=False, emoji=False, highlight=False)
    with console.capture() as captured:
        console.print(shown)
    return captured.get()


def render_tables(lines: Sequence[str], tables: Sequence[Table], width: int = WIDE) -> RenderableType:
    """Sentences, then tables."""
    spaced: list[RenderableType] = [Text(line) for line in lines]
    for table in tables:
        spaced += ["", *_table(table, width, False)]
    return Group(*spaced)


def _section(section: parts.Section, width: int, ruled: bool) -> RenderableType:
    blocks: list[RenderableType] = [Text(section.title, style="bold")] if section.title else []
    if section.name == "machine":
        return Text("\n".join(section.lines), style="dim")
    lines = [Padding(Text(line), (0, 0, 0, 2)) for line in section.lines]
    tables = [block for table in section.tables if table.rows for block in _table(table, width, ruled)]
    blocks += [*tables, *lines] if section.tables_first else [*lines, *tables]
    return Group(*blocks)


def _table(table: Table, width: int, ruled: bool) -> Sequence[RenderableType]:
    has_head = table.headings is not None
    box = BELOW_HEAD if ruled and has_head else None
    grid = Grid(
        box=box, show_edge=False, border_style="dim", padding=(0, 2, 0, 0), pad_edge=False, show_header=has_head
    )
    columns = table.headings or ("",) * len(table.rows[0])
    left_out = _without_room(table, columns, width)
    for at, heading in enumerate(columns):
        if at in left_out:
            continue
        is_number = at >= table.numbers
        style = "bold" if table.headings is None and at == 0 else ""
        fixed = is_number or heading in ("order", "tail exponent") or (table.headings is None and at == 0)
        grid.add_column(
            heading, header_style="dim", style=style, justify="right" if is_number else "left", no_wrap=fixed
        )
    for row in table.rows:
        unit_row = table.numbers == 1 and row[0] == ""
        made = [_cell(cell, unit_row) for at, cell in enumerate(row) if at not in left_out]
        if table.headings is None:
            made[1:] = [_answer(cell) for cell in row[1:]]
        grid.add_row(*made)
    missing = " and ".join(f"'{columns[at]}'" for at in sorted(left_out))
    told = [Text(f"narrow: without {missing}; a wider terminal shows it", style="dim")] if left_out else []
    told += [Text(table.foot, style="dim")] if table.foot else []
    return [*([Text(table.title, style="dim")] if table.title else []), grid, *told]


def _without_room(table: Table, columns: Sequence[str], width: int) -> set[int]:
    """The columns to leave out where a terminal is narrow: those that can best be missed."""
    needed = [
        min(max(len(cell) for cell in (heading, *(row[at] for row in table.rows))), WRAPPED) + 2
        for at, heading in enumerate(columns)
    ]
    for missed in MISSED:
        left_out = {at for at, heading in enumerate(columns) if heading in missed}
        if sum(each for at, each in enumerate(needed) if at not in left_out) <= SQUEEZED * width:
            return left_out
    return {at for at, heading in enumerate(columns) if heading in MISSED[-1]}


def _answer(told: str) -> Text:
    """Who leads where, with the leaders bold, and what is undecided dim."""
    made = Text()
    for number, part in enumerate(told.split("; ")):
        made.append("; " if number else "")
        name, leads, rest = part.partition(" leads")
        if leads and not name.endswith("never"):
            made.append(name, "bold")
            made.append(leads + rest)
        else:
            made.append(part, "dim" if "never" in part or "tie" in part or parts.TIED in part else "")
    return made


def _cell(cell: str, is_unit: bool) -> Text:
    is_quiet = is_unit or cell in QUIET
    style = next((tone for word, tone in TONES.items() if word in cell), "dim" if is_quiet else "")
    return Text(cell, style=style)
