"""Contrast: what changed between two logbooks of a study, and whether the change is real.

Runs at different times share no heats, so the typical costs are compared, brought to one pace of the machine.
How sure each cost is, `errors` says; sizes are many chances to see a change that is none, and are paid for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ...errors import AnalysisError, LogarithmError, named
from ...logbook.memory import Logbook
from ...notation import words
from ...notation.metrics import TIMED
from ...notation.places import Key
from ...results.base import Interval
from ...results.findings import Findings, GrowthFinding
from ...results.logbooks.contrast import FASTER, SAME, SLOWER, AtSize, Change, Contrast, Contrasts
from ...results.pairs import FORECAST
from ...results.revisions import Moved
from ...results.tasks.gates import GONE, Breach, disagreeing, is_unexpected, of_failures
from ...results.tasks.machine import OTHERS_QUIET
from ..analysis import Analysis
from ..comparison.pair import EFFECT
from ..described import false_times, is_ours
from ..readings.arrays import Floats
from ..readings.series import NONE, Series, arrange
from ..readings.speed import at_quick_pace
from ..uncertainty.level import SURE_SHARE, level_of, reach

NORMAL = 1.96  # standard errors that hold 95 %
DAY = (
    0.003  # what the same code differs by from one run to another beside the spread of its processes: a standard error
)
SPREAD_OVER_SIZES = 0.02  # by how much a real change differs from size to size: what their weights rest on
THREADS = 0.5  # a standard error, for each share of the time that others had in one run and not in the other
CHANGE_SHARE = 0.9985  # how surely a change must be one, at each side


def differences(before: Logbook, after: Logbook) -> tuple[list[str], list[str]]:
    """What about two logbooks speaks against comparing them: reasons to refuse, and reasons to take care."""
    refuse, care = [], []
    one, other = before.machine, after.machine
    if before.study.axis != after.study.axis:
        refuse.append(f"one varies {before.study.axis}, the other {after.study.axis}")
    if before.study.names != after.study.names:
        sizes = [" and ".join(each.study.names) or "n alone" for each in (before, after)]
        refuse.append(f"their sizes are {sizes[0]}, and {sizes[1]}: take one value of the second from both")
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


def contrast(logbooks: Sequence[Logbook], anyway: bool = False) -> Contrast | Contrasts:
    """What changed between two logbooks, or from each of several to the next.

    Args:
        logbooks: two, or more in their order.
        anyway: compare even where the machines differ.

    Raises:
        LogarithmError: where they are not alike, or have no contender, family and size in common.
    """
    if len(logbooks) < 2:
        raise LogarithmError("name two logbooks at least: logarithm contrast BEFORE AFTER")
    warnings = []
    for before, after in pairwise(logbooks):
        refuse, care = differences(before, after)
        if refuse and not anyway:
            raise LogarithmError(
                f"{before.path} and {after.path} are not alike: {'; '.join(refuse)}. Say --anyway to compare them"
            )
        warnings += [*refuse, *care]
    found: list[tuple[Logbook, Findings]] = [(each, Analysis(each).findings()) for each in logbooks]
    steps = [_contrast(one, other, warnings) for one, other in pairwise(found)]
    if len(steps) == 1:
        return steps[0]
    first = [steps[0], *(_contrast(found[0], each, warnings) for each in found[2:])]
    return Contrasts([each.path.stem for each in logbooks], first, steps, warnings)


def _contrast(one: tuple[Logbook, Findings], other: tuple[Logbook, Findings], warnings: list[str]) -> Contrast:
    """What changed, for every contender in both logbooks."""
    (before, before_found), (after, after_found) = one, other
    costs, noise = at_quick_pace(before.trials)
    own = unchanged(before, after)
    # What was not asked for, such as times of a calibration, is no finding; and the order is that of the study.
    order = {each.key: at for at, each in enumerate(before_found.analysis.series)}
    first = sorted(
        (
            each
            for each in arrange(before.trials, costs, is_ours=is_ours(before), false=false_times(before))
            if each.key in order
        ),
        key=lambda each: order[each.key],
    )
    costs, _ = at_quick_pace(after.trials, noise.pace)
    second = arrange(after.trials, costs, is_ours=is_ours(after), false=false_times(after))
    growths = before_found.growth, after_found.growth
    day = day_of([each for each in changes_between(first, second) if each.contender in own and each.metric in TIMED])
    unsure = unsure_of(one, other)
    changes = changes_between(first, second, growths, day, unsure)
    if unsure:
        text = "a busy processor makes the start of a thread dearer, and one run was busier: changes of"
        warnings = [*warnings, f"{text} {named([words.said(each) for each in unsure])} are less sure"]
    if day is not None and abs(day.shift) > EFFECT:
        same = named([words.said(each) for each in own])
        share = f"{100 * math.expm1(-day.shift):+.0f} %"
        warnings = [*warnings, f"times are corrected by {share}, by what {same} took, whose code did not change"]
    broken = [*_broken(before_found, after_found), *disagreeing(after_found)]
    if not changes and all(each.reason == GONE for each in broken):
        raise AnalysisError(
            f"{before.path} and {after.path} have no contender, family and size in common: nothing can be compared"
        )
    warnings = [*warnings, *_only_in_one(before_found, after_found, (before.path.stem, after.path.stem))]
    axis = words.axis(before.study.axis)
    names = before.path.stem, after.path.stem
    return Contrast(names, axis, changes, _moved(before_found, after_found), warnings, broken)


def _broken(before: Findings, after: Findings) -> Iterator[Breach]:
    """What worked before and fails now at a size that worked, and who is gone."""
    worked: dict[tuple[str, str], float] = {}
    for each in before.costs:
        who = each.contender, each.family
        worked[who] = max([worked.get(who, 0.0), *(float(point.size) for point in each.points)])
    fails_from = after.study.fails_from
    failing = [each for each in after.failures if is_unexpected(each, fails_from)]
    for breach in of_failures(failing, fails_from):
        if (breach.size or 0) <= worked.get((breach.contender, breach.family or ""), -1.0):
            yield breach
    there = {each.contender for each in after.costs} | {each.contender for each in after.failures}
    for name in dict.fromkeys(each.contender for each in before.costs):
        if name not in there:
            yield Breach(contender=name, reason=GONE, detail="it is in the first logbook only")


def _only_in_one(before: Findings, after: Findings, names: tuple[str, str]) -> Iterator[str]:
    """Families and sizes that only one of two logbooks has."""
    first, second = ({each.family for each in found.costs} for found in (before, after))
    for lone, name in ((first - second, names[0]), (second - first, names[1])):
        if lone:
            yield f"only {name} has {words.listed(sorted(lone))}, which is not compared"
    sizes = [{float(point.size) for each in found.costs for point in each.points} for found in (before, after)]
    many = len(sizes[0] - sizes[1]), len(sizes[1] - sizes[0])
    if any(many) and sizes[0] & sizes[1]:
        yield f"{many[0]} sizes are in {names[0]} only and {many[1]} in {names[1]} only: they are not compared"


def unsure_of(one: tuple[Logbook, Findings], other: tuple[Logbook, Findings]) -> dict[str, float]:
    """The contenders that start threads, with what a busier machine may make of their cost: a standard error."""
    apart = abs((one[1].run.others or 0.0) - (other[1].run.others or 0.0))
    threads = (note.contender for logbook, _ in (one, other) for note in logbook.notes if note.topic == "occupation")
    return {name: THREADS * apart for name in threads if name and apart >= OTHERS_QUIET}


@dataclass(frozen=True, slots=True)
class Day:
    """How much slower all is in the second run, as a logarithm, and the standard error of that."""

    shift: float
    error: float


def unchanged(before: Logbook, after: Logbook) -> list[str]:
    """The baseline and yardsticks whose code is the same in both logbooks: they tell one day from another."""
    code = {each.name: each.code for each in after.contenders}
    own = [each for each in before.contenders if (each.baseline or each.yardstick) and each.code]
    return [each.name for each in own if code.get(each.name) == each.code]


def day_of(changes: Sequence[Change]) -> Day | None:
    """What the changes of contenders whose code is the same have in common; None where there are none.

    Their mean, weighted by their errors, with the larger of its own error and that by which they lie apart (Cochran,
    Biometrics 10, 1954, 101-129).
    """
    if not changes:
        return None
    means = np.log([each.overall.value for each in changes])
    errors = np.maximum(np.log([each.overall.high / each.overall.low for each in changes]) / (2 * NORMAL), 1e-6)
    weights = errors**-2 / (errors**-2).sum()
    shift = float(weights @ means)
    apart = float(np.sqrt(weights @ (means - shift) ** 2 / max(len(means) - 1, 1)))
    return Day(shift, max(float((errors**-2).sum() ** -0.5), apart))


Growths = tuple[Sequence[GrowthFinding], Sequence[GrowthFinding]]


def changes_between(
    before: Sequence[Series],
    after: Sequence[Series],
    growths: Growths = ((), ()),
    day: Day | None = None,
    unsure: Mapping[str, float] | None = None,
) -> list[Change]:
    """What changed in every series that both runs have.

    Args:
        before, after: the series of two runs, at one pace of the machine.
        growths: how they grow, as far as that is known.
        day: by which times are corrected, where it is known.
        unsure: a standard error that times of a contender have beside those seen.
    """
    later = {each.key: each for each in after}
    found = (
        _change(each, later[each.key], growths, *_beside(each, day, unsure or {}))
        for each in before
        if each.key in later
    )
    return [change for change in found if change is not None]


def _beside(series: Series, day: Day | None, unsure: Mapping[str, float]) -> tuple[Day | None, float]:
    """What corrects the times of a series, and what they are unsure by beside; nothing, of counts."""
    return (day, unsure.get(series.contender, 0.0)) if series.metric in TIMED else (None, 0.0)


def _change(one: Series, other: Series, found: Growths, day: Day | None, unsure: float) -> Change | None:
    sizes, rows, columns = np.intersect1d(one.sizes, other.sizes, return_indices=True)
    if not len(sizes):
        return None
    if one.is_exact and other.is_exact:
        return _exactly(one, sizes, (one.typical[rows], other.typical[columns]), found)
    if (one.costs[rows] <= 0).any() or (other.costs[columns] <= 0).any():
        return None
    levels = []
    for series, at in ((one, rows), (other, columns)):
        logs = np.log(series.costs[at])
        there = np.isfinite(logs).any(axis=0)
        levels.append(level_of(logs[:, there], series.processes[there], series.is_ours))
    shift, day_error = (day.shift, day.error) if day is not None else (0.0, 0.0)
    apart = levels[1].typical - levels[0].typical - shift
    own = np.hypot(levels[0].own, levels[1].own)
    shared = math.hypot(levels[0].shared, levels[1].shared, DAY, day_error, unsure)
    freedom = np.minimum(levels[0].own_freedom, levels[1].own_freedom), min(each.shared_freedom for each in levels)
    # Each size is a chance to see a change that is none: together they have the share of one.
    every = 1 - (1 - CHANGE_SHARE) / len(sizes)
    error = reach((own, freedom[0]), (np.full_like(own, shared), freedom[1]), SURE_SHARE)
    sure = reach((own, freedom[0]), (np.full_like(own, shared), freedom[1]), every)
    # Sizes that are known well say more of what is common to all; those with too few trials say nothing.
    tells = one.tells[rows] & other.tells[columns]
    weight = np.where(tells if tells.any() else True, 1 / (own**2 + SPREAD_OVER_SIZES**2), 0.0)
    weight /= weight.sum()
    mean = float(weight @ apart)
    mean_own = np.array([math.sqrt(float(weight**2 @ own**2))]), np.array([float(freedom[0].sum())])
    mean_error, mean_sure = (
        float(reach(mean_own, (np.array([shared]), freedom[1]), share)[0]) for share in (SURE_SHARE, CHANGE_SHARE)
    )
    sure = np.where(tells, sure, np.inf)
    clear = np.abs(apart) > np.maximum(sure, EFFECT)
    verdict = SAME
    if abs(mean) > max(mean_sure, EFFECT) and tells.any():
        verdict = SLOWER if mean > 0 else FASTER
    orders, is_new = _orders(one.key, found)
    return Change(
        *one.key,
        overall=_interval(mean, mean_error),
        verdict=verdict,
        sizes=[
            AtSize(float(n), _interval(float(d), float(e)), bool(is_clear), math.exp(float(d - s)))
            for n, d, e, s, is_clear in zip(sizes, apart, error, sure, clear, strict=True)
        ],
        before=orders[0],
        after=orders[1],
        is_new_order=is_new,
    )


def _exactly(one: Series, sizes: Floats, counts: tuple[Floats, Floats], found: Growths) -> Change | None:
    """What changed in counts that repeat: every difference is real."""
    before, after = (np.where((counts[0] <= 0) | (counts[1] <= 0), each + NONE, each) for each in counts)
    apart = np.log(after / before)
    mean = float(apart.mean())
    orders, is_new = _orders(one.key, found)
    verdict = SAME
    if np.abs(apart).max() > 0:
        # As it is at the largest size that differs: that is what growth makes of it.
        verdict = SLOWER if apart[np.flatnonzero(apart)[-1]] > 0 else FASTER
    return Change(
        *one.key,
        overall=_interval(mean, 0.0),
        verdict=verdict,
        sizes=[
            AtSize(float(n), _interval(float(d), 0.0), bool(d), math.exp(float(d)))
            for n, d in zip(sizes, apart, strict=True)
        ],
        before=orders[0],
        after=orders[1],
        is_new_order=is_new,
    )


def _orders(key: Key, found: Growths) -> tuple[list[str | None], bool]:
    """The order before and after, and whether each is ruled out in the other run."""
    growths = [next((each for each in rows if each.key == key), None) for rows in found]
    orders = [each.order if each else None for each in growths]
    plausible = [[row.order for row in each.plausible] if each else [] for each in growths]
    return orders, bool(all(orders) and orders[0] not in plausible[1] and orders[1] not in plausible[0])


def _interval(log_ratio: float, reached: float) -> Interval:
    return Interval(math.exp(log_ratio), math.exp(log_ratio - reached), math.exp(log_ratio + reached))


def _moved(before: Findings, after: Findings) -> list[Moved]:
    """The measured crossovers that both logbooks have."""
    rows = []
    for one in before.crossovers:
        for other in after.crossovers:
            names = (one.family, one.stage, one.metric, one.before, one.after)
            same = names == (other.family, other.stage, other.metric, other.before, other.after)
            if not same or FORECAST in (one.basis, other.basis):
                continue
            is_real = one.high < other.low or other.high < one.low
            then, now = Interval(one.size, one.low, one.high), Interval(other.size, other.low, other.high)
            rows.append(Moved(*names, then, now, is_real))
    return rows
