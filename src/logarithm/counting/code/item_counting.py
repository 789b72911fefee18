"""The way of rewriting by which items are counted, wherever a contender makes them.

Where a container, a tuple or a text is made, a call is put around it that makes a counted one; where a type such as
`list` is called, one that hands on what is counted; what `sorted`, heaps and bisection compare is seen.
"""

from __future__ import annotations

import ast
import bisect
import collections
import heapq
from array import array
from collections.abc import Callable
from types import ModuleType
from typing import Any

from ..items import keyed
from ..items.containers import CountedArray, CountedBytearray, CountedDeque, CountedList
from ..items.counted import STANDS_FOR, is_named_tuple
from ..items.questions import one_question
from ..items.values import BASES, SIGNS, item, plain
from ..tallies import QUICK, WRITES
from . import replaced
from .rewriting import Rewriter, Way

CALLED = {
    *("list", "tuple", "set", "frozenset", "dict", "int", "float", "str", "bytes", "bytearray", "repr", "chr", "ord"),
    *("sorted", "min", "max", "type", "array", "deque", "defaultdict", "Counter", "OrderedDict"),
}
"""Names whose calls are looked at; the names may be anybody's, which shows when they are called."""
MODULES: tuple[ModuleType, ...] = (heapq, bisect)
_writes = QUICK[WRITES]
TUPLE, TEXT, CALL, JOIN = "__counted_tuple__", "__counted_text__", "__counted_call__", "__counted_join__"
LIST, SET, DICT = "__counted_list__", "__counted_set__", "__counted_dict__"

_VALUES: dict[Any, Callable[..., Any]] = {
    tuple: lambda *given: item(tuple(*given)),
    int: lambda *given, **more: _alike(int, given, more),
    float: lambda *given: _alike(float, given, {}),
    str: lambda *given, **more: item(str(*map(plain, given), **more)),
    bytes: lambda *given, **more: item(bytes(*map(plain, given), **more)),
    repr: lambda value: item(repr(value)),
    chr: lambda value: item(chr(value)),
    ord: lambda value: item(ord(value)),
    type: lambda *given: STANDS_FOR.get(type(given[0]), type(given[0])) if len(given) == 1 else type(*given),
}
_CONTAINERS: dict[Any, Callable[..., Any]] = {
    list: lambda *given: CountedList(*given),
    set: lambda *given: keyed.CountedSet(*given),
    frozenset: lambda *given: keyed.CountedFrozenset(*given),
    dict: lambda *given, **named: keyed.CountedDict(*given, **named),
    bytearray: lambda *given, **more: CountedBytearray(*map(plain, given), **more),
    array: lambda *given: CountedArray(*map(plain, given)),
    collections.deque: lambda *given, **more: CountedDeque(*given, **more),
    collections.defaultdict: lambda *given, **named: keyed.CountedDefault(*given, **named),
    collections.Counter: lambda *given, **named: keyed.CountedCounter(*given, **named),
    collections.OrderedDict: lambda *given, **named: keyed.CountedOrdered(*given, **named),
}


def _alike(kind: Any, given: tuple[Any, ...], more: dict[str, Any]) -> Any:
    """A conversion: the result is counted where what was converted is."""
    made = kind(*map(plain, given), **more)
    return item(made) if given and type(given[0]) in BASES else made


def _caller(table: dict[Any, Callable[..., Any]]) -> Callable[..., Any]:
    def call(function: Any, *given: Any, **named: Any) -> Any:
        try:
            instead = table.get(function)
        except TypeError:  # what cannot be hashed is nothing that is looked at
            instead = None
        return (instead or function)(*given, **named)

    return call


def _join(between: Any, *given: Any) -> Any:
    """`between.join(parts)`: a text that is put together is an item."""
    made = between.join(*given)
    return written(made) if type(made) in (str, bytes) else made


def written(text: str) -> Any:
    """A text that was put together: it is an item, and its signs were written."""
    _writes[0] += len(text)
    return item(text)


def _names(containers: bool) -> dict[str, Any]:
    """What the names that are put into a function's text stand for."""
    table = {**_VALUES, **replaced.FUNCTIONS, **(_CONTAINERS if containers else {})}
    names: dict[str, Any] = {TUPLE: item, TEXT: written, JOIN: _join, CALL: _caller(table)}
    return names | {LIST: CountedList, SET: keyed.CountedSet, DICT: keyed.CountedDict}


