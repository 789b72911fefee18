"""How a contender's functions are rewritten so that known operations inside them are counted as they run.

Each call, operator, comparison, part and removal in their text becomes a call of a function that does the same and
counts what happens inside. Instances stay as they are, so whatever they are of, and whatever the contender makes of
them, is seen.
"""

from __future__ import annotations

import ast
from collections.abc import Callable
from typing import Any

from ..known import doing
from ..known.kinds import CALL, Done, counting_known
from .rewriting import Rewriter, Way, rewritten

OPERATE, INPLACE, COMPARE, GROW = "__known_operate__", "__known_inplace__", "__known_compare__", "__known_grow__"
PART, AT, REMOVE, PUT = "__known_part__", "__known_at__", "__known_remove__", "__known_put__"
WRITTEN, SPREAD, SLICE = "__known_written__", "__known_spread__", "__known_slice__"
FRAMES = {"super", "locals", "globals", "vars", "dir", "eval", "exec", "breakpoint"}
"""Names of what asks from where it is called."""
OPERATORS: dict[type, str] = {
    ast.Add: "+",
    ast.Sub: "-",
    ast.Mult: "*",
    ast.Div: "/",
    ast.FloorDiv: "//",
    ast.Mod: "%",
    ast.Pow: "**",
    ast.MatMult: "@",
    ast.BitOr: "|",
    ast.BitAnd: "&",
    ast.BitXor: "^",
    ast.LShift: "<<",
    ast.RShift: ">>",
}
COMPARISONS: dict[type, str] = {
    ast.Eq: "==",
    ast.NotEq: "!=",
    ast.Lt: "<",
    ast.LtE: "<=",
    ast.Gt: ">",
    ast.GtE: ">=",
    ast.In: "in",
    ast.NotIn: "not in",
}


def _is_added_to(value: ast.expr, name: str) -> bool:
    """Whether a value is a sum whose first part is what a name stands for."""
    is_sum = isinstance(value, ast.BinOp) and isinstance(value.op, ast.Add)
    return is_sum and isinstance(value.left, ast.Name) and value.left.id == name  # type: ignore[attr-defined]


