"""Laws in two sizes: sums of products of an order in each, such as `n + k log n`. How they are spelled and compared.

Nothing here needs more than the standard library, so that a study can be checked without loading the analysis.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..errors import StudyError, one_line
from .orders import LENGTH_MOST, Order
from .orders import parse as parse_order

Names = tuple[str, str]
"""What the two sizes are called, such as n and k."""

TERMS_MOST = 6
FUNCTIONS = ("sqrt", "log", "lg", "ln", "log2")
_FUNCTION = r"(?:sqrt|log|lg|ln|log2)(?:\s*\^\s*[0-9.]+)?\s*\(?\s*{name}\b\s*\)?"
_PLAIN = r"(?:[0-9.]+\s*\^\s*)?\b{name}\b(?:\s*(?:\^\s*[0-9.]+|!))?"
ONE = Order()


RATIO, LEAST, MOST = "log(n/k)", "min(n, k)", "max(n, k)"
"""What a term may have beside an order in each size: something of both, written with n and k for their names."""


@dataclass(frozen=True, slots=True)
class Term:
    """A product of an order in the first size, one in the second, and at times of something of `both`."""

    first: Order
    second: Order
    both: str = ""

    def spelled(self, names: Names) -> str:
        """The term with the names of its sizes.

        >>> Term(Order(logs=1), Order(power=1)).spelled(("n", "k"))
        'k log n'
        """
        parts = [_spelled(order, name) for order, name in zip((self.first, self.second), names, strict=True)]
        named = re.sub(r"\b[nk]\b", lambda found: names["nk".index(found[0])], self.both)
        there = [part for part in (*parts, named) if part not in ("1", "")]
        # Powers come before logarithms, as people write them.
        return " ".join(sorted(there, key=lambda part: part.startswith("log"))) or "1"

    def log_value(self, first: float, second: float) -> float:
        """The natural logarithm of its value."""
        return self.first.log_value(first) + self.second.log_value(second) + math.log(of_both(self.both, first, second))

    def is_within(self, other: Term, is_below: bool = False) -> bool:
        """Whether it grows no faster than another one in either size; `is_below` where the second is at most the first.

        >>> square, product = Term(ONE, Order(power=2)), Term(Order(power=1), Order(power=1))
        >>> square.is_within(product), square.is_within(product, is_below=True)
        (False, True)
        """
        if self.both != other.both:
            # It is within what it is at most, and what it is within is at least so much.
            at_most, at_least = _bounds(self, True), _bounds(other, False)
            return any(one.is_within(two, is_below) for one in at_most for two in at_least)
        own, others = (self.first, self.second), (other.first, other.second)
        if is_below and not any(order.base or order.factorial for order in (*own, *others)):
            moved = max(own[1].power - others[1].power, 0.0)
            own = (
                Order(own[0].power + moved, own[0].logs),
                Order(own[1].power - moved, own[1].logs),
            )
            if own[1].power == others[1].power and own[1].logs > others[1].logs:
                more = own[1].logs - others[1].logs
                own = Order(own[0].power, own[0].logs + more), Order(own[1].power, others[1].logs)
        return all(one.rank <= two.rank for one, two in zip(own, others, strict=True))


def of_both(both: str, first: float, second: float) -> float:
    """The value of what a term has of both sizes; 1 where it has nothing.

    >>> of_both(RATIO, 64, 4), of_both(LEAST, 64, 4), of_both("", 64, 4)
    (4.0, 4, 1.0)
    """
    if both == RATIO:
        return math.log2(max(first / second, second / first, 2.0))
    return min(first, second) if both == LEAST else max(first, second) if both == MOST else 1.0


def _bounds(term: Term, is_upper: bool) -> list[Term]:
    """Plain terms of which each is an upper bound of a term, or a lower one; none where there is no such."""
    first, second = term.first, term.second
    higher = [Term(replace(first, power=first.power + 1), second), Term(first, replace(second, power=second.power + 1))]
    plain = [Term(first, second)]
    if term.both == RATIO:
        longer = [Term(replace(first, logs=first.logs + 1), second), Term(first, replace(second, logs=second.logs + 1))]
        return longer if is_upper else plain
    if term.both == LEAST:
        return higher if is_upper else plain
    if term.both == MOST:
        return [] if is_upper else higher
    return plain


@dataclass(frozen=True, slots=True)
class Law:
    """A sum of terms, of which none grows faster than another one in both sizes."""

    terms: tuple[Term, ...]

    def spelled(self, names: Names) -> str:
        """The law with the names of its sizes, the term with the higher order in the first size first."""
        ordered = sorted(self.terms, key=lambda term: (term.first.rank, term.second.rank), reverse=True)
        return " + ".join(term.spelled(names) for term in ordered) or "1"

    def is_within(self, other: Law, is_below: bool = False) -> bool:
        """Whether it grows no faster than another law, wherever one looks."""
        return all(any(term.is_within(bound, is_below) for bound in other.terms) for term in self.terms)


def leading(terms: Sequence[Term], is_below: bool = False) -> Law:
    """The law of a sum: its terms without those that grow no faster than another one of them.

    >>> leading([Term(Order(1), ONE), Term(ONE, ONE), Term(ONE, Order(1))]).spelled(("n", "k"))
    'n + k'
    """
    distinct = list(dict.fromkeys(terms))
    return Law(
        tuple(
            term
            for term in distinct
            if not any(term.is_within(other, is_below) for other in distinct if other != term)
            or (not any(_is_above(other, term, is_below) for other in distinct) and _is_first(term, distinct, is_below))
        )
    )


def _is_above(other: Term, term: Term, is_below: bool) -> bool:
    return term.is_within(other, is_below) and not other.is_within(term, is_below)


def _is_first(term: Term, distinct: Sequence[Term], is_below: bool) -> bool:
    """Whether it stands before all terms that grow exactly as it does."""
    alike = [each for each in distinct if each.is_within(term, is_below) and term.is_within(each, is_below)]
    return alike[0] == term


def parse(text: str, names: Names) -> Law:
    """The law that `text` spells.

    >>> parse("n + k log n", ("n", "k")).spelled(("n", "k")), parse("n²k", ("n", "k")).spelled(("n", "k"))
    ('n + k log n', 'n^2 k')
    >>> parse("k log(n/k)", ("n", "k")).spelled(("n", "k")), parse("min(a, b)", ("a", "b")).spelled(("a", "b"))
    ('k log(n/k)', 'min(a, b)')

    Raises:
        StudyError: where it is none, or names a size that there is not.
    """
    how = f"write for example {names[0]}, {names[0]} {names[1]} or {names[0]} + {names[1]} log {names[0]}"
    wrong = StudyError(f"'{one_line(text, 60)}' is not a law in {names[0]} and {names[1]}: {how}")
    if len(text) > LENGTH_MOST or not text.strip():
        raise wrong
    plain = re.sub(r"([⁰¹²³⁴⁵⁶⁷⁸⁹]+)", r"^\1 ", text).translate(str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹", "0123456789"))
    plain = plain.replace("√", "sqrt ").replace("**", "^")
    wrapped = re.fullmatch(r"\s*[OoΘθΩω]\((.*)\)\s*", plain)
    summands = (wrapped[1] if wrapped else plain).split("+")
    if len(summands) > TERMS_MOST:
        raise wrong
    return leading([_term(summand, names, wrong) for summand in summands])


def _term(text: str, names: Names, wrong: StudyError) -> Term:
    left = re.sub(r"[*·⋅]", " ", text)
    orders: list[Order] = []
    both = ""
    for kind in (RATIO, LEAST, MOST):
        written = re.sub(r"\b[nk]\b", lambda found: re.escape(names["nk".index(found[0])]), re.escape(kind))
        shape = re.compile(written.replace("\\ ", r"\s*"))
        if shape.search(left):
            left, both = shape.sub(" ", left), kind
    for name in names:
        shape = re.compile(f"{_FUNCTION}|{_PLAIN}".replace("{name}", re.escape(name)))
        found = [re.sub(rf"\b{re.escape(name)}\b", "n", each[0]) for each in shape.finditer(left)]
        left = shape.sub(" ", left)
        orders.append(parse_order(" ".join(found)) if found else ONE)
    strange = [word for word in re.findall(r"[A-Za-z_]\w*", left) if word not in FUNCTIONS]
    if strange and not set(names) & set(strange):
        raise StudyError(
            f"a claim names {strange[0]}, which is not a size of this study: there are {names[0]} and {names[1]}"
        )
    if left.split() not in ([], ["1"]) or (not text.strip()):
        raise wrong
    return Term(orders[0], orders[1], both)


def _spelled(order: Order, name: str) -> str:
    return re.sub(r"\bn\b", name.replace("\\", ""), str(order))
