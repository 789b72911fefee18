"""How a contender's functions are rewritten so that known operations inside them are counted as they run.

Each call, operator, comparison, part and removal in their text becomes a call of one of the functions below, which does
the same and counts what happens inside. Instances stay as they are, so whatever they are of, and whatever the contender
makes of them, is seen.
"""

from __future__ import annotations

import ast
import operator
import sys
import types
from collections.abc import Callable
from typing import Any

from ..known import arrays, table
from ..known.kinds import COPIED, HASHED, SIGNS, Done, counting_known, did, did_unknown
from .rewriting import Way, rewritten

CALL, OPERATE, INPLACE, COMPARE = "__known_call__", "__known_operate__", "__known_inplace__", "__known_compare__"
PART, AT, REMOVE, PUT, WRITTEN, SPREAD = (
    "__known_part__",
    "__known_at__",
    "__known_remove__",
    "__known_put__",
    "__known_written__",
    "__known_spread__",
)
GROW = "__known_grow__"
FRAMES = {"super", "locals", "globals", "vars", "dir", "eval", "exec", "breakpoint"}
"""Names of what asks from where it is called."""
OPERATORS: dict[type, tuple[str, Callable[[Any, Any], Any], Callable[[Any, Any], Any]]] = {
    ast.Add: ("+", operator.add, operator.iadd),
    ast.Sub: ("-", operator.sub, operator.isub),
    ast.Mult: ("*", operator.mul, operator.imul),
    ast.Div: ("/", operator.truediv, operator.itruediv),
    ast.FloorDiv: ("//", operator.floordiv, operator.ifloordiv),
    ast.Mod: ("%", operator.mod, operator.imod),
    ast.Pow: ("**", operator.pow, operator.ipow),
    ast.MatMult: ("@", operator.matmul, operator.imatmul),
    ast.BitOr: ("|", operator.or_, operator.ior),
    ast.BitAnd: ("&", operator.and_, operator.iand),
    ast.BitXor: ("^", operator.xor, operator.ixor),
    ast.LShift: ("<<", operator.lshift, operator.ilshift),
    ast.RShift: (">>", operator.rshift, operator.irshift),
}
COMPARISONS: dict[type, tuple[str, Callable[[Any, Any], Any]]] = {
    ast.Eq: ("==", operator.eq),
    ast.NotEq: ("!=", operator.ne),
    ast.Lt: ("<", operator.lt),
    ast.LtE: ("<=", operator.le),
    ast.Gt: (">", operator.gt),
    ast.GtE: (">=", operator.ge),
    ast.In: ("in", lambda one, other: one in other),
    ast.NotIn: ("not in", lambda one, other: one not in other),
}
_DOING = {sign: (do, inplace) for sign, do, inplace in OPERATORS.values()}
_ASKING = dict(COMPARISONS.values())
PLAIN_HOMES = (
    "builtins",
    "collections",
    "itertools",
    "functools",
    "array",
    "operator",
    "types",
    "fractions",
    "decimal",
)
SHORT = (int, float, bool, complex)
COMPILED = (types.BuiltinFunctionType, types.MethodWrapperType, types.MethodDescriptorType)


def call(function: Any, /, *given: Any, **named: Any) -> Any:
    """Call a function, in its counting form where it has one."""
    try:
        instead = table.FUNCTIONS.get(function)
    except TypeError:  # what cannot be hashed is in no table
        instead = None
    if instead is not None and not any(map(arrays.is_array, given)):
        return instead(*given, **named)
    own = getattr(function, "__self__", None)
    name = getattr(function, "__name__", "")
    if own is not None and not isinstance(own, (type, types.ModuleType)):
        methods = table.METHODS.get(type(own))
        if methods is not None and name in methods:
            return methods[name](own, *given, **named)
    elif isinstance(own, type) and name == "fromkeys" and given:
        return function(table.through(given[0], HASHED), *given[1:], **named)
    elif isinstance(function, types.MethodDescriptorType) and given:
        # `list.sort(values)`, `str.join(between, parts)`
        methods = table.METHODS.get(type(given[0]), {})
        if name in methods:
            return methods[name](*given, **named)
    # What is handed on, such as a function that `map` calls, is called there.
    given = tuple(map(table.known, given)) if isinstance(function, type) else given
    made = function(*given, **named)
    if arrays.is_of_arrays(function) or (given and any(map(arrays.is_array, given)) and isinstance(function, COMPILED)):
        array = (own,) if arrays.is_array(own) else ()
        arrays.did_array(_name(function, name), (*array, *given, *named.values()), made)
    elif instead is None and _is_foreign(function):
        did_unknown(f"{getattr(function, '__module__', None) or '?'}.{name}")
    elif isinstance(function, COMPILED) and name not in table.CONSTANT and instead is None:
        did_unknown(
            f"{type(own).__name__}.{name}" if own is not None and not isinstance(own, types.ModuleType) else name
        )
    return made


