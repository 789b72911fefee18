"""Where the growth is, line by line, in sentences and tables."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ....notation import numbers, words
from ....notation.orders import parse, pretty
from ....notation.places import Who
from ....notation.words import place, place_said
from ....results.lines import LineFinding
from ... import units
from ...document import Table

WORDS = {
    "1": "constant",
    "log n": "logarithmic",
    "n": "linear",
    "n^2": "quadratic",
    "n^3": "cubic",
    "2^n": "exponential",
}
CODE_MOST = 60


def culprit(found: LineFinding) -> str:
    """What makes the code grow, in a sentence.

    >>> line = LineFinding("pairs", "bay", None, "study.py", 12, "if a > b:", 64, 2016, 0.6, "n^2", "n*(n-1)/2")
    >>> culprit(line)
    'line 12 makes it quadratic: it runs n(n−1)/2 times'
    """
    if found.known is not None and parse(found.known.order or "1").rank > parse(found.order or "1").rank:
        order = WORDS.get(found.known.order or "", pretty(found.known.order or ""))
        amount = units.formula(found.known.exact) if found.known.exact else numbers.whole(found.known.amount)
        at = "" if found.known.exact else f" at n = {numbers.size(found.size)}"
        return f"line {found.line} makes it {order}: {found.known.text}, {amount} {found.known.kind}{at}"
    if found.operation:
        seconds = units.unit_for([cost for _, cost in found.each])
        costs = ", ".join(f"{seconds.show(cost, 2)} at n = {numbers.size(n)}" for n, cost in found.each)
        share = f"{100 * found.spent:.0f} % of its time"
        return f"line {found.line}, {found.operation}: each one takes longer the larger n is ({costs}; {share})"
    order = WORDS.get(found.order or "", pretty(found.order or ""))
    runs = f"{units.formula(found.exact)} times" if found.exact else f"{numbers.whole(found.runs)} times at n = "
    runs += "" if found.exact else numbers.size(found.size)
    return f"line {found.line} makes it {order}: it runs {runs}"


def culprits(lines: Iterable[LineFinding]) -> Iterator[str]:
    """What makes each contender's code grow on each family, in sentences; families that say the same are one."""
    told: dict[tuple[str, str], list[str]] = {}
    for each in lines:
        if each.culprit:
            told.setdefault((each.contender, culprit(each)), []).append(place_said((each.family, each.stage, "time")))
    for (contender, sentence), where in told.items():
        yield f"{words.said(contender)} on {words.listed(where, 4)}: {sentence}"


def line_tables(lines: Sequence[LineFinding]) -> list[Table]:
    """The lines of each contender on each family, in the order of the code."""
    groups: dict[Who, list[LineFinding]] = {}
    for each in lines:
        groups.setdefault(each.who, []).append(each)
    made = []
    for (contender, family, stage), rows in groups.items():
        size = numbers.size(rows[0].size)
        title = f"{words.name(contender)} on {place((family, stage, 'time'))}, n = {size}"
        table = Table(("line", "code", "runs", "share of work", "it runs"), title=title)
        several = len({row.file for row in rows}) > 1
        for row in sorted(rows, key=lambda each: (each.file, each.line)):
            often = f"exactly {units.formula(row.exact)}" if row.exact else pretty(row.order or "")
            line = f"{row.file}:{row.line}" if several else str(row.line)
            mark = "→ " if row.culprit else ""
            share = f"{100 * row.share:.0f} %"
            code = row.text if len(row.text) <= CODE_MOST else row.text[: CODE_MOST - 1] + "…"
            table.rows.append((mark + line, code, numbers.whole(row.runs), share, often))
        made.append(table)
    return made
