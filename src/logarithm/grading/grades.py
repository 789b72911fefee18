"""The table of a class, from the logbook of an assessment: right or not, order against what is asked, time, steps."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..errors import AnalysisError
from ..logbook.memory import Logbook
from ..notation.metrics import WORK
from ..notation.orders import parse
from ..results.grades import BROKEN, CORRECT, EXCEEDS, FAILS, INCORRECT, MEETS, OPEN, UNSEEN, Grade
from ..statistics.growth.exact import closed_form
from ..statistics.growth.fit import fit_growth
from ..statistics.quantiles import student_quantile
from ..statistics.series import Series, arrange
from ..statistics.work.lines import lines
from ..statistics.work.order import work_of
from .time_growth import grows_faster
from .timing import OUTSIDE

UNSURE = ("untimed", "started")  # topics of notes for which few steps alone do not say that an order is met


def grades_of(logbook: Logbook, marks: Mapping[str, tuple[float, float]]) -> list[Grade]:
    """A row for each submission of an assessment, by name.

    Args:
        logbook: of the assessment.
        marks: what each part is worth, with how many times the reference's it may be.

    Raises:
        AnalysisError: where the logbook is not one of an assessment.
    """
    handed_in = [each for each in logbook.contenders if each.handed_in]
    if not handed_in:
        raise AnalysisError(f"{logbook.path} is not the logbook of an assessment: make one with logarithm assess STUDY")
    series = {
        (each.contender, each.family, each.metric): each
        for each in arrange(logbook.trials, logbook.trials.cost, beside=True)
    }
    reference = next((each.name for each in logbook.contenders if each.baseline), "")
    by_line = lines(logbook)
    rows = []
    for record in sorted(handed_in, key=lambda each: each.name):
        row = Grade(record.name, record.doc, CORRECT, traps=[])
        for failure in (each for each in logbook.failures if each.contender == record.name):
            row.verdict = FAILS
            row.detail = f"{failure.reason} on {failure.family} at n = {failure.size}"
            row.detail += f": {failure.detail}" if failure.detail else ""
        notes = [each for each in logbook.notes if each.contender == record.name]
        for note in notes:
            if note.topic in ("trap", *UNSURE):
                row.traps.append(note.text)
            verdict = {"incorrect": INCORRECT, "broken": BROKEN, "unseen": UNSEEN}.get(note.topic)
            if verdict:
                row.verdict, row.detail = verdict, note.text
        if row.verdict in (CORRECT, FAILS):
            _growth(row, record.require, series)
            _outside(row, record.require, series, any(note.topic in UNSURE for note in notes))
            _beside(row, reference, series)
            row.require = record.require or ""
            row.steps_at, row.reference_at = _steps_of(record.name, series), _steps_of(reference, series)
            row.lines = [each for each in by_line if each.contender == record.name]
        if marks:
            row.marks = _marks(row, marks)
        rows.append(row)
    return rows


def _marks(row: Grade, marks: Mapping[str, tuple[float, float]]) -> float:
    """What a submission is worth; nothing where it is not right."""
    if row.verdict != CORRECT:
        return 0.0
    given = {"right": True, "order": row.requirement == MEETS}
    for part, value in (("time", row.time), ("steps", row.steps)):
        given[part] = value is not None and part in marks and value <= marks[part][1]
    return sum(worth for part, (worth, _) in marks.items() if given[part])


def _growth(row: Grade, require: str | None, series: Mapping[tuple[str, str, str], Series]) -> None:
    """The order of a submission's work on each family, held against what is asked."""
    judged = []
    for (contender, family, metric), each in series.items():
        if contender != row.name or metric != _judged(row.name, family, series):
            continue
        orders = _orders(each)
        row.orders[family] = orders[0] if orders else ""
        if require is None:
            continue
        if not orders:
            judged.append(OPEN)
        elif all(parse(order).rank > parse(require).rank for order in orders):
            judged.append(EXCEEDS)
            row.exceeds.append(family)
        else:
            judged.append(MEETS)
    if require is not None and judged:
        row.requirement = next(each for each in (EXCEEDS, OPEN, MEETS) if each in judged)


def _judged(name: str, family: str, series: Mapping[tuple[str, str, str], Series]) -> str:
    """The count by which growth is judged: work, or steps in a logbook that has no other."""
    return WORK if (name, family, WORK) in series else "steps"


def _outside(row: Grade, require: str | None, series: Mapping[tuple[str, str, str], Series], is_unsure: bool) -> None:
    """Hold what steps say against how time grows, as it is seen from outside."""
    if require is None or row.requirement != MEETS:
        return
    if is_unsure:
        row.requirement = OPEN
    for (contender, family, metric), each in series.items():
        if contender == row.name and metric == OUTSIDE:
            beyond = grows_faster(each.sizes.tolist(), np.nanmin(each.costs, axis=1).tolist(), require)
            if beyond is None:
                continue
            power, is_sure = beyond
            if is_sure:
                row.exceeds.append(family)
            row.requirement = EXCEEDS if is_sure or row.exceeds else OPEN
            row.traps.append(
                f"its steps are as few as asked, but its time on {family} {'grows' if is_sure else 'seems to grow'} "
                f"faster, by about n^{power:.1f}: work may be done where steps are not counted"
            )


def _steps_of(name: str, series: Mapping[tuple[str, str, str], Series]) -> dict[str, list[list[float]]]:
    return {
        family: [[float(n), float(count)] for n, count in zip(each.sizes, each.typical, strict=True)]
        for (contender, family, metric), each in series.items()
        if contender == name and metric == _judged(name, family, series)
    }


def _orders(series: Series) -> list[str]:
    """The orders that counts may have, the first choice first; none where they are too few."""
    counts = series.typical
    work = work_of(series) if series.metric == WORK else None
    if work is not None:
        return [order for order, _ in work.plausible]
    exact = closed_form([float(n) for n in series.sizes], [float(count) for count in counts])
    if exact is not None:
        return [exact.order]
    try:
        return [str(fit.order) for fit, _ in fit_growth(series.sizes, np.maximum(counts, 1)).plausible]
    except AnalysisError:
        return []


def _beside(row: Grade, reference: str, series: Mapping[tuple[str, str, str], Series]) -> None:
    """Time and steps as multiples of the reference's, at the size at which times were taken."""
    for (contender, family, metric), own in series.items():
        base = series.get((row.name, family, "reference"))
        if contender != row.name or metric != "time" or base is None:
            continue
        row.size = float(own.sizes[-1])
        row.time, row.low, row.high = _ratio(own.costs[-1] / base.costs[-1])
        mine, theirs = series.get((row.name, family, "steps")), series.get((reference, family, "steps"))
        if mine is not None and theirs is not None and row.size in mine.sizes and row.size in theirs.sizes:
            counts = [float(each.typical[np.flatnonzero(each.sizes == row.size)[0]]) for each in (mine, theirs)]
            row.steps = counts[0] / counts[1] if counts[1] else None


def _ratio(pairs: NDArray[np.float64]) -> tuple[float | None, float | None, float | None]:
    """What the pairs have in common, and its interval with 95 %: that of the mean of their logarithms."""
    logs = np.log(pairs[np.isfinite(pairs) & (pairs > 0)])
    if not len(logs):
        return None, None, None
    middle = float(np.exp(np.median(logs)))
    if len(logs) < 3:
        return middle, None, None
    wide = float(student_quantile(len(logs) - 1, 0.975) * logs.std(ddof=1) / np.sqrt(len(logs)))
    mean = float(logs.mean())
    return middle, min(middle, float(np.exp(mean - wide))), max(middle, float(np.exp(mean + wide)))
