"""Exact closed forms of counts: the formula that gives every observed number, or none.

A form is a sum of few terms with rational coefficients: powers of n, alone or times ⌊log₂ n⌋ or ⌈log₂ n⌉, powers of
two, the rounded square root; or two polynomials, one for even and one for odd n. Its coefficients are solved
exactly, in whole numbers, from as many sizes as it has terms. It is believed only where it also gives the
count at every other size, and at no fewer than three of them: sizes that were not used to find it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations
from math import factorial, gcd, isqrt, lcm

from ...notation.orders import parse

SPARE = 3  # sizes that a form must give beside those that it was found with
TERMS_MOST, SHIFTS = 4, 3
DENOMINATOR_MOST = 24
WHOLE_MOST = 10**7  # no coefficient that people would believe is larger


@dataclass(frozen=True, slots=True)
class Term:
    """A term: its spelling for commands, its order of growth, its value at n."""

    text: str
    order: str
    value: Callable[[int], int]


Sum = tuple[tuple[Fraction, Term], ...]
"""Terms with their coefficients."""
Form = tuple[Sequence[Term], Sequence[Fraction]]
"""The same as two rows."""


@dataclass(frozen=True, slots=True)
class Exact:
    """A closed form: `text` can be read by `notation.formulas`; `order` is that of its leading term.

    `sums` are the terms with their coefficients: one sum, or one for even and one for odd n.
    """

    text: str
    order: str
    terms: int
    sums: tuple[Sum, ...]

    def at(self, n: int) -> Fraction:
        """The count at n.

        >>> closed_form([2, 3, 5, 8, 13, 21], [n * (n - 1) // 2 for n in (2, 3, 5, 8, 13, 21)]).at(100)
        Fraction(4950, 1)
        """
        chosen = self.sums[n % 2] if len(self.sums) > 1 else self.sums[0]
        return sum((factor * term.value(n) for factor, term in chosen), Fraction(0))


def _low(n: int) -> int:
    return n.bit_length() - 1


def _high(n: int) -> int:
    return (n - 1).bit_length()


ONE = Term("", "1", lambda _: 1)
POWERS = (
    Term("n^4", "n^4", lambda n: n**4),
    Term("n^3", "n^3", lambda n: n**3),
    Term("n^2", "n^2", lambda n: n * n),
    Term("n", "n", lambda n: n),
    ONE,
)
LOGS = (
    (
        Term("n*floor(log2(n))", "n log n", lambda n: n * _low(n)),
        Term("2^floor(log2(n))", "n", lambda n: 1 << _low(n)),
        Term("n", "n", lambda n: n),
        Term("floor(log2(n))", "log n", _low),
        ONE,
    ),
    (
        Term("n*ceil(log2(n))", "n log n", lambda n: n * _high(n)),
        Term("2^ceil(log2(n))", "n", lambda n: 1 << _high(n)),
        Term("n", "n", lambda n: n),
        Term("ceil(log2(n))", "log n", _high),
        ONE,
    ),
)
ROOTS = (Term("n", "n", lambda n: n), Term("floor(sqrt(n))", "sqrt n", isqrt), ONE)
STEEP = (
    Term("2^n", "2^n", lambda n: 1 << n),
    Term("n^2", "n^2", lambda n: n * n),
    Term("n", "n", lambda n: n),
    ONE,
)
STEEP_MOST, FACTORIAL_MOST = 400, 60


def closed_form(sizes: Sequence[float], counts: Sequence[float]) -> Exact | None:
    """The simplest form that gives every count, None where there is none.

    Args:
        sizes: different positive whole numbers, shape (m,).
        counts: whole numbers, shape (m,).

    >>> closed_form([2, 3, 5, 8, 13, 21], [n * (n - 1) // 2 for n in (2, 3, 5, 8, 13, 21)]).text
    'n*(n-1)/2'
    """
    if not all(float(value).is_integer() and value >= 0 for value in (*sizes, *counts)):
        return None
    points = sorted({int(n): int(count) for n, count in zip(sizes, counts, strict=True)}.items())
    if len(points) <= SPARE or points[0][0] < 1:
        return None
    if len({count for _, count in points}) == 1:
        return Exact(str(points[0][1]), "1", 1, (((Fraction(points[0][1]), ONE),),))
    bases: list[Sequence[Term]] = [POWERS, *LOGS, ROOTS]
    if points[-1][0] <= STEEP_MOST:
        bases.append(STEEP)
    if points[-1][0] <= FACTORIAL_MOST:
        bases.append((Term("factorial", "n!", factorial), ONE))
    found = _simplest(bases, points)
    if found is None:
        return _by_parity(points)
    return Exact(spelled(*found), _leading(*found), len(found[0]), (_sum_of(*found),))


def _simplest(bases: Sequence[Sequence[Term]], points: list[tuple[int, int]]) -> Form | None:
    """The fewest terms of one of the bases that give every count."""
    table = {term: [term.value(n) for n, _ in points] for basis in bases for term in basis}
    counts = [count for _, count in points]
    for many in range(1, TERMS_MOST + 1):
        for terms in (terms for basis in bases for terms in combinations(basis, many)):
            found = _solved([table[term] for term in terms], counts)
            if found is not None:
                return terms, found
    return None


def _by_parity(points: list[tuple[int, int]]) -> Exact | None:
    """Two polynomials, one for even and one for odd n, where both are of the same degree and leading term."""
    halves = ([point for point in points if point[0] % 2 == odd] for odd in (0, 1))
    parts = [part for half in halves if (part := _simplest([POWERS], half))]
    if len(parts) < 2:
        return None
    even, odd = (spelled(*part) for part in parts)
    orders = [_leading(*part) for part in parts]
    if orders[0] != orders[1]:
        return None
    text = f"{even} for even n, {odd} for odd n"
    return Exact(text, orders[0], sum(len(part[0]) for part in parts), tuple(_sum_of(*part) for part in parts))


def _sum_of(terms: Sequence[Term], coefficients: Sequence[Fraction]) -> Sum:
    return tuple(zip(coefficients, terms, strict=True))


def _solved(terms: Sequence[Sequence[int]], counts: Sequence[int]) -> list[Fraction] | None:
    """The coefficients by which the terms give every count; None where there are none that people would believe.

    Args:
        terms: of each term its value at each size.
        counts: at each size.
    """
    many, sizes = len(terms), len(counts)
    if sizes < many + SPARE:
        return None
    # The sizes to solve with: as many as there are terms, spread over all of them; where these cannot tell the terms
    # apart, as powers of two cannot tell n from 2^⌊log₂ n⌋, the next ones in their place.
    solution = None
    for shift in range(SHIFTS):
        chosen = [(round(at * (sizes - 1) / max(many - 1, 1)) + shift * at) % sizes for at in range(many)]
        solution = _eliminated([[*(values[at] for values in terms), counts[at]] for at in chosen])
        if solution is not None:
            break
    if solution is None:
        return None
    parts, whole = solution
    if any(not part or abs(part) > WHOLE_MOST * abs(whole) for part in parts):
        return None
    if any(abs(whole) // gcd(part, whole) > DENOMINATOR_MOST for part in parts):
        return None
    for at, count in enumerate(counts):
        if sum(part * values[at] for part, values in zip(parts, terms, strict=True)) != count * whole:
            return None
    return [Fraction(part, whole) for part in parts]


def _eliminated(rows: list[list[int]]) -> tuple[list[int], int] | None:
    """The solution of a linear system in whole numbers, over one denominator; None where there is not just one.

    By elimination without fractions, in which every division is exact (Bareiss, Mathematics of Computation 22, 1968,
    565-578).
    """
    many, former = len(rows), 1
    for column in range(many):
        pivot = next((at for at in range(column, many) if rows[at][column]), None)
        if pivot is None:
            return None
        rows[column], rows[pivot] = rows[pivot], rows[column]
        own, head = rows[column], rows[column][column]
        for at, row in enumerate(rows):
            if at != column:
                factor = row[column]
                rows[at] = [(head * value - factor * beside) // former for value, beside in zip(row, own, strict=True)]
        former = head
    return [row[-1] for row in rows], former


def _leading(terms: Sequence[Term], coefficients: Sequence[Fraction]) -> str:
    positive = [term.order for term, value in zip(terms, coefficients, strict=True) if value > 0]
    return max(positive or [terms[0].order], key=lambda order: parse(order).rank)


def spelled(terms: Sequence[Term], coefficients: Sequence[Fraction]) -> str:
    """The form as people write it: over one denominator, polynomials with whole roots as factors."""
    below = lcm(*(value.denominator for value in coefficients))
    whole = [int(value * below) for value in coefficients]
    common = gcd(*whole)
    if all(term in POWERS for term in terms):
        degrees = [len(POWERS) - 1 - POWERS.index(term) for term in terms]
        powers = {degree: value // common for degree, value in zip(degrees, whole, strict=True)}
        top = factored([powers.get(degree, 0) for degree in range(max(powers) + 1)], common)
    else:
        top = _sum([(value, term.text) for term, value in zip(terms, whole, strict=True)])
    if below == 1:
        return top
    return f"({top})/{below}" if " " in top and not top.endswith(")") else f"{top}/{below}"


def factored(coefficients: list[int], common: int) -> str:
    """A polynomial, lowest power first, times a whole number, with its small whole roots as factors.

    >>> factored([0, -1, 1], 1), factored([-1, 2], 1), factored([0, 1, 3, 2], 1), factored([0, 0, 1], 3)
    ('n*(n-1)', '2*n - 1', 'n*(n+1)*(2*n+1)', '3*n^2')
    """
    zeros = next(at for at, value in enumerate(coefficients) if value)
    rest = coefficients[zeros:]
    factors = [] if not zeros else ["n"] if zeros == 1 else [f"n^{zeros}"]
    for root in (1, -1, 2, -2, 3, -3):
        while len(rest) > 1 and sum(value * root**at for at, value in enumerate(rest)) == 0:
            divided, carry = [0] * (len(rest) - 1), 0
            for at in range(len(rest) - 1, 0, -1):
                carry = rest[at] + carry * root
                divided[at - 1] = carry
            rest = divided
            factors.append(f"(n{-root:+d})")
    if len(factors) > 1 or (zeros and len(rest) == 1):
        head, last = (common * rest[0], "") if len(rest) == 1 else (common, f"({_polynomial(rest, 1)})")
        # A short factor is written close, as (n+1) is.
        last = last.replace(" ", "") if len(rest) == 2 else last
        return "*".join(each for each in (str(head) if head != 1 else "", *factors, last) if each)
    return _polynomial(coefficients, common)


def _polynomial(coefficients: list[int], common: int) -> str:
    names = ["", "n", *(f"n^{at}" for at in range(2, len(coefficients)))]
    parts = [(value * common, name) for value, name in zip(coefficients, names, strict=False) if value]
    return _sum(parts[::-1])


def _sum(parts: list[tuple[int, str]]) -> str:
    text = ""
    for value, name in sorted(parts, key=lambda part: part[0] < 0):
        size = abs(value)
        shown = name if size == 1 and name else f"{size}*{name}" if name else str(size)
        text += (" - " if value < 0 else " + ") + shown if text else ("-" if value < 0 else "") + shown
    return text
