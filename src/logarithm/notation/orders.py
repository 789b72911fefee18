"""Orders of growth: how they are spelled, and their value at a size.

An order is n^power · (log n)^logs, or that times base^n, or log log n, or n!. Nothing here needs more than the
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
    """One order: n^`power` (log n)^`logs`, times `base`^n where there is a base; or log log n; or factorial."""

    power: float = 0.0
    logs: float = 0.0
    base: float | None = None
    factorial: bool = False
    loglog: bool = False

    def __str__(self) -> str:
        """The spelling that files and commands use: `n^2 log n`."""
        if self.factorial:
            return "n!"
        if self.loglog:
            return "log log n"
        parts = []
        if self.power == 0.5:
            parts.append("sqrt n")
        elif self.power == 1:
            parts.append("n")
        elif self.power:
            parts.append(f"n^{self.power:.4g}")
        if self.logs:
            parts.append("log n" if self.logs == 1 else f"log^{self.logs:.3g} n")
        if self.base is not None:
            parts.append(f"{self.base:.4g}^n")
        return " ".join(parts) or "1"

    @property
    def rank(self) -> tuple[float, float, float, float, float]:
        """Sorts orders from slow to fast growth."""
        return (float(self.factorial), self.base or 0.0, self.power, self.logs, float(self.loglog))

    def log_value(self, n: float) -> float:
        """The natural logarithm of the order's value at `n`; for n below 2, log n is taken as at 2."""
        if self.factorial:
            return math.lgamma(n + 1)
        if self.loglog:
            return math.log(math.log2(max(math.log2(max(n, 2.0)), 2.0)))
        made = self.power * math.log(max(n, 1e-9)) if self.power else 0.0
        made += self.logs * math.log(math.log2(max(n, 2.0))) if self.logs else 0.0
        return made + (n * math.log(self.base) if self.base is not None else 0.0)


_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹·⋅", "0123456789  ")
_WORDS = {
    "constant": "1",
    "logarithmic": "log n",
    "linear": "n",
    "quadratic": "n^2",
    "cubic": "n^3",
    "factorial": "n!",
}
_HOW = "write for example 1, log n, sqrt n, n, n log n, n^1.5, n^2, n^3, 2^n or n!"


def parse(text: str) -> Order:
    """The order that `text` spells; `O(n²)`, `n**2` and `n*n` are read too.

    >>> str(parse("n log n")), str(parse("O(n²)")), str(parse("1.62^n")), str(parse("n * 2^n")), str(parse("log log n"))
    ('n log n', 'n^2', '1.62^n', 'n 2^n', 'log log n')

    Raises:
        StudyError: where it is not an order.

    """
    if len(text) > LENGTH_MOST:
        raise StudyError(f"'{one_line(text, 60)}' is not an order of growth: {_HOW}")
    plain = _WORDS.get(text.strip().lower(), text)
    plain = re.sub(r"([⁰¹²³⁴⁵⁶⁷⁸⁹]+)", r"^\1", plain).translate(_SUPERSCRIPTS).lower().strip()
    wrapped = re.fullmatch(r"[oθω]\((.*)\)", plain)
    if wrapped:
        plain = wrapped[1].strip()
    plain = plain.replace("**", "^").replace("*", " ").replace("√", "sqrt ")
    plain = re.sub(r"\b(?:log2|log₂|lg|ln|log)\s*\^\s*([0-9.]+)\s*\(?\s*n\b\s*\)?", r"LOG^\1", plain)
    plain = re.sub(r"\b(?:log2|log₂|lg|ln|log)\b\s*\(?\s*n\b\s*\)?", "LOG", plain)
    plain = re.sub(r"\bsqrt\b\s*\(?\s*n\s*\)?", "n^0.5", plain)
    if re.sub(r"\s", "", plain) == "n!":
        return Order(factorial=True)
    if re.sub(r"\s", "", plain) in ("logLOG", "LOGLOG", "log(LOG)"):
        return Order(loglog=True)
    base: float | None = None
    exponential = re.search(r"(?<![\w.^])([0-9]*\.?[0-9]+)\s*\^\s*n\b", plain)
    if exponential and float(exponential[1]) > 1:
        base = float(exponential[1])
        plain = (plain[: exponential.start()] + plain[exponential.end() :]).strip() or "1"
    power, logs = 0.0, 0.0
    for word in plain.split():
        found = re.fullmatch(r"(n|LOG|1)(?:\^([0-9]*\.?[0-9]+))?", word)
        if not found:
            raise StudyError(f"'{one_line(text, 60)}' is not an order of growth: {_HOW}")
        exponent = float(found[2] or 1)
        power += exponent if found[1] == "n" else 0.0
        logs += exponent if found[1] == "LOG" else 0.0
    if not plain:
        raise StudyError(f"an order of growth is missing: {_HOW}")
    if max(power, logs, base or 0.0) > POWER_MOST:
        raise StudyError(f"'{one_line(text, 60)}' has a power or a base over {POWER_MOST}, which no real cost has")
    return Order(power=power, logs=logs, base=base)


def pretty(order: str) -> str:
    """An order's spelling for people: superscripts and the base of the logarithm.

    >>> pretty("n^2 log n"), pretty("2^n")
    ('n² log n', '2ⁿ')
    """
    raised = str.maketrans("0123456789.n", "⁰¹²³⁴⁵⁶⁷⁸⁹·ⁿ")
    order = re.sub(r"^n (?=[0-9])", "n · ", order)
    return re.sub(r"\^([0-9.]+|n)", lambda found: found[1].translate(raised), order).replace("sqrt n", "√n")
