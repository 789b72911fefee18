"""The table of a class, from the logbook of an assessment: right or not, order against what is asked, time, steps."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from ..errors import AnalysisError, one_line
from ..logbook.memory import Logbook, LogbookBuilder
from ..logbook.records import AnyRecord, ContenderRecord
from ..notation.metrics import WORK
from ..notation.orders import parse
from ..results.base import Interval
from ..results.tasks.grades import BROKEN, CORRECT, EXCEEDS, FAILS, FORBIDDEN, INCORRECT, MEETS, OPEN, UNSEEN, Grade
from ..statistics.growth.exact import closed_form
from ..statistics.growth.fit import fit_growth
from ..statistics.readings.series import Series, arrange
from ..statistics.work.lines import lines
from ..statistics.work.order import work_of
from ..study.exercise.handed_in import as_people_sort
from .ratios import ratio_of
from .time_growth import OUTSIDE, grows_faster, tells

UNSURE = (
    "untimed",
    "started",
    "uncounted",
)  # topics of notes for which few steps do not say that an order is met
REASON = 50.0  # times the time of the reference, above which growth alone does not say that an order is met
QUICK = 8.0  # times the time of the reference, up to which work that was not counted is little
STEPS_AT = 3  # sizes at which steps are compared
SURE_WEIGHT = 0.95  # of the orders that counts may have, on one side of what is asked

TRAPPED = {"input": "changes", "silent": "prints"}
"""Parts of the marks that a trap costs."""
Marks = Mapping[str, tuple[float, float]]
"""What each part is worth, with how many times the reference's it may be."""
Counts = Mapping[tuple[str, str, str], Series]
"""What was counted and timed, by contender, family and metric."""


@dataclass(frozen=True, slots=True)
class Worth:
    """What a function that was asked for is worth.

    Attributes:
        reference: the contender that is right.
        marks: what each part is worth, with how many times the reference's it may be.
        open_marks: whether to "give" marks of which the measurements do not tell, or to "ask".
        cases: what each fixed case is worth.
        families: on which answers are judged.
    """

    reference: str = ""
    marks: Marks = field(default_factory=dict)
    open_marks: str = "ask"
    cases: Mapping[str, float] = field(default_factory=dict)
    families: Sequence[str] = ()


def grades_of(logbook: Logbook, worth: Mapping[str, Worth]) -> list[Grade]:
    """A row for each submission of an assessment, by name.

    Args:
        logbook: of the assessment.
        worth: by function, what it is worth; nothing is where it is not there.

    Raises:
        AnalysisError: where the logbook is not one of an assessment.
    """
    handed_in = [each for each in logbook.contenders if each.handed_in]
    if not handed_in:
        raise AnalysisError(f"{logbook.path} is not the logbook of an assessment: make one with logarithm assess STUDY")
    series = _series(logbook)
    baseline = next((each.name for each in logbook.contenders if each.baseline), "")
    by_line = lines(logbook)
    rows = []
    for record in sorted(handed_in, key=lambda each: as_people_sort(each.name)):
        own = worth.get(record.function, Worth())
        row = Grade(record.name, record.doc, CORRECT, traps=[])
        row.function, row.late, row.person = record.function, record.late, record.person
        if record.name not in logbook.assessed:
            row.verdict, row.detail = UNSEEN, "it was not looked at to the end"
        try:
            _fill(row, logbook, record, own.reference or baseline, series)
            row.lines = [each for each in by_line if each.contender == record.name]
        except (ArithmeticError, AnalysisError, LookupError, TypeError, ValueError) as error:
            # What one process sent must not take the table from all others.
            row.verdict, row.detail = UNSEEN, one_line(f"could not be assessed: {error}")
        if own.marks or own.cases:
            _marks(row, own)
        rows.append(row)
    return rows


def orders_in(records: Sequence[AnyRecord]) -> dict[str, list[str]]:
    """How the counted work in some records may grow, by family."""
    builder = LogbookBuilder(Path("looked.jsonl"))
    builder.add(records)
    series = _series(builder.logbook())
    judged = {key: each for key, each in series.items() if key[2] == _judged(key[0], key[1], series)}
    return {family: [order for order, _ in _orders(each)] for (_, family, _), each in judged.items()}


def exceeds(require: str | None, orders: Mapping[str, Sequence[str]]) -> bool:
    """Whether all orders that the work on some family may have are beyond what is asked."""
    asked = None if require is None else parse(require)
    return asked is not None and any(
        own and all(parse(each).rank > asked.rank for each in own) for own in orders.values()
    )


def _series(logbook: Logbook) -> Counts:
    return {
        (each.contender, each.family, each.metric): each
        for each in arrange(logbook.trials, logbook.trials.cost, beside=True)
    }


