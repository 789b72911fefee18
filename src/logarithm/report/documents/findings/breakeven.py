"""After how many uses a dearer build pays, in a sentence for each pair that matters."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby

from ....notation import numbers, words
from ....results.findings import Findings
from ....results.pairs import Breakeven
from .sentences import axis_of

USES_ALIKE = 1.25  # uses that differ by no more than this are one number


def repaying(findings: Findings) -> Iterator[str]:
    """For each pair with the baseline, or of contenders that lead somewhere, when the dearer build pays.

    Families that say the same are one sentence.
    """
    told: dict[str, list[str]] = {}
    pairs: dict[tuple[str, frozenset[str]], list[Breakeven]] = {}
    for each in findings.breakeven:
        pairs.setdefault((each.family, frozenset((each.dearer, each.cheaper))), []).append(each)
    for (family, names), rows in pairs.items():
        if _matters(names, findings):
            sentence = _sentence(sorted(rows, key=lambda each: each.size), findings)
            if sentence:
                told.setdefault(sentence, []).append(family)
    several = len(findings.study.families) > 1
    for sentence, families in told.items():
        yield f"{sentence}{f' ({words.listed(families, 4)})' if several else ''}"


def _matters(names: frozenset[str], findings: Findings) -> bool:
    if findings.study.baseline in names:
        return True
    leaders = {each.leader for each in findings.standings if each.stage in ("build", "use")}
    return names <= leaders


def _sentence(rows: list[Breakeven], findings: Findings) -> str:
    """One pair over the range of sizes: "table pays against scan after 3 to 15 uses from n = 8 on"."""
    parts = []
    runs = [list(group) for _, group in groupby(rows, key=lambda each: (each.verdict, each.dearer))]
    for number, run in enumerate(runs):
        said = _said(run)
        if said is None:
            continue
        where = _range(run, number == 0, number == len(runs) - 1, axis_of(findings))
        parts.append(f"{words.said(run[0].dearer)} pays against {words.said(run[0].cheaper)} {said} {where}")
    if not parts:
        return ""
    first, *others = parts
    return "; ".join([first, *others])


def _said(run: list[Breakeven]) -> str | None:
    """How many uses it takes over a run of sizes with one verdict; None where that is open."""
    verdict = run[0].verdict
    if verdict == "at once":
        return "at once"
    if verdict == "never":
        return "never"
    uses = [each.uses for each in run if each.uses is not None]
    if verdict != "pays" or not uses:
        return None
    few, many = (numbers.crossing(max(1.0, end)) for end in (min(uses), max(uses)))
    if few == many or max(uses) <= USES_ALIKE * min(uses):
        return f"after {many} {'use' if many == '1' else 'uses'}"
    return f"after {few} to {many} uses"


def _range(run: list[Breakeven], is_first: bool, is_last: bool, axis: str) -> str:
    start, end = numbers.size(run[0].size), numbers.size(run[-1].size)
    if is_first and is_last:
        return f"at every size from {axis} = {start} on" if len(run) > 1 else f"at {axis} = {start}"
    if is_last:
        return f"from {axis} = {start} on"
    if is_first:
        return f"up to {axis} = {end}"
    return f"at {axis} = {start}" if len(run) == 1 else f"from {axis} = {start} to {end}"
