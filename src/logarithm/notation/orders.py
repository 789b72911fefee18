"""Orders of growth: how they are spelled, and their value at a size.

An order is n^power · (log n)^logs · (log log n)^loglogs, or that times base^n, or n!. Nothing here needs more than the
standard library, so that a study can be checked without loading the analysis.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from ..errors import StudyError, one_line

POWER_MOST, LENGTH_MOST = 1000, 200


@dataclass(frozen=True, slots=True)
class Order:
    """One order: n^`power` (log n)^`logs` (log log n)^`loglogs`, times `base`^n where there is a base; or factorial."""

    power: float = 0.0
    logs: float = 0.0
    base: float | None = None
    factorial: bool = False
    loglogs: float = 0.0

    def __str__(self) -> str:
        """The spelling that files and commands use: `n^2 log n`."""
        if self.factorial:
            return "n!"
        parts = []
        if self.power == 0.5:
            parts.append("sqrt n")
        elif self.power == 1:
            parts.append("n")
        elif self.power:
            parts.append(f"n^{self.power:.4g}")
        if self.logs > 0:
            parts.append("log n" if self.logs == 1 else f"log^{self.logs:.3g} n")
        if self.loglogs:
            parts.append("log log n" if self.loglogs == 1 else f"(log log n)^{self.loglogs:.3g}")
        if self.base is not None:
            parts.append(f"{self.base:.4g}^n")
        below = "log n" if self.logs == -1 else f"log^{-self.logs:.3g} n"
        return (" ".join(parts) or "1") + (f" / {below}" if self.logs < 0 else "")

    @property
    def rank(self) -> tuple[float, float, float, float, float]:
        """Sorts orders from slow to fast growth."""
        return (float(self.factorial), self.base or 0.0, self.power, self.logs, self.loglogs)

    def is_alike(self, other: Order) -> bool:
        """Whether two orders are one, their powers and bases written with more or fewer digits.

        >>> parse("n^1.58").is_alike(parse("n^1.585")), parse("1.6^n").is_alike(parse("1.618^n"))
        (True, True)
        >>> parse("n^1.5").is_alike(parse("n^1.585"))
        False
        """
        bases = math.log(self.base or 1.0), math.log(other.base or 1.0)
        rest = (self.logs, self.loglogs, self.factorial) == (other.logs, other.loglogs, other.factorial)
        return rest and abs(self.power - other.power) < 0.01 and abs(bases[0] - bases[1]) <= 0.03 * max(bases)

    def log_value(self, n: float) -> float:
        """The natural logarithm of the order's value at `n`; for n below 2, log n is taken as at 2."""
        if self.factorial:
            return math.lgamma(n + 1)
        made = self.power * math.log(max(n, 1e-9)) if self.power else 0.0
        made += self.loglogs * math.log(math.log2(max(math.log2(max(n, 2.0)), 2.0))) if self.loglogs else 0.0
        made += self.logs * math.log(math.log2(max(n, 2.0))) if self.logs else 0.0
        return made + (n * math.log(self.base) if self.base is not None else 0.0)


_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹ⁿ·⋅", "0123456789n  ")
_WORDS = {
    "constant": "1",
    "logarithmic": "log n",
    "linear": "n",
    "quadratic": "n^2",
    "cubic": "n^3",
    "factorial": "n!",
}
_HOW = "write for example 1, log n, sqrt n, n, n log n, n log log n, n^1.5, n^2 / log n, n^2, n^3, 2^n or n!"
_LOG = r"\b(?:log2|log₂|lg|ln|log)\b"


def parse(text: str) -> Order:
    """The order that `text` spells; `O(n²)`, `n**2` and `n*n` are read too.

    >>> str(parse("n log n")), str(parse("O(n²)")), str(parse("1.62^n")), str(parse("n * 2^n")), str(parse("log log n"))
    ('n log n', 'n^2', '1.62^n', 'n 2^n', 'log log n')
    >>> str(parse("n log(log n)")), str(parse("n² / log n"))
    ('n log log n', 'n^2 / log n')

    Raises:
        StudyError: where it is not an order.

    """
    if len(text) > LENGTH_MOST:
        raise StudyError(f"'{one_line(text, 60)}' is not an order of growth: {_HOW}")
    if not text.strip():
        raise StudyError(f"an order of growth is missing: {_HOW}")
    plain = _WORDS.get(text.strip().lower(), text)
    plain = re.sub(r"([⁰¹²³⁴⁵⁶⁷⁸⁹]+|ⁿ)", r"^\1", plain).translate(_SUPERSCRIPTS).lower().strip()
    wrapped = re.fullmatch(r"[oθω]\((.*)\)", plain)
    if wrapped:
        plain = wrapped[1].strip()
    plain = plain.replace("**", "^").replace("*", " ").replace("√", "sqrt ")
    plain = re.sub(rf"{_LOG}\s*\(?\s*{_LOG}\s*\(?\s*n\b\s*\)*", " TWICE ", plain)
    plain = re.sub(rf"{_LOG}\s*\^\s*([0-9.]+)\s*\(?\s*n\b\s*\)?", r" LOG^\1 ", plain)
    plain = re.sub(rf"{_LOG}\s*\(?\s*n\b\s*\)?", " LOG ", plain)
    plain = re.sub(r"\bsqrt\b\s*\(?\s*n\s*\)?", " n^0.5 ", plain)
    plain = re.sub(r"\s*\^\s*", "^", re.sub(r"[()]", " ", plain))
    if re.sub(r"\s", "", plain) == "n!":
        return Order(factorial=True)
    base: float | None = None
    exponential = re.search(r"(?<![\w.^])([0-9]*\.?[0-9]+)\^n\b", plain)
    if exponential and float(exponential[1]) > 1:
        base = float(exponential[1])
        plain = (plain[: exponential.start()] + plain[exponential.end() :]).strip() or "1"
    above, _, below = plain.partition("/")
    powers = {"n": 0.0, "LOG": 0.0, "TWICE": 0.0, "1": 0.0}
    for words, sign in ((above.split() or ["/"], 1), (below.split(), -1)):
        for word in words:
            found = re.fullmatch(r"(n|LOG|TWICE|1)(?:\^([0-9]*\.?[0-9]+))?", word)
            if not found:
                raise StudyError(f"'{one_line(text, 60)}' is not an order of growth: {_HOW}")
            powers[found[1]] += sign * float(found[2] or 1)
    power, logs, loglogs = powers["n"], powers["LOG"], powers["TWICE"]
    if base is None and (power, logs, loglogs) < (0.0, 0.0, 0.0):
        raise StudyError(f"'{one_line(text, 60)}' falls as n grows, which no cost does: {_HOW}")
    if max(power, logs, loglogs, base or 0.0) > POWER_MOST:
        raise StudyError(f"'{one_line(text, 60)}' has a power or a base over {POWER_MOST}, which no real cost has")
    return Order(power=power, logs=logs, base=base, loglogs=loglogs)


def pretty(order: str) -> str:
    """An order's spelling for people: superscripts and the base of the logarithm.

    >>> pretty("n^2 log n"), pretty("2^n")
    ('n² log n', '2ⁿ')
    """
    raised = str.maketrans("0123456789.n", "⁰¹²³⁴⁵⁶⁷⁸⁹·ⁿ")
    order = re.sub(r"^n (?=[0-9])", "n · ", order)
    return re.sub(r"\^([0-9.]+|n)", lambda found: found[1].translate(raised), order).replace("sqrt n", "√n")
