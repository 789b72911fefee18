"""Trees laid out: where each node stands, so that none lies over another one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from ..results.tasks.walk import Call

MISSING = 0.6  # the room of a child that is not there, as a share of one that is
NODES_MOST = 120


class Node(NamedTuple):
    """A node.

    Attributes:
        label: what stands in it: a text, or the number of what it stands for.
        x: from the left, in widths of a node.
        depth: how many nodes lie above it.
        parent: the place of the node above it in the list; None for a root.
    """

    label: Any
    x: float
    depth: int
    parent: int | None


def laid_out(tree: Sequence[Any]) -> list[Node]:
    """A tree `[label, [child, …]]` as nodes, each above the middle of those below it; a missing child keeps some room.

    >>> [(node.label, node.x, node.depth) for node in laid_out(["b", [["a", []], ["c", []]]])]
    [('b', 0.5, 0), ('a', 0.0, 1), ('c', 1.0, 1)]
    """
    made: list[Node] = []
    free = 0.0

    def place(each: Sequence[Any], depth: int, parent: int | None) -> float:
        nonlocal free
        own = len(made)
        made.append(Node(each[0], 0.0, depth, parent))
        middles = []
        for below in each[1]:
            if below is None:
                middles.append(free + MISSING / 2 - 0.5)
                free += MISSING
            else:
                middles.append(place(below, depth + 1, own))
        if middles:
            x = (middles[0] + middles[-1]) / 2
        else:
            x, free = free, free + 1
        made[own] = made[own]._replace(x=x)
        return x

    place(tree, 0, None)
    return made


def heap_nodes(many: int) -> list[Node]:
    """A heap of so many items: each label is the place of an item."""

    def below(at: int) -> list[Any]:
        first = 2 * at + 1
        return [at, [below(each) if each < many else None for each in (first, first + 1)] if first < many else []]

    return laid_out(below(0)) if many else []


def nodes_of(state: Sequence[Any]) -> list[Node]:
    """The nodes of a variable's state; none where it is no tree or too large to draw."""
    kind, inside = state
    if kind == "heap":
        return heap_nodes(len(inside)) if len(inside) <= NODES_MOST else []
    return laid_out(inside) if kind == "tree" else []


def call_nodes(made: Sequence[Call]) -> list[Node]:
    """The calls of a walk as nodes, the first ones where there are many; each label is the number of a call."""
    trees: list[list[Any]] = [[number, []] for number in range(min(len(made), NODES_MOST))]
    nodes: list[Node] = []
    for number, tree in enumerate(trees):
        parent = made[number].parent
        if parent is not None:
            trees[parent][1].append(tree)
    for tree in (trees[number] for number in range(len(trees)) if made[number].parent is None):
        beside, before = max((node.x + 1 for node in nodes), default=0.0), len(nodes)
        nodes += [
            node._replace(x=node.x + beside, parent=None if node.parent is None else node.parent + before)
            for node in laid_out(tree)
        ]
    return nodes
