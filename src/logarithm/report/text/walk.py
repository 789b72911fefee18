"""A walk as text: what a contender does on one small instance, an event a line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from ...measuring.shared.messages import Event, Walked
from .. import units


def render(title: str, found: Walked, most: int) -> RenderableType:
    """The events of a walk, a line each, with the state after it and tallies running along."""
    events = found.events
    names = tallied(events)
    table = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in ("", "event", "state after it", *names):
        table.add_column(heading, header_style="dim", justify="right" if heading in names else "left")
    table.add_row("", "begins", shown(found.begin))
    pass_before = 1
    for number, event in enumerate(events[:most], start=1):
        if event.number != pass_before:
            table.add_row("", Text(f"pass {event.number}", style="dim"))
            pass_before = event.number
        what = f"{event.what} (in a part)" if event.in_part else event.what
        counts = [str(event.tallies.get(name, 0)) for name in names]
        table.add_row(str(number), what, shown(event.state), *counts)
    parts: list[RenderableType] = [Text(title, style="bold"), table]
    if len(events) > most or found.cut:
        parts.append(Text(f"… and more: {units.whole(len(events))} events in all; see more with --most", style="dim"))
    last = events[-1].tallies if events else {}
    total = ", ".join(f"{units.whole(last.get(name, 0))} {name}" for name in names) or "nothing was counted"
    parts.append(Text(f"answers {found.answer}; in all {total}"))
    return Group(*parts)


def tallied(events: Sequence[Event]) -> list[str]:
    """The names of what was counted, in the order in which they first appear."""
    return list(dict.fromkeys(name for event in events for name in event.tallies))


def shown(state: Sequence[Any]) -> str:
    """A list in a line: "3 1 2"."""
    return " ".join(str(value) for value in state)
