"""What the text of a file says of its functions before they run: where a pass begins, and which lists are heaps."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TypeAlias

ON_HEAPS = ("heapify", "heappush", "heappop", "heapreplace", "heappushpop")
Function: TypeAlias = ast.FunctionDef | ast.AsyncFunctionDef


@dataclass(slots=True)
class Shapes:
    """What is known of one file.

    Attributes:
        passes: for the line of each outermost loop that has a loop inside, the last line of its body.
        heaps: for each function the names of the lists that it uses as heaps.
    """

    passes: dict[int, int] = field(default_factory=dict)
    heaps: dict[str, set[str]] = field(default_factory=dict)


def shapes_of(text: str) -> Shapes:
    r"""Read a file.

    >>> found = shapes_of("def f(a):\n  for i in a:\n    for j in a:\n      a[2 * i + 1] = j")
    >>> found.passes, found.heaps
    ({2: 4}, {'f': {'a'}})
    """
    try:
        whole = ast.parse(text)
    except SyntaxError:
        return Shapes()
    found = Shapes()
    for node in ast.walk(whole):
        if isinstance(node, Function):
            found.passes |= {loop.lineno: loop.end_lineno or loop.lineno for loop in _outermost(node.body)}
            heaps = _heaps(node)
            if heaps:
                found.heaps[node.name] = found.heaps.get(node.name, set()) | heaps
    return found


def _outermost(body: list[ast.stmt]) -> Iterator[ast.For | ast.While]:
    """The loops that stand in no other one, where they have one inside."""
    for statement in body:
        if isinstance(statement, ast.For | ast.While):
            if any(isinstance(node, ast.For | ast.While) for node in ast.walk(statement) if node is not statement):
                yield statement
        elif not isinstance(statement, Function | ast.ClassDef):
            for part in ("body", "orelse", "finalbody"):
                yield from _outermost(getattr(statement, part, []))


def _heaps(function: Function) -> set[str]:
    """Lists given to a function of `heapq`, or read at 2 i + 1, 2 i + 2 or (i - 1) // 2."""
    places = {
        name.id
        for node in ast.walk(function)
        if isinstance(node, ast.Assign) and _is_beside(node.value)
        for name in node.targets
        if isinstance(name, ast.Name)
    }
    found = set()
    for node in ast.walk(function):
        if isinstance(node, ast.Call) and node.args and _last_name(node.func) in ON_HEAPS:
            found.add(_name(node.args[0]))
        if isinstance(node, ast.Subscript):
            at = node.slice
            if _is_beside(at) or (isinstance(at, ast.Name) and at.id in places):
                found.add(_name(node.value))
    return found - {""}


def _is_beside(node: ast.expr) -> bool:
    """Whether it is the place of a child or of a parent in a heap."""
    if not isinstance(node, ast.BinOp):
        return False
    left, right = node.left, node.right
    if isinstance(node.op, ast.Add):
        twice, more = (left, right) if isinstance(left, ast.BinOp) else (right, left)
        return (
            isinstance(twice, ast.BinOp)
            and isinstance(twice.op, ast.Mult)
            and _is_number(more, 1, 2)
            and (_is_number(twice.left, 2) or _is_number(twice.right, 2))
        )
    return (
        isinstance(node.op, ast.FloorDiv)
        and _is_number(right, 2)
        and isinstance(left, ast.BinOp)
        and isinstance(left.op, ast.Sub)
        and _is_number(left.right, 1)
    )


def _is_number(node: ast.expr, *numbers: int) -> bool:
    return isinstance(node, ast.Constant) and node.value in numbers


def _last_name(node: ast.expr) -> str:
    return node.attr if isinstance(node, ast.Attribute) else node.id if isinstance(node, ast.Name) else ""


def _name(node: ast.expr) -> str:
    """A variable as a walk calls it: `times`, `self.times`."""
    if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
        return f"{node.value.id}.{node.attr}"
    return node.id if isinstance(node, ast.Name) else ""
