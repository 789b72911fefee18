"""A document as text for a terminal."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from rich.box import Box
from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table as Grid
from rich.text import Text

from ..document import BAD, DIM, DOUBT, GOOD, SEEN, STRONG, Document, Line, Section, Table, pieces, plain

WIDE = 100
BELOW_HEAD = Box("    \n    \n ── \n    \n    \n    \n    \n    \n")
WRAPPED, SQUEEZED = 20, 1.15  # wider cells are wrapped, and a table may be wrapped a little more
STYLES = {GOOD: "green", BAD: "red", DOUBT: "dark_orange", DIM: "dim", STRONG: "bold", SEEN: "cyan", "": ""}


def render(document: Document, width: int = WIDE, ruled: bool = False) -> RenderableType:
    """A document, laid out.

    Args:
        document: what is to be read.
        width: how many columns there are.
        ruled: with a line below the headings of tables.
    """
    blocks: list[RenderableType] = []
    head = Text(style="bold")
    head.append_text(_text(document.title))
    if document.subtitle:
        head.append(f" · {document.subtitle}", style="not bold")
    top = [*([head] if head.plain else []), *([Text(document.facts, style="dim")] if document.facts else [])]
    blocks += [Group(*top)] if top else []
    blocks += [Group(*_section(each, width, ruled)) for each in document.sections]
    spaced: list[RenderableType] = []
    for block in blocks:
        spaced += [block, ""]
    return Group(*spaced[:-1])


def text(document: Document, width: int = WIDE) -> str:
    """A document as plain text of at most `width` columns."""
    told = plainly(render(document, width), width)
    return "\n".join(line.rstrip() for line in told.splitlines()) + "\n"


def plainly(shown: RenderableType, width: int) -> str:
    """What is shown, as text without colours in lines of `width` columns."""
    console = Console(width=width, color_system=None, force_terminal=False, markup=False, emoji=False, highlight=False)
    with console.capture() as captured:
        console.print(shown)
    return captured.get()


def _text(line: Line, style: str = "") -> Text:
    made = Text(style=style)
    for piece in pieces(line):
        made.append(piece.text, style=STYLES[piece.tone])
    return made


def _section(section: Section, width: int, ruled: bool) -> Iterator[RenderableType]:
    if section.is_small:
        yield Text("\n".join(map(plain, section.lines)), style="dim")
        return
    if section.title:
        yield Text(section.title, style="bold")
    lines = [Padding(_text(line), (0, 0, 0, 2 if section.title else 0)) for line in section.lines]
    tables = [block for table in section.tables if table.rows for block in _table(table, width, ruled)]
    yield from [*tables, *lines] if section.tables_first else [*lines, *tables]
    if section.text:
        yield Text(section.text)


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
        fixed = is_number or heading in table.whole or (table.headings is None and at == 0)
        grid.add_column(
            heading, header_style="dim", style=style, justify="right" if is_number else "left", no_wrap=fixed
        )
    for row in table.rows:
        grid.add_row(*(_text(cell) for at, cell in enumerate(row) if at not in left_out))
    missing = " and ".join(f"'{columns[at]}'" for at in sorted(left_out))
    told = [Text(f"narrow: without {missing}; a wider terminal shows it", style="dim")] if left_out else []
    told += [Text(table.below, style="dim")] if table.below else []
    return [*([Text(table.title, style="dim")] if table.title else []), grid, *told]


def _without_room(table: Table, columns: Sequence[str], width: int) -> set[int]:
    """The columns to leave out where a terminal is narrow: those that can best be missed."""
    needed = [
        min(max(len(plain(cell)) for cell in (heading, *(row[at] for row in table.rows))), WRAPPED) + 2
        for at, heading in enumerate(columns)
    ]
    # One column after the other, what is missed least first; then all but each of them.
    choices = [(), *((name,) for name in table.spare), *(table.spare[at:] for at in (1, 0) if len(table.spare) > 1)]
    left_out: set[int] = set()
    for missed in choices:
        left_out = {at for at, heading in enumerate(columns) if heading in missed}
        if sum(each for at, each in enumerate(needed) if at not in left_out) <= SQUEEZED * width:
            break
    return left_out
