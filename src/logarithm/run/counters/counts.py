"""Counting once per design point, and again to prove that they repeat, on all processors at once.

Nothing disturbs a count, so contenders are counted side by side, in processes other than those that are timed.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from ...counting.tallies import COMPARISONS, OPERATIONS
from ...logbook.records import AnyRecord, HiddenRecord, LinesRecord, Note, Trial
from ...notation.metrics import METRICS, metric_of
from ...notation.sizes import Number
from ...protocol import clock
from ...protocol.replies import Counted, HiddenWork
from ...protocol.requests import Count
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.pool import WorkerPool
from ..plan.settings import Settings
from ..plan.track import DesignPoint, Track, forecast
from .parallel import counting_pool, each_share, side_by_side

SLOWER = {each.way: each.slower for each in METRICS.values()}
"""How many times as long a call takes while it is counted, by the way of counting."""
COUNT_S_MOST = 20.0  # seconds for one count
COUNTED_SEEDS, COUNTS = 3, 4
COUNTED_TOGETHER = ("memory", "allocations")  # whoever asks for one of them gets both
NO_PROGRAM = "instructions are counted of compiled programs only; ask for steps"
FIRST, QUICKLY = 6, 0.05  # sizes, and seconds


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be counted: kinds of counting, the metrics to keep, what in instances counts."""

    kinds: tuple[str, ...]
    metrics: tuple[str, ...]
    wraps: str

    def keeps(self, metric: str) -> bool:
        """Whether a count is kept: what was asked for, and what the code tallies under names of its own."""
        return metric in (*self.metrics, *COUNTED_TOGETHER) or metric not in METRICS


def metrics_of(study: Study, settings: Settings) -> tuple[str, ...]:
    """The metrics of a run: those asked for, else time and what the study counts."""
    return settings.metrics or ("time", *study.counted)


def wanted(study: Study, settings: Settings) -> Wanted:
    """What a run is to count."""
    counted = tuple(metric for metric in metrics_of(study, settings) if metric_of(metric).way != "clock")
    kinds = list(dict.fromkeys(metric_of(metric).way for metric in counted))
    if "steps" in kinds:
        kinds.insert(kinds.index("steps"), "hidden")
    own = set(counted) & set(OPERATIONS)
    return Wanted(tuple(kinds), counted, "" if not own else "values" if own == {COMPARISONS} else "all")


def count_tracks(
    study: Study, study_file: Path, tracks: list[Track], settings: Settings, seed: int, until: float
) -> Iterator[AnyRecord]:
    """Count every design point that was calibrated, and yield the records of it.

    Args:
        study: what is asked.
        study_file: where workers read it.
        tracks: how far each contender gets.
        settings: of the run.
        seed: of the first instance; counts that may differ from instance to instance take the next ones too.
        until: the reading of `clock.seconds` after which no further count is begun.
    """
    asked = wanted(study, settings)
    contenders = list({track.contender.name: track.contender for track in tracks}.values())
    if not asked.kinds or not contenders:
        return
    with counting_pool(study, study_file, contenders, seed, settings.memory) as pool:
        for number, kind in enumerate(asked.kinds):
            # Every kind has its share of the time, and of that every contender.
            share = max(0.0, until - clock.seconds()) / (len(asked.kinds) - number)
            each = each_share(share, contenders)
            counts = partial(_count_track, kind=kind, pool=pool, asked=asked, seed=seed)
            own = [(one, [track for track in tracks if track.contender is one]) for one in contenders]
            yield from side_by_side([(one, theirs, each, counts) for one, theirs in own])


