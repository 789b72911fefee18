"""A walk as one page to step through, forward and back, beside the line that is executed."""

from __future__ import annotations

from ...protocol.messages import Walked
from ..text.walk import chosen, kinds_of, state_of, tallied
from .page import environment

VARIABLES_MOST = 24


def walk_page(title: str, found: Walked) -> str:
    """The page as HTML. It needs nothing else; without scripts it is a list of all events."""
    rows = chosen(found, kinds_of(found), fold=False)  # small variables too
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
    listed = [(row.event.what, row.event.line, state_of(row).plain) for row in rows]
    made = environment()
    made.policies["json.dumps_kwargs"] = {"sort_keys": False}  # variables stay in the order in which they were made
    return made.get_template("walk.html").render(
        title=title,
        found=found,
        data={"events": events, "names": tallied(found.events), "first": found.first},
        listed=listed,
    )
