"""What a run writes down: trials, failures and notes, with the process and the moment they belong to."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, cast

import msgspec

from ...logbook.records import AnyRecord, Failure, Note, Trial
from ...logbook.writing import LogbookWriter
from ...notation.sizes import Number
from ...notation.words import axis
from ...protocol.clock import NANO
from ...protocol.replies import Timed
from ...study.parts import Family
from ...supervisor.failed import Failed
from ..plan.track import DesignPoint, Track
from .budget import MAKING, Budget

log = logging.getLogger(__name__)


@dataclass(slots=True)
class Book:
    """The logbook of a run.

    `axis` is what its study varies, `slices` its families at values of a second size, by name.
    """

    writer: LogbookWriter
    budget: Budget
    axis: str
    slices: Mapping[str, Family] = field(default_factory=dict)

    def at(self, size: Number) -> str:
        """A place on the axis, as people read it."""
        return f"{axis(self.axis)} = {size}"

    def write(self, *records: AnyRecord) -> None:
        """Append records that others made; those of a slice are written with their family and second size."""
        self.writer.write(*(self._whole(record) for record in records) if self.slices else records)

    def _whole(self, record: Any) -> AnyRecord:
        part = self.slices.get(getattr(record, "family", None) or "")
        if part is None or not hasattr(record, "second"):
            return cast(AnyRecord, record)
        return cast(AnyRecord, msgspec.structs.replace(record, family=part.whole, second=part.second))

    def flush(self) -> None:
        """Make sure that what was written outlives this process."""
        self.writer.flush()

    def trial(
        self,
        point: DesignPoint,
        timed: Timed,
        heat: int,
        process: int,
        seed: int,
        copies: bool,
        instances: int,
        promise: str = "",
        metric: str = "time",
    ) -> float:
        """Write one trial down. Returns the seconds of one call."""
        self.budget.inside += timed.elapsed * NANO
        self.budget.move(MAKING, timed.made * NANO)
        self.write(
            Trial(
                contender=point.contender,
                family=point.family,
                size=point.size,
                stage=point.stage,
                metric=metric,
                heat=heat,
                process=process,
                seed=seed,
                calls=timed.calls,
                elapsed=timed.elapsed,
                overhead=round(timed.overhead, 1),
                cpu=timed.cpu,
                queued=timed.queued,
                pace=timed.pace if any(timed.pace) else None,
                during=timed.during or None,
                copies=copies,
                instances=instances,
                promise=promise,
                at=round(self.budget.elapsed, 3),
            )
        )
        return timed.call * NANO

    def failure(
        self, track: Track, size: Number, stage: str | None, failed: Failed, process: int, works: Number | None = None
    ) -> None:
        """Write one failure down."""
        detail = failed.detail
        if stage == "use" and not hasattr(track.contender.code, "restore"):
            detail += "; where use takes out of what build made, give the class a method restore that puts it back"
        log.info("%s on %s, n = %s: %s %s", track.contender.name, track.family.name, size, failed.reason, detail)
        self.write(
            Failure(
                contender=track.contender.name,
                family=track.family.name,
                size=size,
                stage=stage,
                reason=failed.reason,
                detail=detail,
                works=works,
                process=process,
            )
        )

    def note(
        self,
        topic: str,
        text: str,
        contender: str,
        family: str | None = None,
        size: Number | None = None,
        cause: str = "",
    ) -> None:
        """Write down something worth telling."""
        log.info("%s: %s", contender, text)
        self.write(Note(topic=topic, text=text, contender=contender, family=family, size=size, cause=cause))

    def end_of_sizes(self, track: Track, size: Number, why: str, cause: str) -> None:
        """Let a contender go no further, and say why."""
        self.note("sizes", why, track.contender.name, track.family.name, size, cause)
        track.end()