class _Rewriter(Rewriter, ast.NodeTransformer):
    """Puts calls around what makes containers, tuples and texts."""

    def __init__(self, containers: bool) -> None:
        self.containers = containers

    def _around(self, name: str, node: ast.expr) -> ast.expr:
        return self.calling(name, node, node)  # type: ignore[no-any-return]

    def _container(self, name: str, node: Any) -> ast.expr:
        self.generic_visit(node)
        return self._around(name, node) if self.containers else node

    def visit_List(self, node: ast.List) -> ast.expr:
        """A list in brackets."""
        if isinstance(node.ctx, ast.Load):
            return self._container(LIST, node)
        self.generic_visit(node)
        return node

    def visit_ListComp(self, node: ast.ListComp) -> ast.expr:
        """A list that is gone through."""
        return self._container(LIST, node)

    def visit_Set(self, node: ast.Set) -> ast.expr:
        """A set in braces."""
        return self._container(SET, node)

    def visit_SetComp(self, node: ast.SetComp) -> ast.expr:
        """A set that is gone through."""
        return self._container(SET, node)

    def visit_Dict(self, node: ast.Dict) -> ast.expr:
        """A dictionary in braces."""
        return self._container(DICT, node)

    def visit_DictComp(self, node: ast.DictComp) -> ast.expr:
        """A dictionary that is gone through."""
        return self._container(DICT, node)

    def visit_Tuple(self, node: ast.Tuple) -> ast.expr:
        """A tuple of values that are computed."""
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load) or all(isinstance(each, ast.Constant) for each in node.elts):
            return node
        return self._around(TUPLE, node)

    def visit_Assign(self, node: ast.Assign) -> ast.stmt:
        """`a, b = b, a` makes no tuple."""
        if isinstance(node.value, ast.Tuple) and all(isinstance(each, ast.Tuple) for each in node.targets):
            node.value.elts = [self.visit(each) for each in node.value.elts]
            node.targets = [self.visit(each) for each in node.targets]
            return node
        self.generic_visit(node)
        return node

    def visit_BinOp(self, node: ast.BinOp) -> ast.expr:
        """`[0] * n` makes one list, not two."""
        is_list = isinstance(node.op, ast.Mult) and isinstance(node.left, ast.List)
        if is_list and self.containers and isinstance(node.left, ast.List):
            node.left.elts = [self.visit(each) for each in node.left.elts]
            node.right = self.visit(node.right)
            return self._around(LIST, node)
        self.generic_visit(node)
        return node

    def visit_JoinedStr(self, node: ast.JoinedStr) -> ast.expr:
        """A text with values in it."""
        self.visit_values(node)
        return self._around(TEXT, node)

    def visit_Call(self, node: ast.Call) -> ast.expr:
        """A type or a function that is called."""
        self.generic_visit(node)
        called = node.func
        if isinstance(called, ast.Attribute) and called.attr == "join":
            made = ast.Call(ast.Name(JOIN, ast.Load()), [called.value, *node.args], node.keywords)
        elif (called.id if isinstance(called, ast.Name) else getattr(called, "attr", "")) in CALLED:
            made = ast.Call(ast.Name(CALL, ast.Load()), [called, *node.args], node.keywords)
        else:
            return node
        return ast.fix_missing_locations(ast.copy_location(made, node))

    def visit_MatchSequence(self, node: ast.MatchSequence) -> ast.pattern:
        """Patterns stay."""
        return node


def _records(kinds: list[type]) -> list[tuple[type, str, Any]]:
    """Comparisons that are made for classes, part by part, as one question each: of dataclasses and named tuples."""
    found = []
    for kind in kinds:
        if not (is_named_tuple(kind) or "__dataclass_params__" in kind.__dict__):
            continue
        for name, sign in SIGNS.items():
            method = kind.__dict__.get(name) or (getattr(tuple, name) if is_named_tuple(kind) else None)
            if method is not None:
                found.append((kind, name, one_question(method, sign)))
    return found


def _way(containers: bool) -> Way:
    return Way(lambda: _Rewriter(containers), _names(containers), replaced.FUNCTIONS, MODULES, _records)


ITEMS, ITEMS_WITHOUT_CONTAINERS = _way(containers=True), _way(containers=False)
"""Count items; and the same without what is made in brackets and braces."""