def _is_foreign(function: Any) -> bool:
    """Whether a function or class is Python code of a library: what compiled code does in it is not seen."""
    if isinstance(function, types.MethodType):
        function = function.__func__
    if isinstance(function, type):
        home = sys.modules.get(function.__module__)
        return function.__module__ not in PLAIN_HOMES and CALL not in vars(home or object)
    return isinstance(function, types.FunctionType) and CALL not in function.__globals__


def _name(function: Any, name: str) -> str:
    """The name of an array function; of a method of an element-wise one, such as `add.outer`, what it does."""
    return name.removesuffix("_dispatcher") or type(function).__name__


def operate(sign: str, one: Any, other: Any) -> Any:
    """Apply an operator."""
    made = _DOING[sign][0](one, other)
    _operated(sign, one, other, made)
    return made


def inplace(sign: str, one: Any, other: Any) -> Any:
    """Apply an operator in place, as `one += other` does; what it changes may be what is returned."""
    if sign == "+" and type(one) is str and type(other) is str and sys.getrefcount(one) <= ALONE:
        did(SIGNS, len(other))  # a text that nobody else holds grows where it is
        return one + other
    if sign == "+" and type(one) in (list, bytearray):
        before = len(one)
        made = _DOING[sign][1](one, other)
        did(COPIED if type(one) is list else SIGNS, len(made) - before)
        return made
    made = _DOING[sign][1](one, other)
    _operated(sign, one, other, made)
    return made


def grow(one: Any, other: Any) -> Any:
    """Add something, and put it where the first part was."""
    if type(one) is str and type(other) is str and sys.getrefcount(one) <= ALONE:
        did(SIGNS, len(other))
        return one + other
    return operate("+", one, other)


def _references(_sign: str, one: Any, _other: Any) -> int:
    return sys.getrefcount(one)


def _held_once() -> int:
    """How many references `inplace` sees to a value that a local name alone holds."""
    text = "".join(("tide", "s"))
    return _references("+", text, "")


ALONE = _held_once()


def _operated(sign: str, one: Any, other: Any, made: Any) -> None:
    if type(one) in SHORT and type(made) in SHORT and type(made) is not int:
        return
    if arrays.is_array(one) or arrays.is_array(other):
        arrays.did_array("matmul" if sign == "@" else "add", (one, other), made)
    else:
        table.operate(sign, one, other, made)


def compare(sign: str, one: Any, other: Any) -> Any:
    """Ask a comparison."""
    if type(one) not in SHORT or type(other) not in SHORT:
        if arrays.is_array(one) or arrays.is_array(other):
            made = _ASKING[sign](one, other)
            arrays.did_array("add", (one, other), made)
            return made
        table.compare(sign, one, other)
    return _ASKING[sign](one, other)


def part(values: Any, start: Any, stop: Any, step: Any) -> Any:
    """Take a part."""
    made = values[start:stop:step]
    if not arrays.is_array(values):
        table.part(values, made)
    return made


def at(values: Any, place: Any) -> Any:
    """Take what is at a place; of an array, it may be many elements."""
    made = values[place]
    if arrays.is_array(made) and (isinstance(place, list) or arrays.is_array(place)):
        arrays.did_array("take", (place,), made)
    return made


def remove(values: Any, place: Any) -> None:
    """Remove what is at a place, or a part."""
    before = len(values) if hasattr(values, "__len__") else 0
    first = place.indices(before)[0] if isinstance(place, slice) else place
    del values[place]
    if isinstance(first, int):
        table.shifted(values, before, first if first >= 0 else first + before)


def put(values: Any, place: Any, new: Any) -> None:
    """Put something in the place of a part."""
    before = len(values) if hasattr(values, "__len__") else 0
    values[place] = new
    if arrays.is_array(values):
        arrays.did_array("copy", (new,), values[place])
    else:
        did(COPIED, len(new) if hasattr(new, "__len__") else 1)
        table.shifted(values, before, place.indices(before)[0])


def written(text: str) -> str:
    """A text that was put together."""
    did(SIGNS, len(text))
    return text


def spread(values: Any) -> Any:
    """A container into which others were spread."""
    did(COPIED, len(values))
    return values


def _is_added_to(value: ast.expr, name: str) -> bool:
    """Whether a value is a sum whose first part is what a name stands for."""
    is_sum = isinstance(value, ast.BinOp) and isinstance(value.op, ast.Add)
    return is_sum and isinstance(value.left, ast.Name) and value.left.id == name  # type: ignore[attr-defined]


