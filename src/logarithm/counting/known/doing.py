"""What a contender's calls, operators, comparisons and parts do, done and counted: what rewritten code calls."""

from __future__ import annotations

import operator
import sys
import types
from collections.abc import Callable
from typing import Any

from ...notation.kinds import COPIED, HASHED, SIGNS
from . import arrays, operators
from .entries import through
from .functions import CONSTANT, FUNCTIONS, known
from .kinds import CALL, did, did_unknown
from .methods import METHODS

DOING: dict[str, tuple[Callable[[Any, Any], Any], Callable[[Any, Any], Any]]] = {
    "+": (operator.add, operator.iadd),
    "-": (operator.sub, operator.isub),
    "*": (operator.mul, operator.imul),
    "/": (operator.truediv, operator.itruediv),
    "//": (operator.floordiv, operator.ifloordiv),
    "%": (operator.mod, operator.imod),
    "**": (operator.pow, operator.ipow),
    "@": (operator.matmul, operator.imatmul),
    "|": (operator.or_, operator.ior),
    "&": (operator.and_, operator.iand),
    "^": (operator.xor, operator.ixor),
    "<<": (operator.lshift, operator.ilshift),
    ">>": (operator.rshift, operator.irshift),
}
ASKING: dict[str, Callable[[Any, Any], Any]] = {
    "==": operator.eq,
    "!=": operator.ne,
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
    "in": lambda one, other: one in other,
    "not in": lambda one, other: one not in other,
}
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
OWN = __name__.partition(".")[0] + "."
SHORT = (int, float, bool, complex)
COMPILED = (types.BuiltinFunctionType, types.MethodWrapperType, types.MethodDescriptorType)


def call(function: Any, /, *given: Any, **named: Any) -> Any:
    """Call a function, in its counting form where it has one."""
    try:
        instead = FUNCTIONS.get(function)
    except TypeError:  # what cannot be hashed is in no table
        instead = None
    if instead is not None and not any(map(arrays.is_array, given)):
        return instead(*given, **named)
    own = getattr(function, "__self__", None)
    name = getattr(function, "__name__", "")
    if own is not None and not isinstance(own, (type, types.ModuleType)):
        methods = METHODS.get(type(own))
        if methods is not None and name in methods:
            return methods[name](own, *given, **named)
    elif isinstance(own, type) and name == "fromkeys" and given:
        return function(through(given[0], HASHED), *given[1:], **named)
    elif isinstance(function, types.MethodDescriptorType) and given:
        # `list.sort(values)`, `str.join(between, parts)`
        methods = METHODS.get(type(given[0]), {})
        if name in methods:
            return methods[name](*given, **named)
    # What is handed on, such as a function that `map` calls, is called there.
    given = tuple(map(known, given)) if isinstance(function, type) else given
    made = function(*given, **named)
    is_asked = name in CONSTANT and not arrays.is_array(made)  # such as its length
    takes_array = any(map(arrays.is_array, given)) and isinstance(function, COMPILED) and not is_asked
    if arrays.is_of_arrays(function) or takes_array:
        array = (own,) if arrays.is_array(own) else ()
        arrays.did_array(name or type(function).__name__, (*array, *given, *named.values()), made)
    elif instead is None and _is_foreign(function):
        did_unknown(f"{getattr(function, '__module__', None) or '?'}.{name}")
    elif isinstance(function, COMPILED) and name not in CONSTANT and instead is None:
        did_unknown(
            f"{type(own).__name__}.{name}" if own is not None and not isinstance(own, types.ModuleType) else name
        )
    return made


def _is_foreign(function: Any) -> bool:
    """Whether a function or class is Python code of a library: what compiled code does in it is not seen.

    What this package gives to contenders, such as `tally`, is no part of their work.
    """
    if isinstance(function, types.MethodType):
        function = function.__func__
    if (getattr(function, "__module__", None) or "").startswith(OWN):
        return False
    if isinstance(function, type):
        home = sys.modules.get(function.__module__)
        return function.__module__ not in PLAIN_HOMES and CALL not in vars(home or object)
    return isinstance(function, types.FunctionType) and CALL not in function.__globals__


def operate(sign: str, one: Any, other: Any) -> Any:
    """Apply an operator."""
    made = DOING[sign][0](one, other)
    _operated(sign, one, other, made)
    return made


def inplace(sign: str, one: Any, other: Any) -> Any:
    """Apply an operator in place, as `one += other` does; what it changes may be what is returned."""
    if sign == "+" and type(one) is str and type(other) is str and sys.getrefcount(one) <= ALONE:
        did(SIGNS, len(other))  # a text that nobody else holds grows where it is
        return one + other
    if sign == "+" and type(one) in (list, bytearray):
        before = len(one)
        made = DOING[sign][1](one, other)
        did(COPIED if type(one) is list else SIGNS, len(made) - before)
        return made
    made = DOING[sign][1](one, other)
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
        operators.operate(sign, one, other, made)


def compare(sign: str, one: Any, other: Any) -> Any:
    """Ask a comparison."""
    if type(one) not in SHORT or type(other) not in SHORT:
        if arrays.is_array(one) or arrays.is_array(other):
            made = ASKING[sign](one, other)
            arrays.did_array("add", (one, other), made)
            return made
        operators.compare(sign, one, other)
    return ASKING[sign](one, other)


def part(values: Any, start: Any, stop: Any, step: Any) -> Any:
    """Take a part."""
    made = values[start:stop:step]
    if not arrays.is_array(values):
        operators.part(values, made)
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
        operators.shifted(values, before, first if first >= 0 else first + before)


def put(values: Any, place: Any, new: Any) -> None:
    """Put something in the place of a part."""
    before = len(values) if hasattr(values, "__len__") else 0
    values[place] = new
    if arrays.is_array(values):
        arrays.did_array("copy", (new,), values[place])
    else:
        did(COPIED, len(new) if hasattr(new, "__len__") else 1)
        operators.shifted(values, before, place.indices(before)[0])


def written(text: str) -> str:
    """A text that was put together."""
    did(SIGNS, len(text))
    return text


def spread(values: Any) -> Any:
    """A container into which others were spread."""
    did(COPIED, len(values))
    return values


def is_compiled(code: Callable[..., Any]) -> bool:
    """Whether a function is one of the interpreter's, or of an array library's."""
    return isinstance(code, COMPILED) or known(code) is not code or arrays.is_of_arrays(code)
