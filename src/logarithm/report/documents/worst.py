"""What a search for worst cases found, as a document."""

from __future__ import annotations

from collections.abc import Iterator

from ...logbook.records import Searched
from ...notation import numbers, words
from ...notation.orders import parse, pretty
from ...results.findings import GrowthFinding
from ...results.tasks.verdicts import FAILING, verdict_of
from ...results.tasks.worst import SHOWS, TYPICAL, WORST, Search
from .. import units
from ..document import Document, Section, told
from .verdicts import claims_table

SUSPECTS_MOST, SHOWN_MOST = 4, 60
UNITS = {"work": "units of work", "memory": "bytes"}
COUNTED = {"work": "steps and what is done inside them", "memory": "bytes of memory"}
CAVEAT = "A search finds what is bad; that it found no worse does not say that there is none."


def worst(found: Search) -> Document:
    """Case by case what was found, and the claims beside it."""
    tries = sum(case.tries for case in found.cases)
    most = COUNTED.get(found.metric, found.metric)
    title = f"{words.name(found.study)} · most {most} · {tries} tries"
    made = []
    for case in found.cases:
        first, *rest = sentences(case, found)
        made.append(Section("case", "", [first, *(f"  {line}" for line in rest)]))
    made.append(Section("limit", "", [CAVEAT], is_small=True))
    claims = [verdict_of(claim, found.findings, FAILING) for claim in found.findings.claims]
    if claims:
        made.append(Section("claims", "", tables=[claims_table(claims)]))
    return Document(title, sections=made or [told(["nothing was searched"])])


def sentences(case: Searched, found: Search) -> Iterator[str]:
    """What is to be said of a case: its orders, what does it, and how far the search can be trusted."""
    typical, worst = found.growth(case, TYPICAL), found.growth(case, WORST)
    who = f"{words.said(case.contender)} on {words.said(case.family)}{f', {case.stage}' if case.stage else ''}"
    if case.most == 0 and case.why:
        yield f"{who}: {case.why}"
        return
    parts = [f"typical {_order(typical)}"]
    is_worse = _rank(worst) > _rank(typical) or case.most >= SHOWS * case.typical
    many = f"{numbers.whole(case.most)} {UNITS.get(case.metric, case.metric)} at n = {case.size}"
    tries = f"{numbers.whole(case.tries)} tries"
    if is_worse:
        exact = f", exactly {units.formula(worst.exact)}" if worst is not None and worst.exact else ""
        parts.append(f"worst found {_order(worst)}, {many}{exact}")
    elif worst is None or worst.order is None:
        parts.append(f"nothing worse was found in {tries} ({many})")
    else:
        parts.append(f"no order worse than {_order(worst)} was found in {tries} ({many})")
    sentence = f"{who}: {'; '.join(parts)}"
    causes = case.suspects or ([case.looks] if case.looks else [])
    if is_worse and causes:
        sentence += f"; {words.listed(causes, SUSPECTS_MOST)} inputs do it"
    yield sentence
    if is_worse and case.smallest is not None:
        yield f"the smallest instance that shows it, n = {case.smallest}: {_cut(case.shown)}"
    if case.fails:
        yield f"{who} fails on an instance that was found, where it does not on typical ones: {case.fails}"
    if case.refused:
        yield f"{who}: {numbers.whole(case.refused)} of {tries} were not allowed, or failed"
    if case.why:
        yield f"{who}: {case.why}"


def _rank(growth: GrowthFinding | None) -> tuple[float, ...]:
    return () if growth is None or growth.order is None else tuple(parse(growth.order).rank)


def _order(growth: GrowthFinding | None) -> str:
    if growth is None or growth.order is None:
        return "of no order that can be named"
    return " or ".join(pretty(each.order) for each in growth.plausible[:2]) or pretty(growth.order)


def _cut(text: str) -> str:
    return text if len(text) <= SHOWN_MOST else text[: SHOWN_MOST - 1] + "…"
