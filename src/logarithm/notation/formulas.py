"""Exact formulas of n, such as n*(n-1)/2: read safely, never evaluated as code, and computed without rounding."""

from __future__ import annotations

import ast
import math
import re
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from ..errors import StudyError, one_line

_HOW = "write for example n*(n-1)/2, 2*n - 1 or ceil(log2(n+1))"
_LENGTH_MOST, _POWER_MOST = 200, 64
_AT_MOST = re.compile(r"\s*(?:<=|≤|at most\b)\s*")
_OPENING, _CLOSING = {"⌈": "ceil(", "⌊": "floor("}, ("⌉", "⌋")
_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹", "0123456789")

Value = Callable[[int], Fraction]


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula of n; `is_bound` where it says "at most"."""

    text: str
    value: Value
    is_bound: bool = False

    def holds(self, n: int, observed: float) -> bool:
        """Whether what was observed at n is what the formula says."""
        exact = self.value(n)
        return observed <= exact if self.is_bound else Fraction(observed) == exact


def parse(text: str) -> Formula:
    """Read a formula with n, numbers, + - * / ^, floor, ceil, log2, sqrt; `<= …` is a bound.

    >>> formula = parse("n(n-1)/2")
    >>> formula.holds(10, 45), parse("at most ⌈log₂(n+1)⌉").holds(10, 3)
    (True, True)

    Raises:
        StudyError: where it is no formula.
    """
    if len(text) > _LENGTH_MOST:
        raise StudyError(f"'{one_line(text, 60)}' is not a formula of n: {_HOW}")
    bound = _AT_MOST.match(text)
    plain = text[bound.end() :] if bound else text
    plain = re.sub(r"([⁰¹²³⁴⁵⁶⁷⁸⁹]+)", r"^\1", plain).translate(_SUPERSCRIPTS)
    plain = plain.replace("log₂", "log2").replace("·", "*").replace("−", "-").replace("√", "sqrt")
    for mark, opening in _OPENING.items():
        plain = plain.replace(mark, opening)
    for mark in _CLOSING:
        plain = plain.replace(mark, ")")
    # What people leave out: 2n, n(n-1), 3(n+1), log2 n.
    plain = re.sub(r"\b(log2|sqrt)\s*n\b", r"\1(n)", plain)
    plain = re.sub(r"(?<![\w.])(\d+)\s*(?=n\b|\(|floor|ceil|log2|sqrt)", r"\1*", plain)
    plain = re.sub(r"(\bn|\))\s*(?=\(|\bn\b|\bfloor\b|\bceil\b|\blog2\b|\bsqrt\b)", r"\1*", plain)
    plain = plain.replace("^", "**").strip()
    if not plain or len(plain) > _LENGTH_MOST:
        raise StudyError(f"'{one_line(text, 60)}' is not a formula of n: {_HOW}")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", SyntaxWarning)
            tree = ast.parse(plain, mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise StudyError(f"'{one_line(text, 60)}' is not a formula of n: {_HOW}") from None
    value = _built(tree.body, text)
    try:
        value(7)
    except (ArithmeticError, ValueError) as error:
        raise StudyError(f"'{one_line(text, 60)}' cannot be computed: {error}") from None
    return Formula(text.strip(), value, bound is not None)


def _built(node: ast.expr, text: str) -> Value:
    """A function of n for one part of a formula; only arithmetic is known."""
    value = node.value if isinstance(node, ast.Constant) else None
    if isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value):
        number = Fraction(str(value))
        return lambda _: number
    if isinstance(node, ast.Name) and node.id == "n":
        return lambda n: Fraction(n)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd)):
        inner = _built(node.operand, text)
        return (lambda n: -inner(n)) if isinstance(node.op, ast.USub) else inner
    if isinstance(node, ast.BinOp):
        left, right = _built(node.left, text), _built(node.right, text)
        operation = {
            ast.Add: lambda a, b: a + b,
            ast.Sub: lambda a, b: a - b,
            ast.Mult: lambda a, b: a * b,
            ast.Div: lambda a, b: a / b,
            ast.FloorDiv: lambda a, b: Fraction(a // b),
            ast.Mod: lambda a, b: a % b,
            ast.Pow: _power,
        }.get(type(node.op))
        if operation is not None:
            return lambda n: Fraction(operation(left(n), right(n)))
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and len(node.args) == 1 and not node.keywords:
        inside = node.args[0]
        if node.func.id in ("floor", "ceil"):
            rounded = math.floor if node.func.id == "floor" else math.ceil
            if isinstance(inside, ast.Call) and isinstance(inside.func, ast.Name) and len(inside.args) == 1:
                exact = {"log2": (floor_log2, ceil_log2), "sqrt": (floor_sqrt, ceil_sqrt)}.get(inside.func.id)
                if exact is not None:
                    of, root = _built(inside.args[0], text), exact[rounded is math.ceil]
                    return lambda n: Fraction(root(of(n)))
            inner = _built(inside, text)
            return lambda n: Fraction(rounded(inner(n)))
        if node.func.id in ("log2", "sqrt"):
            inner, function = _built(inside, text), math.log2 if node.func.id == "log2" else math.sqrt
            return lambda n: Fraction(function(inner(n)))
    raise StudyError(f"'{one_line(text, 60)}' is not a formula of n: {_HOW}")


def _power(base: Fraction, exponent: Fraction) -> Fraction:
    if exponent.denominator != 1 or abs(exponent) > 4096 or (abs(base) > 2 and abs(exponent) > _POWER_MOST):
        raise ValueError("a power that is too large")
    return Fraction(base ** int(exponent))


def floor_log2(x: Fraction) -> int:
    """⌊log₂ x⌋ without rounding; 0 for x of 1 and less."""
    return max(0, int(x).bit_length() - 1)


def ceil_log2(x: Fraction) -> int:
    """⌈log₂ x⌉ without rounding; 0 for x of 1 and less."""
    return max(0, (math.ceil(x) - 1).bit_length())


def floor_sqrt(x: Fraction) -> int:
    """⌊√x⌋ without rounding."""
    return math.isqrt(int(x))


def ceil_sqrt(x: Fraction) -> int:
    """⌈√x⌉ without rounding."""
    whole = math.ceil(x)
    return math.isqrt(whole - 1) + 1 if whole > 0 else 0
