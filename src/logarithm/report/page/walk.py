"""A walk as one page to step through, forward and back, beside the line that is executed."""

from __future__ import annotations

from ...results.walk import Walk
from ..document import plain
from ..documents.walk import Choice, chosen, kinds_of, state_of, tallied, title_of

VARIABLES_MOST = 24


def walk_page(found: Walk) -> str:
    """The page as HTML. It needs nothing else; without scripts it is a list of all events."""
    from .page import environment

    rows = chosen(found, Choice(tuple(kinds_of(found)), fold=False))  # small variables too
    events = [
        {
            "what": row.event.what,
            "kind": row.event.kind,
            "line": row.event.line,
            "function": row.event.function,
            "depth": row.event.depth,
            "touched": row.event.touched,
            "variables": dict(list(row.variables.items())[:VARIABLES_MOST]),
            "tallies": row.event.tallies,
        }
        for row in rows
    ]
    listed = [(row.event.what, row.event.line, plain(state_of(row))) for row in rows]
    made = environment()
    made.policies["json.dumps_kwargs"] = {"sort_keys": False}  # variables stay in the order in which they were made
    return made.get_template("walk.html").render(
        title=title_of(found),
        found=found,
        data={"events": events, "names": tallied(found.events), "first": found.first},
        listed=listed,
    )
