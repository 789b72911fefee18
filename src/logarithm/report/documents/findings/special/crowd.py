"""A crowd: of hundreds of contenders, those that a first look needs."""

from __future__ import annotations

import msgspec

from .....notation.orders import parse
from .....results.findings import Findings

CROWD = 24  # contenders: fewer are all shown
LEADERS_MOST, DEAREST, STEEPEST = 10, 3, 2


def first_look(findings: Findings) -> tuple[Findings, int]:
    """The findings of those that matter at a first look, and how many others there are.

    They are those that lead somewhere, with those tied; the baseline; the dearest at the largest size of each family;
    and those that grow fastest.
    """
    everyone = findings.study.contenders
    if len(everyone) <= CROWD:
        return findings, 0
    kept = dict.fromkeys(
        name
        for each in findings.standings
        for name in (each.cheapest, *each.tied[:2], *(row.contender for row in each.rivals[:2]))
    )
    kept = dict.fromkeys([*kept][: LEADERS_MOST * max(1, len(findings.study.families))])
    if findings.study.baseline is not None:
        kept[findings.study.baseline] = None
    for family in findings.study.families:
        ends = sorted(
            (each.points[-1].size, each.points[-1].typical, each.contender)
            for each in findings.costs
            if each.family == family and each.points
        )
        kept |= dict.fromkeys(name for _, _, name in ends[-DEAREST:])
    named = [each for each in findings.growth if each.order is not None]
    steep = sorted(named, key=lambda each: parse(each.order or "1").rank)
    kept |= dict.fromkeys(each.contender for each in steep[-STEEPEST:])
    names = {name for name in everyone if name in kept}
    small = msgspec.structs.replace(
        findings,
        growth=[each for each in findings.growth if each.contender in names],
        costs=[each for each in findings.costs if each.contender in names],
        samples=[each for each in findings.samples if each.contender in names],
        crossovers=[each for each in findings.crossovers if {each.before, each.after} <= names],
        pairs=[each for each in findings.pairs if {each.one, each.other} <= names],
        breakeven=[each for each in findings.breakeven if {each.dearer, each.cheaper} <= names],
        repeated_inputs=[each for each in findings.repeated_inputs if each.contender in names],
        lines=[each for each in findings.lines if each.contender in names],
    )
    return small, len(everyone) - len(names)