def _fill(row: Grade, logbook: Logbook, record: ContenderRecord, reference: str, series: Counts) -> None:
    """Everything that is known of one submission."""
    for failure in (each for each in logbook.failures if each.contender == record.name):
        row.verdict = FAILS
        row.detail = f"{failure.reason} on {failure.family} at n = {failure.size}"
        row.detail += f": {failure.detail}" if failure.detail else ""
    notes = [each for each in logbook.notes if each.contender == record.name]
    for note in notes:
        verdict = {"incorrect": INCORRECT, "broken": BROKEN, "unseen": UNSEEN, "rule": FORBIDDEN}.get(note.topic)
        if note.topic == "case":
            row.cases[note.cause] = note.text
            if note.text and row.verdict == CORRECT:
                row.verdict, row.detail = INCORRECT, f"{note.cause}: {note.text}"
        elif verdict and row.verdict in (CORRECT, FAILS):
            row.verdict, row.detail = verdict, note.text
    wrong = [each.family for each in notes if each.topic == "incorrect" and each.family]
    wrong += [each.family for each in logbook.failures if each.contender == record.name]
    row.wrong_on = list(dict.fromkeys(wrong))
    if row.verdict not in (CORRECT, FAILS):
        return
    _growth(row, record.require, series)
    _beside(row, reference, series)
    by_time = any(note.topic == "foreign" for note in notes)
    if by_time and record.require and _is_told_by_time(row.name, series):
        row.requirement = MEETS
    unsure = {note.topic for note in notes if note.topic in UNSURE}
    # Work in threads and processes is not counted; that there is little of it, time says, too.
    is_quick = unsure == {"started"} and row.high is not None and row.high <= QUICK
    if "started" in unsure and row.requirement == EXCEEDS and not _is_seen_in_time(row, record.require, series):
        # Waiting for threads and processes takes steps, more or fewer each time: they alone contradict nobody.
        row.requirement, row.exceeds = OPEN, []
    _outside(row, record.require, series, bool(unsure), is_quick)
    _within_reason(row)
    row.trap_kinds = [each.cause for each in notes if each.topic == "trap" and each.cause]
    told = ["trap", "foreign", *([] if row.requirement == EXCEEDS or row.verdict == FAILS else UNSURE)]
    row.traps = [*(note.text for note in notes if note.topic in told), *row.traps]
    row.require = record.require or ""
    row.steps_at, row.reference_at = _steps_of(record.name, series), _steps_of(reference, series)


def _marks(row: Grade, worth: Worth) -> None:
    """What a submission is worth, of how many marks, and which parts are open.

    The marks for right are shared by the families, and each case has its own; all others take that all is right.
    """
    marks, cases, families = worth.marks, worth.cases, worth.families
    row.most = sum(most for most, _ in marks.values()) + sum(cases.values())
    if row.verdict in (BROKEN, UNSEEN, FORBIDDEN):
        row.marks = 0.0
        return
    right = marks.get("right", (0.0, 0.0))[0] * (1 - len(set(row.wrong_on) & {*families}) / max(len(families), 1))
    given = right + sum(most for name, most in cases.items() if row.cases.get(name) == "")
    if row.verdict == CORRECT:
        order = {MEETS: True, EXCEEDS: False}.get(row.requirement)
        verdicts: dict[str, bool | None] = {"order": order}
        verdicts |= {part: cause not in row.trap_kinds for part, cause in TRAPPED.items()}
        for part, ends in (("time", (row.low, row.high)), ("steps", (row.steps_low, row.steps_high))):
            verdicts[part] = within(ends, marks[part][1]) if part in marks else None
        row.open_parts = [part for part, (most, _) in marks.items() if most and verdicts.get(part, True) is None]
        for part, (most, _) in marks.items():
            is_given = verdicts.get(part) or (part in row.open_parts and worth.open_marks == "give")
            given += most if part != "right" and is_given else 0.0
    row.marks = given


def within(ends: tuple[float | None, float | None], limit: float) -> bool | None:
    """Whether an interval lies below a limit, above it, or, None, about it.

    >>> within((1.1, 1.4), 1.5), within((1.4, 1.6), 1.5), within((1.6, 2.0), 1.5), within((None, None), 1.5)
    (True, None, False, None)
    """
    low, high = ends
    if low is None or high is None:
        return None
    return True if high <= limit else False if low > limit else None