class _Rewriter(ast.NodeTransformer):
    """Puts the functions above in the place of what they do."""

    def _calling(self, node: ast.AST, name: str, *given: ast.expr) -> Any:
        made = ast.Call(ast.Name(name, ast.Load()), list(given), [])
        return ast.fix_missing_locations(ast.copy_location(made, node))

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
        return self._calling(node, OPERATE, ast.Constant(OPERATORS[type(node.op)][0]), node.left, node.right)  # type: ignore[no-any-return]

    def visit_Compare(self, node: ast.Compare) -> ast.expr:
        """A comparison of two."""
        self.generic_visit(node)
        if len(node.ops) > 1 or type(node.ops[0]) not in COMPARISONS:
            return node
        sign = ast.Constant(COMPARISONS[type(node.ops[0])][0])
        return self._calling(node, COMPARE, sign, node.left, node.comparators[0])  # type: ignore[no-any-return]

    def visit_Subscript(self, node: ast.Subscript) -> ast.expr:
        """A part, or what is at a place."""
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            return node
        where = node.slice
        if isinstance(where, ast.Slice):
            ends = [each or ast.Constant(None) for each in (where.lower, where.upper, where.step)]
            return self._calling(node, PART, node.value, *ends)  # type: ignore[no-any-return]
        if any(isinstance(each, (ast.Slice, ast.Starred)) for each in ast.walk(where)):
            return node
        return self._calling(node, AT, node.value, where)  # type: ignore[no-any-return]

    def _place(self, where: ast.expr) -> ast.expr:
        """A place as a value: a part as the slice that it is."""
        if not isinstance(where, ast.Slice):
            return where
        # `slice` may be anybody's name: the type is had from a part of nothing.
        ends = [each or ast.Constant(None) for each in (where.lower, where.upper, where.step)]
        return ast.Call(ast.Name("__known_slice__", ast.Load()), ends, [])

    def visit_Delete(self, node: ast.Delete) -> Any:
        """Removals of places and parts."""
        self.generic_visit(node)
        made: list[ast.stmt] = []
        for target in node.targets:
            if not isinstance(target, ast.Subscript) or isinstance(target.slice, ast.Tuple):
                made.append(ast.copy_location(ast.Delete([target]), node))
                continue
            gone = self._calling(node, REMOVE, target.value, self._place(target.slice))
            made.append(ast.copy_location(ast.Expr(gone), node))
        return [ast.fix_missing_locations(each) for each in made]

    def visit_Assign(self, node: ast.Assign) -> Any:
        """Something in the place of a part; and `text = text + more`, which is `text += more`."""
        target, value = node.targets[0], node.value
        if len(node.targets) == 1 and isinstance(target, ast.Name) and _is_added_to(value, target.id):
            more = self.visit(value.right)  # type: ignore[attr-defined]
            grown = self._calling(node, GROW, ast.Name(target.id, ast.Load()), more)
            return ast.fix_missing_locations(ast.copy_location(ast.Assign([target], grown), node))
        self.generic_visit(node)
        if len(node.targets) > 1 or not isinstance(target, ast.Subscript) or not isinstance(target.slice, ast.Slice):
            return node
        done = self._calling(node, PUT, target.value, self._place(target.slice), node.value)
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
        sign = ast.Constant(OPERATORS[type(op)][0])
        made = ast.Assign([target], self._calling(node, INPLACE, sign, before, value))
        return ast.fix_missing_locations(ast.copy_location(made, node))

    def visit_JoinedStr(self, node: ast.JoinedStr) -> ast.expr:
        """A text with values in it; the format of a value is none of the contender's making."""
        for each in node.values:
            if isinstance(each, ast.FormattedValue):
                each.value = self.visit(each.value)
        return self._calling(node, WRITTEN, node)  # type: ignore[no-any-return]

    def _spread(self, node: Any) -> Any:
        self.generic_visit(node)
        starred = isinstance(node.ctx, ast.Load) and any(isinstance(each, ast.Starred) for each in node.elts)
        return self._calling(node, SPREAD, node) if starred else node

    def visit_List(self, node: ast.List) -> ast.expr:
        """A list into which others are spread."""
        return self._spread(node)  # type: ignore[no-any-return]

    def visit_Tuple(self, node: ast.Tuple) -> ast.expr:
        """A tuple into which others are spread."""
        return self._spread(node)  # type: ignore[no-any-return]

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.stmt:
        """An annotation is no value."""
        node.value = self.visit(node.value) if node.value is not None else None
        return node

    def visit_arguments(self, node: ast.arguments) -> ast.arguments:
        """Nor are those of parameters; what they are by default was made before."""
        return node

    def visit_MatchValue(self, node: ast.MatchValue) -> ast.pattern:
        """Patterns stay."""
        return node


KNOWN = Way(
    _Rewriter,
    {
        CALL: call,
        OPERATE: operate,
        INPLACE: inplace,
        GROW: grow,
        COMPARE: compare,
        PART: part,
        AT: at,
        REMOVE: remove,
        PUT: put,
        WRITTEN: written,
        SPREAD: spread,
        "__known_slice__": slice,
    },
)


def known_work(run: Callable[[], Any], code: Callable[..., Any], instance: Any = None) -> tuple[Done, bool]:
    """What known operations do in a call, and whether the text of the code could be read.

    Args:
        run: the call, on an instance that it may change.
        code: the function or class that is called.
        instance: for a compiled function, which has no text: what it is called with.
    """
    if instance is not None and is_compiled(code):
        with counting_known() as done:
            call(code, instance)
        return done, True
    with rewritten(code, KNOWN) as is_read, counting_known() as done:
        run()
    return done, is_read


def is_compiled(code: Callable[..., Any]) -> bool:
    """Whether a function is one of the interpreter's, or of an array library's."""
    return isinstance(code, COMPILED) or table.known(code) is not code or arrays.is_of_arrays(code)
