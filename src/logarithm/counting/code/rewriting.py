"""Rewriting: a contender's functions as they are while it is counted, so that what they make is counted too.

Python lets nobody see how a list is written in brackets, how a text is put together, or what `sorted` compares. So the
text of the functions is read, and where a container, a tuple or a text is made, a call is put around it that makes a
counted one; where a type such as `list` is called, one that hands on what is counted. Line numbers stay. The functions
themselves stay too, with another code in them, so that whoever holds one of them calls the counted one.
"""

from __future__ import annotations

import ast
import bisect
import collections
import functools
import heapq
import sys
from array import array
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import CodeType, FunctionType, ModuleType
from typing import Any

from ..items import keyed
from ..items.containers import CountedArray, CountedBytearray, CountedDeque, CountedList
from ..items.counted import STANDS_FOR, is_named_tuple
from ..items.questions import one_question
from ..items.values import BASES, SIGNS, item, plain
from ..tallies import QUICK, WRITES
from . import replaced

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


class _Rewriter(ast.NodeTransformer):
    """Puts calls around what makes containers, tuples and texts."""

    def __init__(self, containers: bool) -> None:
        self.containers = containers

    def _around(self, name: str, node: ast.expr) -> ast.expr:
        call = ast.Call(ast.Name(name, ast.Load()), [node], [])
        return ast.fix_missing_locations(ast.copy_location(call, node))

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
        """A text with values in it. The format of a value is text, but none of the contender's making."""
        for part in node.values:
            if isinstance(part, ast.FormattedValue):
                part.value = self.visit(part.value)
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

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.stmt:
        """An annotation is no value."""
        node.value = self.visit(node.value) if node.value is not None else None
        return node

    def visit_arguments(self, node: ast.arguments) -> ast.arguments:
        """Nor are those of parameters; what they are by default was made before."""
        return node

    def visit_MatchSequence(self, node: ast.MatchSequence) -> ast.pattern:
        """Patterns stay."""
        return node


Where = tuple[str, int]
"""A function's full name and first line."""


@functools.lru_cache(maxsize=1024)
def _codes(file: str, containers: bool) -> dict[Where, CodeType]:
    """The rewritten code of each function in a file; empty where its text is not there."""
    try:
        text = Path(file).read_text(encoding="utf-8")
        tree = _Rewriter(containers).visit(ast.parse(text))
        whole = compile(tree, file, "exec", dont_inherit=True)
    except (OSError, ValueError, SyntaxError):
        return {}
    found: dict[Where, CodeType] = {}
    waiting = [whole]
    while waiting:
        for constant in waiting.pop().co_consts:
            if isinstance(constant, CodeType):
                found[constant.co_qualname, constant.co_firstlineno] = constant
                waiting.append(constant)
    return found


def _functions(namespace: dict[str, Any], seen: set[int]) -> Iterator[FunctionType]:
    """The functions of a namespace, with the methods of its classes."""
    for value in list(namespace.values()):
        if id(value) in seen:
            continue
        seen.add(id(value))
        value = getattr(value, "__func__", value)
        value = getattr(value, "__wrapped__", value)
        if isinstance(value, FunctionType):
            yield value
        elif isinstance(value, property):
            yield from _functions({"get": value.fget, "set": value.fset}, seen)
        elif isinstance(value, type):
            yield from _functions(dict(vars(value)), seen)


def _records(spaces: list[dict[str, Any]]) -> list[type]:
    """Classes whose comparisons are made for them, part by part: dataclasses and named tuples. Each is one item."""
    found = {id(value): value for space in spaces for value in space.values() if isinstance(value, type)}
    return [kind for kind in found.values() if is_named_tuple(kind) or "__dataclass_params__" in kind.__dict__]


def _put_back(kind: type, name: str, method: Any) -> None:
    if method is None:
        delattr(kind, name)
    else:
        setattr(kind, name, method)


def _own(folder: Path) -> Iterator[ModuleType]:
    """The modules that lie in a folder or below it, and are nobody's library."""
    for module in list(sys.modules.values()):
        file = getattr(module, "__file__", None)
        if file is not None and not module.__name__.startswith("logarithm.") and _lies_in(file, folder):
            yield module


@functools.lru_cache(maxsize=64)
def _folder(file: str) -> Path:
    return Path(file).resolve().parent


@functools.lru_cache(maxsize=4096)
def _lies_in(file: str, folder: Path) -> bool:
    return "site-packages" not in file and Path(file).resolve().is_relative_to(folder)


@functools.lru_cache(maxsize=4096)
def _is_ours(file: str) -> bool:
    """Whether a file is one of this package, studies that ship left out."""
    home = Path(__file__).resolve().parents[2]
    path = Path(file).resolve()
    return path.is_relative_to(home) and path.parent.name not in ("demos", "drafts")


@contextmanager
def rewritten(code: Callable[..., Any], containers: bool = True) -> Iterator[bool]:
    """Have a contender, and all that lies beside it, run as rewritten meanwhile.

    Args:
        code: the contender's function or class.
        containers: whether what they make in brackets and braces counts too.

    Yields:
        whether the contender's own text could be read.
    """
    bare = getattr(code, "func", code)
    bare = getattr(bare, "__func__", bare)
    home = sys.modules.get(getattr(bare, "__module__", ""), None)
    spaces = [getattr(bare, "__globals__", None) or (vars(home) if home is not None else {})]
    file = spaces[0].get("__file__")
    if file is not None:
        spaces += [vars(module) for module in _own(_folder(file)) if vars(module) is not spaces[0]]
    seen: set[int] = set()
    # Whoever counts must not be counted.
    functions = [
        each
        for space in ({"code": bare}, *spaces)
        for each in _functions(space, seen)
        if not _is_ours(each.__code__.co_filename)
    ]
    names = _names(containers)
    undo: list[Callable[[], None]] = []
    is_read = False
    try:
        for module in MODULES:
            for name, value in list(vars(module).items()):
                if callable(value) and _instead(value) is not None:
                    undo.append(functools.partial(setattr, module, name, value))
                    setattr(module, name, _instead(value))
        for space in spaces:
            undo.append(functools.partial(_restored, space, dict(space), names))
            space.update(names)
            for name, value in list(space.items()):
                if name not in names and _instead(value) is not None:
                    space[name] = _instead(value)
        for kind in _records(spaces):
            for name, sign in SIGNS.items():
                method = kind.__dict__.get(name) or (getattr(tuple, name) if is_named_tuple(kind) else None)
                if method is not None:
                    undo.append(functools.partial(_put_back, kind, name, kind.__dict__.get(name)))
                    setattr(kind, name, one_question(method, sign))
        for function in functions:
            before = function.__code__
            after = _codes(before.co_filename, containers).get((before.co_qualname, before.co_firstlineno))
            if after is None or after.co_freevars != before.co_freevars:
                continue
            undo.append(functools.partial(setattr, function, "__code__", before))
            function.__code__ = after
            is_read = is_read or function is bare or isinstance(bare, type)
            for name, value in names.items():
                function.__globals__.setdefault(name, value)
        yield is_read
    finally:
        for each in reversed(undo):
            each()


def _instead(value: Any) -> Any:
    try:
        return replaced.FUNCTIONS.get(value)
    except TypeError:
        return None


def _restored(space: dict[str, Any], before: dict[str, Any], names: dict[str, Any]) -> None:
    """Take what was put into a namespace out again; what a call has put there itself stays."""
    for name in names:
        space.pop(name, None)
    space.update({name: value for name, value in before.items() if _instead(value) is not None})