def _growth(row: Grade, require: str | None, series: Counts) -> None:
    """The order of a submission's work on each family, held against what is asked; the worst family decides."""
    judged = []
    for (contender, family, metric), each in series.items():
        if contender != row.name or metric != _judged(row.name, family, series):
            continue
        orders = _orders(each)
        row.orders[family] = orders[0][0] if orders else ""
        if require is None:
            continue
        beyond = sum(weight for order, weight in orders if parse(order).rank > parse(require).rank)
        whole = sum(weight for _, weight in orders)
        if not orders or (1 - SURE_WEIGHT) * whole < beyond < SURE_WEIGHT * whole:
            judged.append(OPEN)
        elif beyond:
            judged.append(EXCEEDS)
            row.exceeds.append(family)
        else:
            judged.append(MEETS)
    if require is not None and (judged or row.verdict == CORRECT):
        row.requirement = next((each for each in (EXCEEDS, OPEN, MEETS) if each in judged), OPEN)


def _within_reason(row: Grade) -> None:
    """What takes far longer than the reference does not meet an order: at such a cost growth may be made up."""
    if row.requirement == MEETS and row.low is not None and row.low > REASON:
        row.requirement = OPEN
        row.traps.append(f"takes more than {REASON:g} times as long as the reference, so its growth says little")


def _judged(name: str, family: str, series: Counts) -> str:
    """The count by which growth is judged: work, or steps in a logbook that has no other."""
    return WORK if (name, family, WORK) in series else "steps"


def _outside(row: Grade, require: str | None, series: Counts, is_unsure: bool, is_quick: bool) -> None:
    """Hold what steps say against how time grows, as it is seen from outside."""
    if require is None or row.requirement != MEETS:
        return
    if is_unsure and not is_quick:
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
            grows = f"its time on {family} {'grows' if is_sure else 'seems to grow'} faster"
            row.traps.append(
                f"its steps are as few as asked, but {grows}, by about n^{power:.1f}: work may be done where steps are "
                "not counted"
                if family in row.orders
                else f"{grows} than {require}, by about n^{power:.1f}"
            )


def _is_seen_in_time(row: Grade, require: str | None, series: Counts) -> bool:
    """Whether time grows faster than what is asked, too, on a family on which counts do."""
    for family in row.exceeds:
        seen = series.get((row.name, family, OUTSIDE))
        beyond = seen and require and grows_faster(seen.sizes.tolist(), np.nanmin(seen.costs, axis=1).tolist(), require)
        if beyond and beyond[1]:
            return True
    return False


def _is_told_by_time(name: str, series: Counts) -> bool:
    """Whether time is seen well enough on every family for its growth to be held against an order."""
    seen = [each for (contender, _, metric), each in series.items() if contender == name and metric == OUTSIDE]
    return bool(seen) and all(tells(each.sizes.tolist(), np.nanmin(each.costs, axis=1).tolist()) for each in seen)


def _steps_of(name: str, series: Counts) -> dict[str, list[list[float]]]:
    return {
        family: [[float(n), float(count)] for n, count in zip(each.sizes, each.typical, strict=True)]
        for (contender, family, metric), each in series.items()
        if contender == name and metric == _judged(name, family, series)
    }


def _orders(series: Series) -> list[tuple[str, float]]:
    """The orders that counts may have with their weights, the first choice first; none where they are too few."""
    counts = series.typical
    work = work_of(series) if series.metric == WORK else None
    if work is not None:
        return [*work.plausible]
    exact = closed_form([float(n) for n in series.sizes], [float(count) for count in counts])
    if exact is not None:
        return [(exact.order, 1.0)]
    try:
        return [(str(fit.order), weight) for fit, weight in fit_growth(series.sizes, np.maximum(counts, 1)).plausible]
    except AnalysisError:
        return []


def _beside(row: Grade, reference: str, series: Counts) -> None:
    """Time and steps as multiples of the reference's, on the family on which they are most."""
    for (contender, family, metric), own in series.items():
        base = series.get((row.name, family, "reference"))
        if contender != row.name or metric != "time" or base is None:
            continue
        timed = ratio_of(own.costs[-1], base.costs[-1], own.processes)
        if timed is not None and (row.time is None or timed.value > row.time):
            row.time, row.low, row.high = timed.value, timed.low, timed.high
            row.size, row.time_on = float(own.sizes[-1]), family
    for family in {family for name, family, metric in series if name == row.name and metric == "steps"}:
        counted = _steps_beside(series[row.name, family, "steps"], series.get((reference, family, "steps")))
        if counted is not None and (row.steps is None or counted.value > row.steps):
            row.steps, row.steps_low, row.steps_high = counted.value, counted.low, counted.high


def _steps_beside(own: Series, base: Series | None) -> Interval | None:
    """How many times the reference's steps it takes at the largest sizes that both have: the middle and both ends."""
    shared = [] if base is None else sorted({*own.sizes.tolist()} & {*base.sizes.tolist()})[-STEPS_AT:]
    if base is None or not shared:
        return None
    found = []
    for size in shared:
        mine, theirs = (float(each.typical[each.sizes == size][0]) for each in (own, base))
        if theirs <= 0:
            return None
        found.append(mine / theirs)
    return Interval(found[-1], min(found), max(found))
