"""Where work hides that steps do not show: compiled operations that are one step each, however long they take."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence

from ...logbook.memory import Logbook
from ...logbook.records import HiddenRecord
from ...notation.orders import pretty
from ...notation.places import Who
from ...notation.sizes import plain
from ...results.findings import GrowthFinding, NoteFinding
from ...results.lines import NativeFinding

GROWS = 0.15  # the exponent from which on an operation's own cost is said to grow
FOLDS = 2.0  # and it must at least have become so many times as dear
GRAIN = 200.0  # nanoseconds that are not worth a word
SHARE = 0.1  # of the time of all operations at the largest size
EXPONENT_BEYOND = 0.15  # by how much the exponent of time must exceed that of steps


def native_work(logbook: Logbook) -> list[NativeFinding]:
    """For each contender, family and stage, the compiled calls at the largest size, and which operations grow."""
    groups: dict[Who, list[HiddenRecord]] = defaultdict(list)
    for record in logbook.hidden:
        groups[record.who].append(record)
    found = []
    for (contender, family, stage), rows in groups.items():
        rows.sort(key=lambda row: row.size)
        first, last = rows[0], rows[-1]
        total = sum(spent for spent, _ in last.spent.values()) or 1
        grows = []
        for name, (spent, times) in last.spent.items():
            before, often = first.spent.get(name, (0, 0))
            if not times or not often or not before or last.size <= first.size or spent < SHARE * total:
                continue
            more = (spent / times - cheapest(last) + GRAIN) / (before / often - cheapest(first) + GRAIN)
            if more > FOLDS and math.log(more) / math.log(last.size / first.size) > GROWS:
                grows.append((spent, name))
        names = [name for _, name in sorted(grows, reverse=True)]
        found.append(NativeFinding(contender, family, stage, plain(last.size), last.calls, names))
    return found


def cheapest(record: HiddenRecord) -> float:
    """Nanoseconds of the cheapest operation: what taking it down costs, which is in all of them."""
    return min((spent / times for spent, times in record.spent.values() if times), default=0.0)


def diagnosis(native: Sequence[NativeFinding], named: Sequence[GrowthFinding]) -> list[NoteFinding]:
    """Where time grows faster than steps, say in which compiled operations the rest is."""
    growth = {each.key: each for each in named}
    told = []
    for each in native:
        names = each.who
        time, steps = growth.get((*names, "time")), growth.get((*names, "steps"))
        if not each.grows or not time or not steps or not _is_faster(time, steps):
            continue
        rest = " and ".join(each.grows[:3])
        text = (
            f"time grows as {pretty(time.order or '')}, steps as {pretty(steps.order or '')}: the rest is inside {rest}"
        )
        told.append(NoteFinding("hidden", text, each.contender, each.family))
    return told


def _is_faster(time: GrowthFinding, steps: GrowthFinding) -> bool:
    if time.exponent is None or steps.exponent is None or time.order is None or steps.order is None:
        return False
    return time.order != steps.order and time.exponent.value > steps.exponent.value + EXPONENT_BEYOND
