"""A walk as text: what a contender does on one small instance, an event a line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from ...counting.walk.event import Happening
from ...protocol.messages import Walked
from .. import units

QUIET = ("set",)
FOLDED_LEAST = 4
SEEN = {"read": "cyan", "compare": "cyan", "look up": "cyan"}
CHANGED = "bold red"


@dataclass(frozen=True, slots=True)
class Shown:
    """An event with its number, the variables after it, and how many like it follow that are not shown."""

    number: int
    event: Happening
    variables: dict[str, list[Any]]
    more: int = 0


def chosen(
    found: Walked, only: Sequence[str] = (), begin: int = 1, end: int | None = None, fold: bool = True
) -> list[Shown]:
    """The events that are to be shown.

    Args:
        found: the walk.
        only: kinds of events, all where there is none; small variables that are set are left out, unless nothing
            else happens.
        begin, end: the first and the last number.
        fold: whether a stretch of four and more reads or comparisons that change nothing is one line.
    """
    kinds = {each.rstrip("s") if each.rstrip("s") in kinds_of(found) else each for each in only}
    quiet = set() if {each.kind for each in found.events} <= {*QUIET, "begin", "call", "return"} else set(QUIET)
    variables: dict[str, list[Any]] = {}
    scope = 0
    rows: list[Shown] = []
    for number, event in enumerate(found.events, start=1):
        variables = dict(variables) if event.scope == scope else {}
        scope = event.scope
        for name, state in event.changed.items():
            if state is None:
                variables.pop(name, None)
            else:
                variables[name] = state
        wanted = event.kind in kinds if kinds else event.kind not in quiet
        if wanted and number >= begin and (end is None or number <= end):
            rows.append(Shown(number, event, variables))
    return folded(rows) if fold else rows


def kinds_of(found: Walked) -> list[str]:
    """The kinds of events there are, in the order in which they first appear."""
    return list(dict.fromkeys(each.kind for each in found.events))


def folded(rows: list[Shown]) -> list[Shown]:
    """Long stretches of one kind that change nothing, as their first event and the number of the others."""
    made: list[Shown] = []
    at = 0
    while at < len(rows):
        end = at + 1
        kind, scope = rows[at].event.kind, rows[at].event.scope
        while end < len(rows) and kind in SEEN and (rows[end].event.kind, rows[end].event.scope) == (kind, scope):
            end += 1
        if end - at >= FOLDED_LEAST:
            last = rows[end - 1]
            made.append(rows[at])
            made.append(Shown(last.number, last.event, last.variables, end - at - 1))
        else:
            made += rows[at:end]
        at = end
    return made


def render(title: str, found: Walked, rows: Sequence[Shown], most: int) -> RenderableType:
    """The events of a walk, a line each, with what was worked on after it and tallies running along."""
    names = tallied(found.events)
    table = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in ("", "line", "event", "after it", *names):
        right = heading in names or heading in ("", "line")
        table.add_column(heading, header_style="dim", justify="right" if right else "left", no_wrap=heading == "line")
    for row in rows[:most]:
        event = row.event
        indent = "  " * min(event.depth, 8)
        counts = [str(event.tallies.get(name, 0)) for name in names]
        if row.more:
            text = Text(f"{indent}… {row.more} more {_plural(event.kind)}", style="dim")
            table.add_row(str(row.number), "", text, "", *counts)
            continue
        style = "dim" if event.kind in ("call", "return", "set", "begin") else SEEN.get(event.kind, "")
        what = Text(f"{indent}{event.what}", style=style)
        table.add_row(str(row.number), str(event.line), what, state_of(row), *counts)
    parts: list[RenderableType] = [Text(title, style="bold"), table]
    if len(rows) > most or found.cut:
        left = units.whole(len(rows) - min(len(rows), most))
        told = f"… {left} more lines: see them with --most, --from and --to, or --out walk.html"
        parts.append(Text(told if len(rows) > most else "… and more: a walk ends after 5000 events", style="dim"))
    last = found.events[-1].tallies if found.events else {}
    total = ", ".join(f"{units.whole(last[name])} {one_or_more(last[name], name)}" for name in names)
    if not found.events:
        parts.append(Text("nothing was seen: its text cannot be read, or all of it happens in compiled code"))
    parts.append(Text(f"answers {found.answer}" + (f"; in all {total}" if total else "")))
    return Group(*parts)


def state_of(row: Shown) -> Text:
    """What an event was about, after it: the container with the places that were touched marked."""
    names = [name for name in row.event.touched if name in row.variables]
    if not names and row.event.kind in ("begin", "call"):
        names = [name for name, state in row.variables.items() if state[0] != "value"][:1]
    made = Text()
    for number, name in enumerate(names):
        made.append("   " if number else "")
        if len(names) > 1 or row.event.kind == "begin":
            made.append(f"{name} ", style="dim")
        style = SEEN.get(row.event.kind, CHANGED)
        made.append_text(in_cells(row.variables[name], row.event.touched.get(name, []), style))
    return made


def in_cells(state: Sequence[Any], touched: Sequence[Any], style: str) -> Text:
    """A container in a line, the touched places in brackets and colour."""
    kind, inside = state
    made = Text()
    if kind == "rows":
        marked = {tuple(each) for each in touched if isinstance(each, list)}
        for r, row in enumerate(inside):
            made.append(" / " if r else "")
            for c, cell in enumerate(row):
                _cell(made, cell, (r, c) in marked, style, c == 0)
    elif kind in ("cells", "letters", "chain"):
        between = " → " if kind == "chain" else ""
        for at, cell in enumerate(inside):
            made.append(between if at else "")
            _cell(made, cell, at in touched or cell in touched, style, at == 0 or bool(between))
    elif kind == "pairs":
        for at, (key, value) in enumerate(inside):
            _cell(made, f"{key}: {value}", key in touched, style, at == 0)
    else:
        made.append(str(inside))
    return made or Text("empty", style="dim")


def _cell(made: Text, cell: str, is_touched: bool, style: str, is_first: bool) -> None:
    made.append("" if is_first else " ")
    made.append(f"[{cell}]" if is_touched else cell, style=style if is_touched else "")


def _plural(kind: str) -> str:
    return {"compare": "comparisons", "look up": "look-ups"}.get(kind, f"{kind}s")


def one_or_more(number: int, name: str) -> str:
    """The name of what was counted, of one of it without its plural s.

    >>> one_or_more(1, "writes"), one_or_more(2, "hashes"), one_or_more(1, "hashes")
    ('write', 'hashes', 'hash')
    """
    return name if number != 1 else {"hashes": "hash"}.get(name, name.removesuffix("s"))


def tallied(events: Sequence[Happening]) -> list[str]:
    """The names of what was counted, in the order in which they first appear."""
    return list(dict.fromkeys(name for event in events for name in event.tallies))
