"""Gates: what ends a command with exit code 1, and the limits that users set."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ..errors import LogarithmError
from ..notation.metrics import TIMED
from .output import fail

if TYPE_CHECKING:
    from ..results.findings import Findings
    from ..results.logbooks.contrast import Change
    from ..results.tasks.gates import Breach

NO_LIMITS: Mapping[str, float] = {}


def stop(broken: Sequence[Breach], more: int = 0) -> None:
    """End with exit code 1 where a contender fails where it should work, or is gone."""
    from ..report.documents.verdicts import broken_said

    if broken:
        fail(broken_said(broken[0]), len(broken) - 1 + more)


def stop_on(broken: Sequence[Breach], slower: Sequence[Change], shares: Mapping[str, float]) -> None:
    """End with exit code 1 where something works no more, or is slower by more than it may be."""
    from ..results.tasks.gates import limit_of

    stop(broken, len(slower))
    if slower:
        first = slower[0]
        share = limit_of(first.metric, shares)
        at = first.slower_by(share)
        where = f"{first.contender} on {first.family}" + (f" at {at:g}" if at else "")
        beyond = "" if first.metric not in TIMED else ", beyond noise"
        fail(f"{where} is slower by more than {100 * share:g} %{beyond}", len(slower) - 1)


def shares_of(texts: list[str]) -> dict[str, float]:
    """Shares by metric, such as 10%, or steps=0%; those for all metrics under an empty name."""
    made = {}
    for text in texts:
        metric, _, share = text.rpartition("=")
        try:
            value = float(share.strip().rstrip("% ")) / 100 if share.strip().endswith("%") else math.nan
        except ValueError:
            value = math.nan
        if not 0 <= value < 100:
            raise LogarithmError(f"--fail-on-slower {text} is not a share: write {share.strip().rstrip('%') or 10}%")
        made[metric.strip()] = value
    return made


def stop_measured(found: Sequence[Findings], shares: Mapping[str, float] = NO_LIMITS) -> None:
    """End with exit code 1 where something that was measured fails, or is slower than it was by more than it may be."""
    from ..report.documents.findings.special.changes import change_said
    from ..results.tasks.gates import breaches, limit_of

    changes = [each for findings in found for each in findings.changes]
    slower = [each for each in changes if each.slower_by(limit_of(each.metric, shares)) is not None]
    stop([each for findings in found for each in breaches(findings)], len(slower))
    if slower:
        fail(change_said(slower[0], "n"), len(slower) - 1)
