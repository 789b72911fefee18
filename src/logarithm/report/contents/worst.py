"""What a search for worst cases found, in sentences."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from ...notation.orders import parse, pretty
from ...results.findings import Findings, GrowthFinding
from .. import units

TYPICAL, BEST, WORST = "typical", "best found", "worst found"
AS_MUCH, SHOWS = 0.9, 1.5  # of the worst that was found; a size shows it where the worst is so many times the typical
SUSPECTS_MOST, SHOWN_MOST = 4, 60


@dataclass(slots=True)
class Case:
    """What was found of one contender on one family.

    Attributes:
        contender, family, stage: who, on what.
        metric: what was counted.
        suffix: what stands behind the names of the families of the logbook; empty where there was one family only.
        tries, refused: how many instances were tried, and how many of these were not allowed.
        size: the largest that was climbed.
        typical, most: what was done there, typically and at most.
        suspects: the usual suspects that do about as much, largest first.
        looks, shown: what the worst instance looks like, and as Python writes it, at the smallest size that shows it.
        smallest: that size; None where no size does.
        fails: the reason for which it fails on an instance that was found.
        why: why the search ended early.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    suffix: str = ""
    tries: int = 0
    refused: int = 0
    size: int = 0
    typical: float = 0.0
    most: float = 0.0
    suspects: list[str] = field(default_factory=list)
    looks: str = ""
    shown: str = ""
    smallest: int | None = None
    fails: str = ""
    why: str = ""


def order_of(case: Case, kind: str, findings: Findings) -> GrowthFinding | None:
    """How the typical, the best or the worst found of a case grows."""
    where = case.contender, kind + case.suffix, case.stage
    return next((row for row in findings.growth if (row.contender, row.family, row.stage) == where), None)


def sentences(case: Case, findings: Findings) -> Iterator[str]:
    """What is to be said of a case: its orders, what does it, and how far the search can be trusted."""
    typical, worst = (order_of(case, kind, findings) for kind in (TYPICAL, WORST))
    who = f"{units.said(case.contender)} on {units.said(case.family)}{f', {case.stage}' if case.stage else ''}"
    if case.most == 0 and case.why:
        yield f"{who}: {case.why}"
        return
    parts = [f"typical {_order(typical)}"]
    is_worse = _rank(worst) > _rank(typical) or case.most >= SHOWS * case.typical
    many = f"{units.whole(case.most)} {_unit(case.metric)} at n = {case.size}"
    if is_worse:
        exact = f", exactly {units.formula(worst.exact)}" if worst is not None and worst.exact else ""
        parts.append(f"worst found {_order(worst)}, {many}{exact}")
    elif worst is None or worst.order is None:
        parts.append(f"nothing worse was found in {units.whole(case.tries)} tries ({many})")
    else:
        parts.append(f"no order worse than {_order(worst)} was found in {units.whole(case.tries)} tries ({many})")
    told = f"{who}: {'; '.join(parts)}"
    causes = case.suspects or ([case.looks] if case.looks else [])
    if is_worse and causes:
        told += f"; {units.listed(causes, SUSPECTS_MOST)} inputs do it"
    yield told
    if is_worse and case.smallest is not None:
        yield f"the smallest instance that shows it, n = {case.smallest}: {_cut(case.shown)}"
    if case.fails:
        yield f"{who} fails on an instance that was found, where it does not on typical ones: {case.fails}"
    if case.refused:
        yield f"{who}: {units.whole(case.refused)} of {units.whole(case.tries)} instances were not allowed, or failed"
    if case.why:
        yield f"{who}: {case.why}"


def _rank(growth: GrowthFinding | None) -> tuple[float, ...]:
    if growth is None or growth.order is None:
        return ()
    return tuple(parse(growth.order).rank)


def _order(growth: GrowthFinding | None) -> str:
    if growth is None or growth.order is None:
        return "of no order that can be named"
    return " or ".join(pretty(each.order) for each in growth.plausible[:2]) or pretty(growth.order)


def _unit(metric: str) -> str:
    return {"work": "units of work", "memory": "bytes"}.get(metric, metric)


def _cut(text: str) -> str:
    return text if len(text) <= SHOWN_MOST else text[: SHOWN_MOST - 1] + "…"
