"""What stops a gate whatever was measured: a contender that fails where it should work, or is gone."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

from ...notation.sizes import Number
from ..base import Part
from ..findings import FailureFinding, Findings

LATE = "timeout"
GONE, LEFT_OUT, DISAGREES = "gone", "left out", "disagreement"


def limit_of(metric: str, shares: Mapping[str, float]) -> float:
    """By which share a metric may be slower, of shares by metric, those for all under an empty name."""
    return shares.get(metric, shares.get("", math.inf))


class Breach(Part, kw_only=True):
    """A contender that fails, or is gone: on which family and at which size, for which `reason`, with the `detail`.

    `works` is the largest size that works, None where none does; of a contender that is gone there is no family.
    """

    contender: str
    reason: str
    detail: str = ""
    family: str | None = None
    size: Number | None = None
    second: Number | None = None
    works: Number | None = None


def breaches(findings: Findings) -> list[Breach]:
    """What fails where it should work: at the sizes that were asked for, that a claim covers, or that others work at.

    Yardsticks are not gated, nor are sizes beyond those from which a contender is expected to fail; a contender that
    becomes too slow at some size has only ended there.
    """
    about = findings.study
    claimed = {each.contender for each in findings.claims} | set(about.claiming)
    gated = [each for each in findings.failures if each.contender not in about.yardsticks]
    found = [
        _of(each)
        for each in gated
        if is_unexpected(each, about.fails_from)
        and (about.is_fixed or each.works is None or each.contender in claimed or _others_work(each, findings))
    ]
    return [*found, *_left_out(findings), *disagreeing(findings)]


def _others_work(failure: FailureFinding, findings: Findings) -> bool:
    """Whether another contender works at the size at which one fails, or at a larger one."""
    return any(
        point.size >= failure.size
        for each in findings.costs
        if each.family == failure.family and each.contender != failure.contender
        for point in each.points
    )


def is_unexpected(failure: FailureFinding, fails_from: dict[str, float]) -> bool:
    """Whether a failure is none that was said beforehand, and no call that only took too long at a larger size."""
    after = fails_from.get(failure.contender)
    is_said = after is not None and failure.size >= after
    return not is_said and not (failure.reason == LATE and failure.works is not None)


def _of(failure: FailureFinding) -> Breach:
    return Breach(
        contender=failure.contender,
        reason=failure.reason,
        detail=failure.detail,
        family=failure.family,
        size=failure.size,
        second=failure.second,
        works=failure.works,
    )


def _left_out(findings: Findings) -> Iterator[Breach]:
    """Contenders that make a claim and did not take part."""
    for note in findings.notes:
        if note.topic == "absent" and note.contender in findings.study.claiming:
            yield Breach(contender=note.contender, reason=LEFT_OUT, detail=note.text)


def disagreeing(findings: Findings) -> Iterator[Breach]:
    """Contenders whose answers ended the run."""
    for note in findings.notes if findings.run.reason == DISAGREES else ():
        if note.topic == DISAGREES and note.contender is not None:
            yield Breach(contender=note.contender, reason=DISAGREES, detail=note.text)


def gone_between(named: Mapping[str, Findings]) -> list[Breach]:
    """Contenders that took part in some logbooks and not in others, by the names of these."""
    every = dict.fromkeys(name for findings in named.values() for name in findings.study.contenders)
    return [
        Breach(contender=name, reason=GONE, detail=f"it is not in {book}")
        for name in every
        for book, findings in named.items()
        if name not in findings.study.contenders
    ]


def of_failures(failures: Sequence[FailureFinding], fails_from: dict[str, float]) -> list[Breach]:
    """What of some failures is unexpected."""
    return [_of(each) for each in failures if is_unexpected(each, fails_from)]