class _Rewriter(Rewriter, ast.NodeTransformer):
    """Puts functions that count in the place of what they do."""

    def visit_Call(self, node: ast.Call) -> ast.expr:
        """A call, but for one that asks from where it is called."""
        self.generic_visit(node)
        if isinstance(node.func, ast.Name) and node.func.id in FRAMES:
            return node
        made = ast.Call(ast.Name(CALL, ast.Load()), [node.func, *node.args], node.keywords)
        return ast.fix_missing_locations(ast.copy_location(made, node))

    def visit_BinOp(self, node: ast.BinOp) -> ast.expr:
        """An operator."""
        self.generic_visit(node)
        if isinstance(node.left, ast.Constant) and isinstance(node.right, ast.Constant):
            return node
        return self.calling(OPERATE, node, ast.Constant(OPERATORS[type(node.op)]), node.left, node.right)  # type: ignore[no-any-return]

    def visit_Compare(self, node: ast.Compare) -> ast.expr:
        """A comparison of two."""
        self.generic_visit(node)
        if len(node.ops) > 1 or type(node.ops[0]) not in COMPARISONS:
            return node
        sign = ast.Constant(COMPARISONS[type(node.ops[0])])
        return self.calling(COMPARE, node, sign, node.left, node.comparators[0])  # type: ignore[no-any-return]

    def visit_Subscript(self, node: ast.Subscript) -> ast.expr:
        """A part, or what is at a place."""
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            return node
        where = node.slice
        if isinstance(where, ast.Slice):
            return self.calling(PART, node, node.value, *self._ends(where))  # type: ignore[no-any-return]
        if any(isinstance(each, (ast.Slice, ast.Starred)) for each in ast.walk(where)):
            return node
        return self.calling(AT, node, node.value, where)  # type: ignore[no-any-return]

    def _ends(self, where: ast.Slice) -> list[ast.expr]:
        return [each or ast.Constant(None) for each in (where.lower, where.upper, where.step)]

    def _place(self, where: ast.expr) -> ast.expr:
        """A place as a value: a part as the slice that it is."""
        if not isinstance(where, ast.Slice):
            return where
        return ast.Call(ast.Name(SLICE, ast.Load()), self._ends(where), [])  # `slice` may be anybody's name

    def visit_Delete(self, node: ast.Delete) -> Any:
        """Removals of places and parts."""
        self.generic_visit(node)
        made: list[ast.stmt] = []
        for target in node.targets:
            if not isinstance(target, ast.Subscript) or isinstance(target.slice, ast.Tuple):
                made.append(ast.copy_location(ast.Delete([target]), node))
                continue
            gone = self.calling(REMOVE, node, target.value, self._place(target.slice))
            made.append(ast.copy_location(ast.Expr(gone), node))
        return [ast.fix_missing_locations(each) for each in made]

    def visit_Assign(self, node: ast.Assign) -> Any:
        """Something in the place of a part; and `text = text + more`, which is `text += more`."""
        target, value = node.targets[0], node.value
        if len(node.targets) == 1 and isinstance(target, ast.Name) and _is_added_to(value, target.id):
            more = self.visit(value.right)  # type: ignore[attr-defined]
            grown = self.calling(GROW, node, ast.Name(target.id, ast.Load()), more)
            return ast.fix_missing_locations(ast.copy_location(ast.Assign([target], grown), node))
        self.generic_visit(node)
        if len(node.targets) > 1 or not isinstance(target, ast.Subscript) or not isinstance(target.slice, ast.Slice):
            return node
        done = self.calling(PUT, node, target.value, self._place(target.slice), node.value)
        return ast.fix_missing_locations(ast.copy_location(ast.Expr(done), node))

    def visit_AugAssign(self, node: ast.AugAssign) -> ast.stmt:
        """An operator in place, of what can be named twice."""
        target = node.target
        self.generic_visit(node)
        if isinstance(target, ast.Name):
            return self._inplace(node, target, ast.Name(target.id, ast.Load()), node.op, node.value)
        if isinstance(target, ast.Attribute) and isinstance(target.value, ast.Name):
            before = ast.Attribute(ast.Name(target.value.id, ast.Load()), target.attr, ast.Load())
            return self._inplace(node, target, before, node.op, node.value)
        return node

    def _inplace(self, node: ast.stmt, target: Any, before: ast.expr, op: ast.operator, value: ast.expr) -> ast.stmt:
        sign = ast.Constant(OPERATORS[type(op)])
        made = ast.Assign([target], self.calling(INPLACE, node, sign, before, value))
        return ast.fix_missing_locations(ast.copy_location(made, node))

    def visit_JoinedStr(self, node: ast.JoinedStr) -> ast.expr:
        """A text with values in it."""
        self.visit_values(node)
        return self.calling(WRITTEN, node, node)  # type: ignore[no-any-return]

    def _spread(self, node: Any) -> Any:
        self.generic_visit(node)
        starred = isinstance(node.ctx, ast.Load) and any(isinstance(each, ast.Starred) for each in node.elts)
        return self.calling(SPREAD, node, node) if starred else node

    def visit_List(self, node: ast.List) -> ast.expr:
        """A list into which others are spread."""
        return self._spread(node)  # type: ignore[no-any-return]

    def visit_Tuple(self, node: ast.Tuple) -> ast.expr:
        """A tuple into which others are spread."""
        return self._spread(node)  # type: ignore[no-any-return]

    def visit_MatchValue(self, node: ast.MatchValue) -> ast.pattern:
        """Patterns stay."""
        return node


KNOWN = Way(
    _Rewriter,
    {
        CALL: doing.call,
        OPERATE: doing.operate,
        INPLACE: doing.inplace,
        COMPARE: doing.compare,
        GROW: doing.grow,
        PART: doing.part,
        AT: doing.at,
        REMOVE: doing.remove,
        PUT: doing.put,
        WRITTEN: doing.written,
        SPREAD: doing.spread,
        SLICE: slice,
    },
)


def known_work(
    run: Callable[[], Any], code: Callable[..., Any], instance: Any = None, with_places: bool = False
) -> tuple[Done, bool]:
    """What known operations do in a call, and whether the text of the code could be read.

    Args:
        run: the call, on an instance that it may change.
        code: the function or class that is called.
        instance: for a compiled function, which has no text: what it is called with.
        with_places: whether to take down where the operations stand.
    """
    if instance is not None and doing.is_compiled(code):
        with counting_known() as done:
            doing.call(code, instance)
        return done, True
    with rewritten(code, KNOWN) as is_read, counting_known(with_places) as done:
        run()
    return done, is_read
