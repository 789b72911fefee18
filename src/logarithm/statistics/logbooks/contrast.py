"""Contrast: what changed between two logbooks of a study, and whether the change is real.

Runs at different times share no heats, so the typical costs are compared, brought to one pace of the machine.
How sure each cost is, `errors` says; sizes are many chances to see a change that is none, and are paid for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...errors import AnalysisError
from ...logbook.reading import Logbook
from ...results.findings import Findings, Interval
from ..comparison.pair import EFFECT
from ..series import Series, arrange
from ..speed import steadied
from ..uncertainty.level import SURE_SHARE, level_of, reach

DAY = 0.003  # what the same code differs by from one run to another beside the luck of its lives: a standard error
SPREAD_OVER_SIZES = 0.02  # by how much a real change differs from size to size: what their weights rest on
CHANGE_SHARE = 0.9985  # how surely a change must be one, at each side

SLOWER, FASTER, SAME = "slower", "faster", "no difference seen"


@dataclass(frozen=True, slots=True)
class AtSize:
    """The cost after over the cost before at one size.

    `is_clear` where it cannot be noise, all sizes taken together; the ratio is then at least `least`.
    """

    size: float
    ratio: Interval
    is_clear: bool
    least: float


@dataclass(frozen=True, slots=True)
class Change:
    """How one contender's cost changed on one family.

    Attributes:
        contender, family, stage, metric: whose cost.
        overall: cost after over cost before, a geometric mean over the sizes in both.
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

    def slower_by(self, share: float) -> float | None:
        """The size at which it is surely slower by more than a share; 0 for all together; None where it is not."""
        if self.verdict == SLOWER and self.overall.value > 1 + share:
            return 0.0
        return next((each.size for each in self.sizes if each.is_clear and each.least > 1 + share), None)

    def is_slower_than(self, share: float) -> bool:
        """Whether it is really slower by more than a share: over all sizes, or surely so at any one of them."""
        return self.slower_by(share) is not None


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
    first = {_key(each): each for each in arrange(before.trials, costs, luck=before.study.budget is not None)}
    costs, _ = steadied(after.trials, weather.pace)
    second = {_key(each): each for each in arrange(after.trials, costs, luck=after.study.budget is not None)}
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
    levels = []
    for series, at in ((one, rows), (other, columns)):
        logs = np.log(series.costs[at])
        there = np.isfinite(logs).any(axis=0)
        levels.append(level_of(logs[:, there], series.lives[there], series.luck))
    apart = levels[1].typical - levels[0].typical
    own = np.hypot(levels[0].own, levels[1].own)
    shared = math.hypot(levels[0].shared, levels[1].shared, DAY)
    freedom = np.minimum(levels[0].own_freedom, levels[1].own_freedom), min(each.shared_freedom for each in levels)
    # Each size is a chance to see a change that is none: together they have the share of one.
    every = 1 - (1 - CHANGE_SHARE) / len(sizes)
    error = reach((own, freedom[0]), (np.full_like(own, shared), freedom[1]), SURE_SHARE)
    sure = reach((own, freedom[0]), (np.full_like(own, shared), freedom[1]), every)
    # Sizes that are known well say more of what is common to all.
    weight = 1 / (own**2 + SPREAD_OVER_SIZES**2)
    weight /= weight.sum()
    mean = float(weight @ apart)
    mean_own = np.array([math.sqrt(float(weight**2 @ own**2))]), np.array([float(freedom[0].sum())])
    mean_error, mean_sure = (
        float(reach(mean_own, (np.array([shared]), freedom[1]), share)[0]) for share in (SURE_SHARE, CHANGE_SHARE)
    )
    clear = np.abs(apart) > np.maximum(sure, EFFECT)
    verdict = SAME
    if abs(mean) > max(mean_sure, EFFECT):
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
            AtSize(float(n), _interval(float(d), float(e)), bool(is_clear), math.exp(float(d - s)))
            for n, d, e, s, is_clear in zip(sizes, apart, error, sure, clear, strict=True)
        ),
        orders=(orders[0], orders[1]),
        is_new_order=is_new,
    )


def _interval(log_ratio: float, reached: float) -> Interval:
    return Interval(math.exp(log_ratio), math.exp(log_ratio - reached), math.exp(log_ratio + reached))


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
