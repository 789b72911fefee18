"""Where the growth is: how often each line runs, what it takes of all work, and operations that themselves grow."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence

import numpy as np

from ...errors import AnalysisError
from ...logbook.memory import Logbook
from ...logbook.records import HiddenRecord, LinesRecord
from ...notation.orders import parse
from ...notation.places import Who
from ...notation.sizes import plain
from ...results.lines import LineFinding, OperationFinding
from ..growth.exact import closed_form
from ..growth.fit import fit_growth
from ..uncertainty.level import exact_level
from .native import GRAIN, GROWS, cheapest

Where = tuple[str, int]
"""A file and a line."""
SHARE_LEAST = 0.01  # of all work at the largest size: lines with less are not worth a row
BLAMED = 0.03  # a line with less of all work is not what makes code slow
RISES = 2.5  # and an operation must have become so many times as dear
HIDDEN_SHARE = 0.15  # of the time of all operations at the largest size


def lines(logbook: Logbook) -> list[LineFinding]:
    """The lines of each contender's code on each family that take part in its growth, the largest share first."""
    counted: dict[Who, list[LinesRecord]] = defaultdict(list)
    looked: dict[Who, list[HiddenRecord]] = defaultdict(list)
    for record in logbook.lines:
        counted[record.who].append(record)
    for hidden in logbook.hidden:
        looked[hidden.who].append(hidden)
    found: list[LineFinding] = []
    for who, records in counted.items():
        own = _of_steps(who, sorted(records, key=lambda record: record.size))
        _add_native(own, who, sorted(looked[who], key=lambda record: record.size))
        _blame(own)
        found += sorted(own, key=lambda line: -line.share)
    return found


def _of_steps(who: Who, records: Sequence[LinesRecord]) -> list[LineFinding]:
    last = records[-1]
    inside: Counter[Where] = Counter()
    for file, line, *_, amount in last.operations:
        inside[file, line] += amount
    total = sum(steps for *_, steps in last.lines) + inside.total() or 1
    sizes, size = [float(record.size) for record in records], plain(last.size)
    made = []
    for file, line, text, runs, steps in last.lines:
        share = (steps + inside[file, line]) / total
        if share < SHARE_LEAST:
            continue
        often = [next((row[3] for row in record.lines if row[:2] == (file, line)), 0) for record in records]
        order, exact = _order(sizes, often)
        known = _known((file, line), sizes, records)
        made.append(LineFinding(*who, file, line, text, size, runs, share, order, exact, known))
    return made


def _known(where: Where, sizes: list[float], records: Sequence[LinesRecord]) -> OperationFinding | None:
    """The known operation on a line in which most work is done, of those that grow fastest."""
    amounts = [{tuple(row[2:4]): row[4] for row in record.operations if row[:2] == where} for record in records]
    found = []
    for (text, kind), amount in amounts[-1].items():
        order, exact = _order(sizes, [each.get((text, kind), 0) for each in amounts])
        found.append(OperationFinding(text, kind, amount, order, exact))
    return max(found, key=lambda each: (_rank(each.order), each.amount), default=None)


def _rank(order: str | None) -> tuple[float, ...]:
    """How fast an order grows, to compare; what has no order is taken for constant."""
    return parse(order or "1").rank


def _order(sizes: list[float], runs: list[int]) -> tuple[str | None, str | None]:
    """The order of how often a line runs, and the exact form where there is one."""
    exact = closed_form(sizes, [float(count) for count in runs])
    if exact is not None:
        return exact.order, exact.text
    above = [(size, float(count)) for size, count in zip(sizes, runs, strict=True) if count > 0]
    try:
        x, y = zip(*above, strict=True)
        return fit_growth(x, y, level=exact_level(np.log(y))).order, None
    except (AnalysisError, ValueError):
        return None, None


def _add_native(found: list[LineFinding], who: Who, records: Sequence[HiddenRecord]) -> None:
    """Take down which operations on the lines take longer each, the larger the size."""
    if len(records) < 2 or records[-1].size <= records[0].size:
        return
    first, last = records[0], records[-1]
    total = sum(spent for spent, _ in last.spent.values()) or 1
    before = {row[:3]: row[3:] for row in first.places}
    ratio = math.log(last.size / first.size)
    for file, line, text, spent, times in last.places:
        known = before.get((file, line, text))
        if known is None or spent < HIDDEN_SHARE * total or not known[1]:
            continue
        pairs = (known, first), ((spent, times), last)
        costs = [max(part[0] / part[1] - cheapest(record), 0.0) for part, record in pairs]
        # Where the cheapest operation is dearer, it was a slow moment for all of them.
        costs[1] /= max(cheapest(last) / max(cheapest(first), 1.0), 1.0)
        exponent = math.log((costs[1] + GRAIN) / (costs[0] + GRAIN)) / ratio
        if costs[1] + GRAIN < RISES * (costs[0] + GRAIN) or exponent < GROWS:
            continue
        row = next((each for each in found if (each.file, each.line) == (file, line)), None)
        if row is None:
            row = LineFinding(*who, file, line, text, plain(last.size), times, 0.0, None, None)
            found.append(row)
        row.operation, row.spent = text, spent / total
        row.each = [[plain(first.size), costs[0] * 1e-9], [plain(last.size), costs[1] * 1e-9]]


def _blame(found: list[LineFinding]) -> None:
    """Mark the line that the growth comes from: one whose operation grows in a way nobody knows, else the steepest."""
    hidden = max((row for row in found if row.operation and not row.known), key=lambda row: row.spent, default=None)
    if hidden is not None:
        hidden.culprit = True
        return
    own = [row for row in found if not row.text.startswith("tally(") and row.share >= BLAMED]
    ranks = [max(_rank(row.order), _rank(row.known.order if row.known else None)) for row in own]
    if ranks and max(ranks) > parse("1").rank:
        steepest = [row for row, rank in zip(own, ranks, strict=True) if rank == max(ranks)]
        max(steepest, key=lambda row: row.share).culprit = True
