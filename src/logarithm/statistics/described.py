"""What a logbook says of itself: the study, the run and its machine, series at full processor speed, notes."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from ..errors import counted
from ..logbook.memory import Logbook
from ..logbook.records import FALSE_TIMES
from ..notation.metrics import KINDS, RANKED_TIMES, TIMED, UNCOUNTED, WORK
from ..notation.places import Key, Who
from ..notation.sizes import plain
from ..results.findings import (
    About,
    NoteFinding,
    RunFinding,
)
from ..results.tasks.machine import OTHERS_QUIET
from .moment import is_too_busy
from .readings.arrays import median_of
from .readings.series import Series, arrange
from .readings.speed import Noise, at_quick_pace
from .work.order import Work
from .work.prices import work_by_kinds

OCCUPIED_LEAST, OCCUPIED_ENOUGH = 1e-3, 0.05  # seconds of a trial, and of all together
WAITING, SEVERAL = 0.8, 1.2
AGREEING = 3  # processes, or sizes, that say so
PROCESSES_ENOUGH = 4


def machine_of(logbook: Logbook) -> dict[str, Any]:
    """Where it was measured, by what it is called."""
    return {key: value for key, value in msgspec.to_builtins(logbook.machine).items() if key != "kind"}


def tools_of(logbook: Logbook) -> dict[str, str]:
    """The versions of what contenders were built with."""
    return {tool: version for each in logbook.contenders for tool, version in each.tools.items()}


def told_in(logbook: Logbook) -> list[NoteFinding]:
    """What the run itself noted."""
    return [
        NoteFinding(note.topic, note.text, note.contender, note.family, note.size, note.cause) for note in logbook.notes
    ]


def asked_of(logbook: Logbook) -> About:
    """What was asked."""
    baseline, false = next((each.name for each in logbook.contenders if each.baseline), None), false_times(logbook)
    return About(
        name=logbook.study.name,
        question=logbook.study.question,
        axis=logbook.study.axis,
        contenders=[each.name for each in logbook.contenders],
        families=[each.name for each in logbook.families],
        baseline=baseline,
        yardsticks=[each.name for each in logbook.contenders if each.yardstick or each.name in false],
        reference=baseline or next((each.name for each in logbook.contenders), ""),
        file=logbook.study.file,
        sha256=logbook.study.sha256,
        source=logbook.study.source,
        earlier=[each.name for each in logbook.contenders if each.of],
        versions=logbook.study.versions,
        names=logbook.study.names,
        is_fixed=logbook.study.sizes is not None,
        claiming=[each.name for each in logbook.contenders if each.claims],
        fails_from={each.name: each.fails_from for each in logbook.contenders if each.fails_from is not None},
        second_values=sorted({each.second for each in logbook.slices.values()}),
        roles={each.name: each.role for each in logbook.families if each.role},
        searched={each.name: each.of for each in logbook.families if each.of},
    )


def whose(series: Series) -> Who | None:
    """Whose work stands beside these times; None where these are none."""
    return series.who if series.metric == "time" else None


def works_of(every: list[Series]) -> dict[Who | None, Work]:
    """The counted work of each contender on each family and stage."""
    kinds: dict[Who, dict[str, Series]] = {}
    for each in every:
        if each.metric in KINDS:
            kinds.setdefault(each.who, {})[KINDS[each.metric]] = each
    timed = {each.who: each for each in every if each.metric == "time"}
    found = {
        each.who: work_by_kinds(each, kinds.get(each.who, {}), timed.get(each.who))
        for each in every
        if each.metric == WORK
    }
    whole = {each.who for each in every if each.metric == UNCOUNTED and not np.nanmax(each.costs)}
    return {who: replace(work, is_whole=who in whole) for who, work in found.items() if work is not None}


def every_series(logbook: Logbook, among: Collection[str] = ()) -> tuple[list[Series], Noise]:
    """The series of a logbook at the pace of quick moments, by family and contender as the study names them.

    Those that stand beside time are among them: on repeated inputs, and before a process was warm.

    Args:
        logbook: what was observed.
        among: the metrics that are wanted; all where none is named.
    """
    costs, noise = at_quick_pace(logbook.trials)
    series = _in_order(arrange(logbook.trials, costs, True, is_ours(logbook), false_times(logbook), among), logbook)
    asked = logbook.study.metrics
    # Where time was not asked for, that of calibration is no finding.
    return [each for each in series if not asked or each.metric != "time" or "time" in asked], noise


def false_times(logbook: Logbook) -> set[str]:
    """The contenders whose times are not those of their work."""
    return {note.contender for note in logbook.notes if note.contender and note.cause in FALSE_TIMES}


def is_ours(logbook: Logbook) -> bool:
    """Whether the trials come from a run of ours, so that it is known what a process is."""
    return logbook.study.budget is not None


def run_of(logbook: Logbook, series: list[Series], noise: Noise) -> RunFinding:
    """How it was measured."""
    sizes = sorted({float(size) for each in series for size in each.sizes})
    timed = np.isin(logbook.trials.series, [code for code, key in enumerate(logbook.trials.keys) if key[3] in TIMED])
    # Counts have numbers as heats have; where nothing is timed, they stand for them.
    rows = timed if timed.any() else np.ones(len(timed), dtype=np.bool_)
    heats = logbook.trials.heat[rows & (logbook.trials.heat > 0)]
    told = [each for each in series if each.metric in TIMED]
    too_few = bool(told) and not any(each.tells.any() for each in told)
    close = logbook.close
    noise = replace(noise, stolen=close.stolen if close else None)
    return RunFinding(
        logbook=str(logbook.path),
        created=logbook.header.created,
        sizes=[plain(sizes[0]), plain(sizes[-1])] if sizes else [],
        rounds=len(np.unique(heats)),
        processes=len(np.unique(logbook.trials.process[rows])),
        trials=len(logbook.trials),
        elapsed=close.elapsed if close else None,
        reason=close.reason if close else None,
        noise=noise.word,
        spread=noise.spread,
        disturbed=noise.disturbed,
        others=noise.others,
        stolen=noise.stolen,
        too_busy=is_too_busy(series, noise),
        budget=logbook.study.budget,
        settled=close.settled if close and not too_few else None,
        unsettled=close.unsettled if close else [],
        untold=close.untold if close else [],
        orders_untold=close.orders_untold if close else [],
        too_few=too_few,
        left_out=[size for size in logbook.study.sizes or () if sizes and size < sizes[-1] and size not in sizes],
    )


def walls_of(logbook: Logbook, noise: Noise) -> dict[Key, Series]:
    """The times that passed, where others had the processor for some of them."""
    trials = logbook.trials
    if trials.wall is None or (noise.others or 0.0) < OTHERS_QUIET:
        return {}
    return {each.key: each for each in arrange(trials, trials.wall, among=RANKED_TIMES)}


def occupation(logbook: Logbook) -> list[NoteFinding]:
    """Say of which contenders processor time and own time differ much: they wait, or use several processors.

    Where the queue for a processor was not read, waiting cannot be told from other programs' time.
    """
    trials = logbook.trials
    wall, busy = trials.cost * trials.calls, trials.cpu * trials.calls
    # A short trial is too coarse a measure of processor time.
    read = np.isfinite(busy) & (wall >= OCCUPIED_LEAST)
    told = []
    for contender in dict.fromkeys(key[0] for key in trials.keys):
        codes = [code for code, key in enumerate(trials.keys) if key[0] == contender and key[3] == "time"]
        own = read & np.isin(trials.series, codes)
        several = max(len(np.unique(each[own])) for each in (trials.process, trials.size))
        if own.sum() < 5 or several < AGREEING or wall[own].sum() < OCCUPIED_ENOUGH:
            continue
        typical = median_of(busy[own] / wall[own])
        if typical < WAITING:
            text = f"uses the processor for {100 * typical:.0f} % of its time; the rest is waiting"
            told.append(NoteFinding("occupation", text, contender))
        elif typical > SEVERAL and logbook.machine.cores > 1:
            many = min(typical, float(logbook.machine.cores))
            told.append(NoteFinding("occupation", f"keeps {many:.1f} processors busy", contender))
    return told


def few_processes(logbook: Logbook, series: list[Series]) -> list[NoteFinding]:
    """Say of a run with few processes that small differences may be chance."""
    timed = [each for each in series if each.metric == "time"]
    processes = [len(np.unique(each.processes)) for each in timed]
    if not is_ours(logbook) or len({each.contender for each in timed}) < 2 or min(processes) >= PROCESSES_ENOUGH:
        return []
    where = "each contender has" if len(set(processes)) == 1 else "at some places a contender has"
    text = f"{where} {counted(min(processes), 'process', 'processes')} only, too few to tell a difference of 5 %"
    return [NoteFinding("processes", f"{text}: a longer --budget gives more")]


def _in_order(series: list[Series], logbook: Logbook) -> list[Series]:
    """The series by contender and family as the study names them, not as the shuffled heats met them."""
    contenders = {record.name: index for index, record in enumerate(logbook.contenders)}
    families = {name: index for index, name in enumerate([*(each.name for each in logbook.families), *logbook.slices])}
    return sorted(
        series,
        key=lambda each: (
            families[each.family],
            each.metric != "time",
            each.metric,
            each.stage or "",
            contenders[each.contender],
        ),
    )
