"""Rewriting: a contender's functions as they are while it is counted, so that what they do is seen.

Python lets nobody see how a list is written in brackets, how a text is put together, or what `sorted` compares. So the
text of the functions is read, and calls are put in it that count; which ones, a `Way` says. Line numbers stay. The
functions themselves stay too, with another code in them, so that whoever holds one of them calls the counted one.
"""

from __future__ import annotations

import ast
import functools
import linecache
import sys
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from types import CodeType, FunctionType, ModuleType
from typing import Any


@dataclass(frozen=True, slots=True, eq=False)
class Way:
    """A way of rewriting.

    Attributes:
        rewriter: makes what changes the text.
        names: what the names stand for that it puts there.
        functions: what stands in the place of functions that are called by name, everywhere.
        modules: whose functions are such, too.
        methods: given the classes that are found, the methods to put into them, each with its class and name.
    """

    rewriter: Callable[[], ast.NodeTransformer]
    names: Mapping[str, Any]
    functions: Mapping[Any, Any] = field(default_factory=dict)
    modules: tuple[ModuleType, ...] = ()
    methods: Callable[[list[type]], list[tuple[type, str, Any]]] = lambda _: []

    def instead(self, value: Any) -> Any:
        """What stands in the place of a value; None where it stays."""
        try:
            return self.functions.get(value)
        except TypeError:  # what cannot be hashed is nothing that is looked at
            return None


class Rewriter(ast.NodeTransformer):
    """What all ways of rewriting leave as it is, and how they put a call in the place of something."""

    def calling(self, name: str, node: ast.AST, *given: ast.expr) -> Any:
        """A call in the place of a node, of what a name stands for."""
        call = ast.Call(ast.Name(name, ast.Load()), list(given), [])
        return ast.fix_missing_locations(ast.copy_location(call, node))

    def visit_values(self, node: ast.JoinedStr) -> None:
        """Change the values in a text. Their format is text, but none of the contender's making."""
        for each in node.values:
            if isinstance(each, ast.FormattedValue):
                each.value = self.visit(each.value)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.stmt:
        """An annotation is no value."""
        node.value = self.visit(node.value) if node.value is not None else None
        return node

    def visit_arguments(self, node: ast.arguments) -> ast.arguments:
        """Nor are those of parameters; what they are by default was made before."""
        return node


Where = tuple[str, int, tuple[int, int]]
"""A function's full name, its first line, and where its body begins: several lambdas may be on one line."""


def _where(code: CodeType) -> Where:
    starts = [(line, column) for line, _, column, _ in code.co_positions() if line is not None and column]
    return code.co_qualname, code.co_firstlineno, min(starts, default=(0, 0))


def _inside(code: CodeType) -> Iterator[CodeType]:
    """The code of all functions in some code, in the order of the text."""
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield constant
            yield from _inside(constant)


@functools.lru_cache(maxsize=1024)
def _codes(file: str, way: Way) -> dict[Where, CodeType]:
    """The rewritten code of each function in a file; empty where its text is not there."""
    try:
        # What was compiled from a text, such as an expression, has no file.
        text = Path(file).read_text(encoding="utf-8") if Path(file).exists() else "".join(linecache.getlines(file))
        before = compile(text, file, "exec", dont_inherit=True)
        after = compile(way.rewriter().visit(ast.parse(text)), file, "exec", dont_inherit=True)
        return dict(zip(map(_where, _inside(before)), _inside(after), strict=True))
    except (OSError, ValueError, SyntaxError):
        return {}


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


def _classes(spaces: list[dict[str, Any]]) -> list[type]:
    """The classes of some namespaces."""
    return [*{id(value): value for space in spaces for value in space.values() if isinstance(value, type)}.values()]


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
def rewritten(code: Callable[..., Any], way: Way) -> Iterator[bool]:
    """Have a contender, and all that lies beside it, run as rewritten meanwhile.

    Args:
        code: the contender's function or class.
        way: how.

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
    names = way.names
    undo: list[Callable[[], None]] = []
    is_read = False
    try:
        for module in way.modules:
            for name, value in list(vars(module).items()):
                if callable(value) and way.instead(value) is not None:
                    undo.append(functools.partial(setattr, module, name, value))
                    setattr(module, name, way.instead(value))
        for space in spaces:
            undo.append(functools.partial(_restored, space, dict(space), way))
            space.update(names)
            for name, value in list(space.items()):
                if name not in names and way.instead(value) is not None:
                    space[name] = way.instead(value)
        for kind, name, method in way.methods(_classes(spaces)):
            undo.append(functools.partial(_put_back, kind, name, kind.__dict__.get(name)))
            setattr(kind, name, method)
        for function in functions:
            before = function.__code__
            after = _codes(before.co_filename, way).get(_where(before))
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


def _restored(space: dict[str, Any], before: dict[str, Any], way: Way) -> None:
    """Take what was put into a namespace out again; what a call has put there itself stays."""
    for name in way.names:
        space.pop(name, None)
    space.update({name: value for name, value in before.items() if way.instead(value) is not None})
