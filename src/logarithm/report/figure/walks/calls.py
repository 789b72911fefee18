"""The call tree of a walk as a figure: each call under the one that made it, with what it gave."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....results.tasks.walk import Walk
from ...documents.walk import calls_told, end_of, title_of
from ...trees import call_nodes
from .. import canvas
from ..canvas import COLOURS, INK, SOFT
from .pieces import TALL, WIDE, fit, paper, tree

if TYPE_CHECKING:
    from matplotlib.figure import Figure

SIDE, HEAD, FOOT, TEXT = 18.0, 62.0, 34.0, 11.0
LABEL_MOST, NODE_LEAST = 30, 58.0  # letters in a node; points that one takes at least


def draw_calls(found: Walk) -> Figure:
    """A figure with a node for each call; calls that ask what was asked before are outlined."""
    made = found.calls()
    nodes = call_nodes(made)
    again = _again([call.words for call in made])

    def named(number: int) -> str:
        call = made[number]
        return fit(call.words + (f" → {call.answer}" if call.end is not None and call.answer else ""), LABEL_MOST)

    across = max((node.x for node in nodes), default=0) + 1
    down = max((node.depth for node in nodes), default=0) + 1
    width = max(WIDE, 2 * SIDE + across * NODE_LEAST)
    height = max(TALL, HEAD + FOOT + down * 24)
    figure, panel = paper(width, height)
    panel.text(SIDE, 22, canvas.plain(title_of(found)), fontsize=14, color=INK, va="center")
    told = f"{calls_told(made)}; {end_of(found)}"
    panel.text(SIDE, 44, canvas.plain(told), fontsize=10, color=SOFT, va="center")
    if nodes:
        room = (SIDE, HEAD, width - SIDE, height - FOOT)
        tree(panel, nodes, named, lambda number: COLOURS[1] if again[number] else None, room, TEXT)
    foot = "each call stands under the one that made it; outlined in red: the same was asked before"
    if len(made) > len(nodes):
        foot += f"; the first {len(nodes)} of {len(made)} calls"
    panel.text(SIDE, height - 14, foot, fontsize=8, color=SOFT, va="center")
    return figure


def _again(words: list[str]) -> list[bool]:
    met: set[str] = set()
    found = []
    for each in words:
        found.append(each in met)
        met.add(each)
    return found
