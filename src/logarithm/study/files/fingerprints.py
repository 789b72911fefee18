"""What the code of a contender or a family says: a fingerprint that changes where it, or what it calls, was edited.

Comments, layout, docstrings and decorators of its own do not count; what it calls in its file, and modules of the
project that are imported, do, with all that these import. Libraries do not: their versions are another matter.
"""

from __future__ import annotations

import ast
import copy
import hashlib
import inspect
from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

from .modules import imported_by

SHORT = 16  # letters of a fingerprint
DOCUMENTED = (ast.Module, ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)


def fingerprint_of(code: Callable[..., Any]) -> str:
    """The fingerprint of a function or a class; empty where its text cannot be read."""
    while isinstance(code, partial):
        code = code.func
    code = inspect.unwrap(code)
    try:
        file = Path(inspect.getsourcefile(code) or "")
        line = inspect.getsourcelines(code)[1]
        bound = _bound(file, file.stat().st_mtime_ns)
    except (TypeError, OSError, SyntaxError, ValueError):
        return ""
    name = getattr(code, "__qualname__", "").split(".")[0]
    start = bound.get(name) or _at(file, line)
    if not start:
        return ""
    texts = {name: _text(start, is_start=True) + _project(file, start)}
    waiting = list(_used(start))
    while waiting:
        each = waiting.pop()
        if each in texts or each not in bound:
            continue
        texts[each] = _text(bound[each]) + _project(file, bound[each])
        waiting += _used(bound[each])
    return _short("\n".join(f"{each}: {texts[each]}" for each in sorted(texts)))


def fingerprint_of_program(arguments: Sequence[str], build: Sequence[str], folder: Path) -> str:
    """The fingerprint of a program: its command, how it is built, and the files in the folder that these name."""
    parts = []
    for argument in (*build, *arguments):
        file = folder / argument
        parts += [argument, hashlib.sha256(file.read_bytes()).hexdigest() if file.is_file() else ""]
    return _short("\0".join(parts))


@lru_cache(maxsize=256)
def definition_in(text: str, name: str) -> str:
    """What defines a function or class at the top of a text, as a fingerprint sees it; empty where nothing does."""
    try:
        body = ast.parse(text).body
    except (SyntaxError, ValueError):
        return ""
    found: list[ast.stmt] = [node for node in body if isinstance(node, DOCUMENTED[1:]) and node.name == name]
    return _text(found[:1], is_start=True)


def _short(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:SHORT]


@lru_cache(maxsize=32)
def _parsed(file: Path, _changed: int) -> ast.Module:
    return ast.parse(file.read_bytes())


@lru_cache(maxsize=32)
def _bound(file: Path, changed: int) -> dict[str, list[ast.stmt]]:
    """The statements that bind each name at the top of a file."""
    found: dict[str, list[ast.stmt]] = {}
    for node in _parsed(file, changed).body:
        for name in _names(node):
            found.setdefault(name, []).append(node)
    return found


def _names(node: ast.AST) -> Iterator[str]:
    if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
        yield node.name
    elif isinstance(node, ast.Import | ast.ImportFrom):
        yield from ((each.asname or each.name).split(".")[0] for each in node.names)
    else:
        # What is bound within an if or a try belongs to the whole of it.
        for part in ast.iter_child_nodes(node):
            if isinstance(part, ast.stmt | ast.excepthandler | ast.match_case):
                yield from _names(part)
        yield from (
            each.id for each in ast.walk(node) if isinstance(each, ast.Name) and isinstance(each.ctx, ast.Store)
        )


def _at(file: Path, line: int) -> list[ast.stmt]:
    """The innermost statement of a file that begins at a line, such as that of a lambda."""
    tree = _parsed(file, file.stat().st_mtime_ns)
    return [node for node in ast.walk(tree) if isinstance(node, ast.stmt) and node.lineno == line][:1]


def _used(nodes: list[ast.stmt]) -> Iterator[str]:
    for node in nodes:
        parts: list[ast.AST] = [node]
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
            parts = [each for each in ast.iter_child_nodes(node) if each not in node.decorator_list]
        yield from (each.id for part in parts for each in ast.walk(part) if isinstance(each, ast.Name))


def _text(nodes: list[ast.stmt], is_start: bool = False) -> str:
    return "".join(ast.dump(_bare(node, is_start), include_attributes=False) for node in nodes)


def _bare(node: ast.stmt, is_start: bool) -> ast.AST:
    """A statement without docstrings and, where it is the contender itself, without the decorators that make it one."""
    tree = _without_docstrings(ast.Module([node], []))
    top = tree.body[0]
    if is_start and isinstance(top, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
        top.decorator_list = []
    return tree


def _project(file: Path, nodes: list[ast.stmt]) -> str:
    """What the modules of the project say that some statements import, packages and nested modules included."""
    return "".join(
        f"{path.name}: {_module(path, path.stat().st_mtime_ns)}" for path in sorted(imported_by(file, nodes))
    )


@lru_cache(maxsize=512)
def _module(path: Path, changed: int) -> str:
    """The digest of a module: what its code says, or its bytes where it is compiled."""
    try:
        said = ast.dump(_without_docstrings(_parsed(path, changed)), include_attributes=False).encode()
    except (SyntaxError, ValueError):
        said = path.read_bytes()
    return hashlib.sha256(said).hexdigest()


def _without_docstrings(tree: ast.Module) -> ast.Module:
    """A module without its docstrings; a copy, as one that is parsed serves many."""
    tree = copy.deepcopy(tree)
    for each in ast.walk(tree):
        if isinstance(each, DOCUMENTED) and ast.get_docstring(each):
            each.body = each.body[1:] or [ast.Pass()]
    return tree
