"""Contrast: what changed between two logbooks of a study, and whether the change is real.

Runs at different times share no heats, so the typical costs are compared, brought to one pace of the machine.
Luck of a run is judged by the spread between its lives; where there were too few, by what such luck is known to be.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...errors import AnalysisError
from ...logbook.reading import Logbook
from ..errorbars import CLEAR, LIVES_LEAST, standard_error
from ..findings import Findings, Interval
from ..pace import steadied
from ..series import Series, arrange, location
from .duel import EFFECT

LUCK_ONE_LIFE, LUCK_LIVES = 0.012, 0.003  # what identical code differs by from run to run: a standard error
SURE = 1.96

SLOWER, FASTER, SAME = "slower", "faster", "no difference seen"


@dataclass(frozen=True, slots=True)
class AtSize:
    """The cost after over the cost before at one size; `is_clear` where it cannot be noise."""

    size: float
    ratio: Interval
    is_clear: bool


@dataclass(frozen=True, slots=True)
class Change:
    """How one contender's cost changed on one family.

    Attributes:
        contender, family, stage, metric: whose cost.
        overall: cost after over cost before, the geometric mean over the sizes in both.
        verdict: slower, faster, or no difference seen.
        sizes: the same at each size.
        orders: first choices before and after, where named.
        is_new_order: whether each order is ruled out in the other logbook.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    overall: Interval
    verdict: str
    sizes: tuple[AtSize, ...]
    orders: tuple[str | None, str | None]
    is_new_order: bool

    def is_slower_than(self, share: float) -> bool:
        """Whether it is really slower by more than a share: over all sizes, or surely so at any one of them."""
        overall = self.verdict == SLOWER and self.overall.value > 1 + share
        return overall or any(each.is_clear and each.ratio.low > 1 + share for each in self.sizes)


@dataclass(frozen=True, slots=True)
class Moved:
    """A crossover in both logbooks; `is_real` where their intervals do not meet."""

    family: str
    stage: str | None
    metric: str
    before: str
    after: str
    sizes: tuple[Interval, Interval]
    is_real: bool


def differences(before: Logbook, after: Logbook) -> tuple[list[str], list[str]]:
    """What about two logbooks speaks against comparing them: reasons to refuse, and reasons to take care."""
    refuse, care = [], []
    one, other = before.machine, after.machine
    if before.study.axis != after.study.axis:
        refuse.append(f"one varies {before.study.axis}, the other {after.study.axis}")
    for what, left, right in (
        ("processors", one.processor, other.processor),
        ("systems", one.system.split(" ")[0], other.system.split(" ")[0]),
    ):
        if left and right and left != right:
            refuse.append(f"they come from different {what}: {left}, and {right}")
    for what, left, right in (
        ("studies", before.study.name, after.study.name),
        ("versions of Python", one.python, other.python),
        ("versions of the system", one.system, other.system),
        ("seeds", str(before.study.seed), str(after.study.seed)),
    ):
        if left and right and left != right:
            care.append(f"they come from different {what}: {left}, and {right}")
    return refuse, care


def contrast(before: Logbook, after: Logbook, found: tuple[Findings, Findings]) -> tuple[list[Change], list[Moved]]:
    """What changed, for every contender in both logbooks.

    Args:
        before, after: the logbooks.
        found: what was found in each.

    Raises:
        AnalysisError: where they have no contender, family and size in common.
    """
    costs, weather = steadied(before.trials)
    first = {_key(each): each for each in arrange(before.trials, costs)}
    costs, _ = steadied(after.trials, weather.pace)
    second = {_key(each): each for each in arrange(after.trials, costs)}
    changes = [
        change for key in first if key in second and (change := _change(first[key], second[key], found)) is not None
    ]
    if not changes:
        raise AnalysisError(
            f"{before.path} and {after.path} have no contender, family and size in common: nothing can be compared"
        )
    order = [(each.contender, each.family, each.stage, each.metric) for each in found[0].costs]
    changes.sort(key=lambda each: order.index((each.contender, each.family, each.stage, each.metric)))
    return changes, _moved(*found)


def _key(series: Series) -> tuple[str, str, str | None, str]:
    return series.contender, series.family, series.stage, series.metric


def _change(one: Series, other: Series, found: tuple[Findings, Findings]) -> Change | None:
    sizes, rows, columns = np.intersect1d(one.sizes, other.sizes, return_indices=True)
    if not len(sizes) or (one.costs[rows] <= 0).any() or (other.costs[columns] <= 0).any():
        return None
    levels, errors, overall_errors = [], [], []
    for series, at in ((one, rows), (other, columns)):
        logs = np.log(series.costs[at])
        there = np.isfinite(logs).any(axis=0)
        logs, lives = logs[:, there], series.lives[there]
        typical = location(logs)
        luck = LUCK_LIVES if len(np.unique(lives)) >= LIVES_LEAST else LUCK_ONE_LIFE
        levels.append(typical)
        errors.append(np.hypot(standard_error(logs, typical, lives), luck))
        heats = np.nanmean(logs - typical[:, None], axis=0)[None]
        overall_errors.append(math.hypot(float(standard_error(heats, location(heats), lives)[0]), luck))
    apart, error = levels[1] - levels[0], np.hypot(*errors)
    mean, mean_error = float(apart.mean()), math.hypot(*overall_errors)
    clear = np.abs(apart) > np.maximum(CLEAR * error, EFFECT)
    verdict = SAME
    if abs(mean) > max(CLEAR * mean_error, EFFECT):
        verdict = SLOWER if mean > 0 else FASTER
    growths = [
        next(
            (each for each in findings.growth if (each.contender, each.family, each.stage, each.metric) == _key(one)),
            None,
        )
        for findings in found
    ]
    orders = tuple(each.order if each else None for each in growths)
    plausible = [[row.order for row in each.plausible] if each else [] for each in growths]
    is_new = bool(all(orders) and orders[0] not in plausible[1] and orders[1] not in plausible[0])
    return Change(
        *_key(one),
        overall=_interval(mean, mean_error),
        verdict=verdict,
        sizes=tuple(
            AtSize(float(n), _interval(float(d), float(e)), bool(sure))
            for n, d, e, sure in zip(sizes, apart, error, clear, strict=True)
        ),
        orders=(orders[0], orders[1]),
        is_new_order=is_new,
    )


def _interval(log_ratio: float, error: float) -> Interval:
    return Interval(math.exp(log_ratio), math.exp(log_ratio - SURE * error), math.exp(log_ratio + SURE * error))


def _moved(before: Findings, after: Findings) -> list[Moved]:
    """The measured crossovers that both logbooks have."""
    rows = []
    for one in before.crossovers:
        for other in after.crossovers:
            names = (one.family, one.stage, one.metric, one.before, one.after)
            same = names == (other.family, other.stage, other.metric, other.before, other.after)
            if not same or "forecast" in (one.basis, other.basis) or one.high is None or other.high is None:
                continue
            is_real = one.high < other.low or other.high < one.low
            sizes = Interval(one.size, one.low, one.high), Interval(other.size, other.low, other.high)
            rows.append(Moved(*names, sizes, is_real))
    return rows
