"""A walk as one page to step through, forward and back, beside the line that is executed."""

from __future__ import annotations

from typing import Any

from ...results.tasks.walk import Walk
from ..document import plain
from ..documents.walk import Choice, calls_told, chosen, end_of, kinds_of, one_or_more, state_of, tallied, title_of
from ..trees import Node, call_nodes, nodes_of
from .templating import environment

VARIABLES_MOST = 24


def walk_page(found: Walk) -> str:
    """The page as HTML. It needs nothing else; without scripts it is a list of all events."""
    rows = chosen(found, Choice(tuple(kinds_of(found)), fold=False))  # small variables too
    events = [
        {
            "number": row.number,
            "what": row.event.what,
            "kind": row.event.kind,
            "line": row.event.line,
            "function": row.event.function,
            "depth": row.event.depth,
            "touched": row.event.touched,
            "variables": {name: [*state, _sent(nodes_of(state))] for name, state in shown},
            "tallies": row.event.tallies,
        }
        for row in rows
        for shown in [list(row.variables.items())[:VARIABLES_MOST]]
    ]
    calls = found.calls()
    listed = [(row.event.what, row.event.line, plain(state_of(row))) for row in rows]
    made = environment()
    made.policies["json.dumps_kwargs"] = {"sort_keys": False}  # variables stay in the order in which they were made
    return made.get_template("walk.html").render(
        title=title_of(found),
        found=found,
        end=end_of(found),
        calls=calls_told(calls),
        data={
            "events": events,
            "names": tallied(found.events),
            "one": {name: one_or_more(1, name) for name in tallied(found.events)},
            "first": found.first,
            "widest": max((len(call.words[:26]) + len(call.answer) + 3 for call in calls), default=0),
            "calls": [[call.words, call.answer, call.parent, call.begin, call.end] for call in calls],
            "tree": _sent(call_nodes(calls)),
        },
        listed=listed,
    )


def _sent(nodes: list[Node]) -> list[list[Any]]:
    return [[node.label, round(node.x, 3), node.depth, node.parent] for node in nodes]
