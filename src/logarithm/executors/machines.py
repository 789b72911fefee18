"""A study measured on each machine of a cluster, one measurement at a time on each: a machine is a block of its own."""

from __future__ import annotations

import tempfile
from pathlib import Path

import msgspec

from ..logbook.writing import LogbookWriter
from ..run.measure import measure
from ..run.plan.settings import Settings
from ..statistics.stopping.rule import StoppingRule
from ..study.study import Study


class MeasureJob(msgspec.Struct, frozen=True):
    """Measure the study with these settings."""

    settings: Settings


def measured_there(study: Study, study_file: Path, job: MeasureJob) -> str:
    """Measure a study where this runs. Returns the text of the logbook.

    Raises:
        DisagreementError: where contenders disagree.
        MeasuringError: where no contender can be measured at all.
    """
    with tempfile.TemporaryDirectory(prefix="logarithm-run-") as folder:
        path = Path(folder) / "run.jsonl"
        with LogbookWriter(path) as writer:
            measure(study, study_file, job.settings, writer, rule=StoppingRule())
        return path.read_text(encoding="utf-8")