def _count_track(
    track: Track, stage: str | None, until: float, kind: str, pool: WorkerPool, asked: Wanted, seed: int
) -> Iterator[AnyRecord]:
    name, family = track.contender.name, track.family.name
    sizes = sorted(track.steps)
    if kind == "instructions" and track.contender.program is None:
        yield Note(topic="count", text=NO_PROGRAM, contender=name, family=family)
        return
    if kind == "hidden":
        yield from _glances(track, stage, pool, asked, seed, until)
        return
    noisy: set[str] = set()
    told: set[str] = set()
    reached: Number | None = None
    for size in sizes:
        expected = track.call(size) * SLOWER[kind]
        # The first few sizes are counted however late it is, if that is quick: without them nothing can be said.
        is_late = clock.seconds() + COUNTS * expected > until and (expected > QUICKLY or size > sizes[:FIRST][-1])
        if expected > COUNT_S_MOST or is_late:
            what = kind if reached is None else f"{kind} beyond {reached}"
            text = f"{what} are not counted: that would take too long"
            yield Note(topic="count", text=text, contender=name, family=family, size=size)
            return
        reached = size
        point = DesignPoint(name, family, size, stage)
        limit = min(COUNT_S_MOST, 10 * expected + 2.0)
        try:
            # The first seed twice: what does not repeat is no count but a noisy number.
            seeds = (seed, seed, *(seed + more for more in range(1, COUNTED_SEEDS if kind != "instructions" else 1)))
            ways = [kind] * len(seeds)
            if kind == "steps":
                # By line once, or as often as calls are wanted: it takes longer.
                ways = ["lines", *(["lines" if "calls" in asked.metrics else "steps"] * (len(seeds) - 1))]
            replies = [
                pool.ask(name, _request(point, way, each, asked), Counted, limit)
                for way, each in zip(ways, seeds, strict=True)
            ]
        except Failed as failed:
            text = f"could not be counted ({kind}) at {size}: {failed.reason} ({failed.detail})"
            yield Note(topic="count", text=text, contender=name, family=family, size=size)
            return
        found = [reply.values for reply in replies]
        if kind == "memory" and not all(found):
            continue
        unseen = next((reply.unseen for reply in replies if reply.unseen), "")
        if unseen and unseen not in told:
            told.add(unseen)
            yield Note(topic="count", text=unseen, contender=name, family=family, size=size)
        if any(reply.unknown for reply in replies):
            found = [{each: number for each, number in values.items() if each not in OPERATIONS} for values in found]
        if replies[0].lines:
            record = LinesRecord(contender=name, family=family, size=size, stage=stage)
            record.lines, record.operations = replies[0].lines, replies[0].operations
            yield record
        names = {metric for values in found for metric in values if asked.keeps(metric)}
        if not any(reply.unknown for reply in replies):
            names |= {metric for metric in asked.metrics if metric_of(metric).way == kind}
        for metric in sorted(names):
            values = [each.get(metric, 0) for each in found]
            if values[0] != values[1] and metric not in noisy:
                noisy.add(metric)
                text = f"its {metric} do not repeat on one instance, and are taken for noisy"
                yield Note(topic="count", text=text, contender=name, family=family, size=size)
            for heat, (each, value) in enumerate(zip(seeds[1:], values[1:], strict=True), start=1):
                yield Trial(
                    contender=name,
                    family=family,
                    size=size,
                    stage=stage,
                    metric=metric,
                    heat=heat,
                    seed=each,
                    value=value,
                )


def _glances(
    track: Track, stage: str | None, pool: WorkerPool, asked: Wanted, seed: int, until: float
) -> Iterator[HiddenRecord]:
    """Look into the work of a call from size to size, as long as a look is short; keep the first and the last."""
    name, family = track.contender.name, track.family.name
    longest = min(COUNT_S_MOST / 4, (until - clock.seconds()) / 8)
    done: list[tuple[Number, float]] = []
    kept: list[HiddenRecord] = []
    for size in sorted(track.steps):
        if len(done) > 1 and forecast(done[-2], done[-1], size) > longest:
            break
        point = DesignPoint(name, family, size, stage)
        begun = clock.seconds()
        try:
            reply = pool.ask(name, _request(point, "hidden", seed, asked), HiddenWork, 2 * longest + 2.0)
        except Failed:
            break
        done.append((size, max(clock.seconds() - begun, 1e-6)))
        record = HiddenRecord(contender=name, family=family, size=size, stage=stage)
        record.calls, record.spent, record.places = reply.calls, reply.spent, reply.places
        kept = [*kept[:1], record]
        if done[-1][1] > longest:
            break
    yield from kept


def _request(point: DesignPoint, kind: str, seed: int, asked: Wanted) -> Count:
    wraps = asked.wraps if kind == "tallies" else ""
    return Count(point.family, point.size, seed, point.stage, kind, wraps)
