"""What holds on several machines, or under several interpreters: their findings side by side.

Times of different machines are never compared with each other. Each has findings of its own, and what is compared is
these: where one overtakes another, and who leads.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from ...errors import LogarithmError
from ...results.findings import Findings
from ...results.logbooks.across import Across, LeadsEverywhere, Overtaking
from ...results.pairs import CrossoverFinding
from ...results.tasks.gates import breaches, gone_between

CROSSOVERS_ALIKE = 1.1  # crossovers whose intervals do not meet may still be called alike within so many times


def across(named: Mapping[str, Findings]) -> Across:
    """What holds on several machines, or under several interpreters.

    Args:
        named: the findings of each machine, by its name.

    Raises:
        LogarithmError: where they are of different studies, or one of them holds nothing.
    """
    studies = {each.study.name for each in named.values()}
    if len(studies) != 1:
        raise LogarithmError(f"these are not logbooks of one study: {', '.join(sorted(studies)) or 'none is named'}")
    for name, findings in named.items():
        if not findings.costs:
            raise LogarithmError(f"{name} holds no trial of a contender: measure it again")
    pairs = [*named.items()]
    broken = [*(each for findings in named.values() for each in breaches(findings)), *gone_between(named)]
    return Across(studies.pop(), dict(named), overtakings(pairs), leading(pairs), broken)


def overtakings(named: Sequence[tuple[str, Findings]]) -> list[Overtaking]:
    """Every measured crossover of leaders, over all machines.

    Args:
        named: the findings of each machine, with its name.
    """
    found: dict[tuple[str, str | None, str, str], list[tuple[str, CrossoverFinding]]] = {}
    for machine, findings in named:
        for each in findings.crossovers:
            if each.basis == "measured" and each.metric == "time":
                found.setdefault((each.family, each.stage, each.before, each.after), []).append((machine, each))
    made = []
    for (family, stage, before, after), seen in found.items():
        groups = [
            (sum(each.size for _, each in group) / len(group), [name for name, _ in group]) for group in _alike(seen)
        ]
        groups.sort(key=lambda group: -len(group[1]))
        there = {name for name, _ in seen}
        without = [machine for machine, _ in named if machine not in there]
        made.append(Overtaking(family, stage, before, after, groups, without))
    return sorted(made, key=lambda each: (each.family, each.places[0][0]))


def _alike(seen: list[tuple[str, CrossoverFinding]]) -> Iterator[list[tuple[str, CrossoverFinding]]]:
    """Crossovers by rising size, in groups that their intervals allow to be the same."""
    group: list[tuple[str, CrossoverFinding]] = []
    for name, each in sorted(seen, key=lambda pair: pair[1].size):
        last = group[-1][1] if group else None
        meets = last is not None and (each.low <= last.high or each.size <= CROSSOVERS_ALIKE * last.size)
        if group and not meets:
            yield group
            group = []
        group.append((name, each))
    if group:
        yield group


def leading(named: Sequence[tuple[str, Findings]]) -> list[LeadsEverywhere]:
    """Ranges of sizes over which the same contender leads, untied, on all machines."""
    made: list[LeadsEverywhere] = []
    first = named[0][1]
    places = dict.fromkeys((each.family, each.stage) for each in first.standings if each.metric == "time")
    for family, stage in places:
        standings = [
            [each for each in findings.standings if each.place == (family, stage, "time") and each.is_alone]
            for _, findings in named
        ]
        for each in standings[0]:
            ranges = [(float(each.start), float(each.end))]
            for others in standings[1:]:
                ranges = [
                    (max(low, float(other.start)), min(high, float(other.end)))
                    for low, high in ranges
                    for other in others
                    if other.cheapest == each.cheapest and other.start <= high and other.end >= low
                ]
            made += [LeadsEverywhere(family, stage, each.cheapest, low, high) for low, high in ranges if low <= high]
    return made
