"""Expressions as contenders: compiled into the loop that is timed, since a call would take longer than they do.

This module needs nothing but the standard library, because a worker process imports it beside the code under study.
"""

from __future__ import annotations

import ast
import builtins
import copy
import linecache
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import StudyError, there

WHOLE = "x"  # what an instance is called that is no dict
Loop = Callable[[list[Any], Any], int]
"""Takes rows of as many tuples of values as it is unrolled, and returns nanoseconds."""


@dataclass(frozen=True, slots=True)
class Expression:
    """One expression.

    Attributes:
        text: as it was written.
        names: those of its names that the instance gives, in alphabetical order.
        space: where other names are looked up.
    """

    text: str
    names: tuple[str, ...]
    space: Mapping[str, Any] = field(default_factory=dict)

    @classmethod
    def of(cls, text: str, space: Mapping[str, Any]) -> Expression:
        """An expression; what is neither in a name space nor built in is to come from the instance.

        Args:
            text: one expression.
            space: where names are looked up.

        Raises:
            StudyError: where it cannot be read.
        """
        try:
            tree = ast.parse(text.strip(), mode="eval")
        except SyntaxError as error:
            raise StudyError(f"'{text}' is not an expression: {error.msg}") from None
        used = {each.id for each in ast.walk(tree) if isinstance(each, ast.Name) and isinstance(each.ctx, ast.Load)}
        bound = {each.id for each in ast.walk(tree) if isinstance(each, ast.Name) and isinstance(each.ctx, ast.Store)}
        free = {each for each in used - bound if each not in space and not hasattr(builtins, each)}
        return cls(text.strip(), tuple(sorted(free)), space)

    def values(self, instance: Any) -> tuple[Any, ...]:
        """What an instance gives for each of the names: a dict its values, any other is `x` itself.

        Raises:
            StudyError: where it does not give one.
        """
        if not isinstance(instance, dict):
            instance = {WHOLE: instance}
        for name in self.names:
            if name not in instance:
                raise StudyError(f"'{self.text}' uses {name}, which the instance does not give: {there([*instance])}")
        return tuple(instance[name] for name in self.names)

    def function(self) -> Callable[[Any], Any]:
        """The expression as a function of an instance."""
        lines = [
            "def expression(instance):",
            "    if type(instance) is not dict:",
            f'        instance = {{"{WHOLE}": instance}}',
        ]
        lines += [f'    {name} = instance["{name}"]' for name in self.names]
        lines.append(f"    return ({self.text})")
        text = "\n".join(lines) + "\n"
        file = f"<expression {self.text}>"
        linecache.cache[file] = (len(text), None, text.splitlines(keepends=True), file)
        space = dict(self.space)
        exec(compile(text, file, "exec"), space)
        made: Callable[[Any], Any] = space["expression"]
        return made

    def loop(self, unrolled: int, now: Callable[[], int], is_empty: bool = False) -> Loop:
        """A function that evaluates it for each row, so many times a turn; the empty one only takes the rows apart.

        Args:
            unrolled: how many rows a turn takes.
            now: reads the clock.
            is_empty: whether to leave the expression out.
        """
        rows = ", ".join(f"({''.join(f'{name}_{at}, ' for name in self.names)})" for at in range(unrolled))
        head = f"def loop(rows, keep):\n    start = now_()\n    for {rows}, in rows:\n        pass\n"
        tree = ast.parse(f"{head}    return now_() - start\n")
        body = ast.parse(self.text, mode="eval").body
        if not is_empty:
            turn = next(each for each in ast.walk(tree) if isinstance(each, ast.For))
            turn.body = [ast.Expr(_Numbered(self.names, at).visit(copy.deepcopy(body))) for at in range(unrolled)]
        space: dict[str, Any] = {**self.space, "now_": now}
        exec(compile(ast.fix_missing_locations(tree), f"<expression {self.text}>", "exec"), space)
        made: Loop = space["loop"]
        return made


class _Numbered(ast.NodeTransformer):
    """Gives names a number, so that each turn of a loop that is written out has variables of its own."""

    def __init__(self, names: tuple[str, ...], number: int) -> None:
        self.names, self.number = names, number

    def visit_Name(self, node: ast.Name) -> ast.Name:
        """Rename one."""
        if node.id in self.names:
            node.id = f"{node.id}_{self.number}"
        return node
