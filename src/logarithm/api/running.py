"""Measuring into a logbook: anew, or on from what it holds."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ..errors import LogbookError, MeasuringError
from ..logbook.files import write_file
from ..logbook.reading import Logbook
from ..logbook.writing import LogbookWriter
from ..run.executor import Lost
from ..run.measure import measure
from ..run.plan.settings import Settings
from ..run.rehearsal.rehearse import Disagreement
from ..run.resume import More, resume
from ..run.state import Progress
from ..study.study import Study
from .stopping import Adviser


def run(
    study: Study, file: Path, settings: Settings, logbook: Path, adviser: Adviser, progress: Progress
) -> list[Disagreement]:
    """Measure a study into a new logbook. Returns where answers disagreed and it was measured anyway.

    Raises:
        DisagreementError: where contenders disagree.
        MeasuringError: where no contender can be measured at all.
    """
    with LogbookWriter(logbook) as writer:
        return measure(study, file, settings, writer, progress, adviser).rehearsed.disagreements


def go_on(study: Study, file: Path, logbook: Logbook, more: More, adviser: Adviser, progress: Progress) -> None:
    """Measure on from what a logbook holds, into the same.

    Raises:
        DisagreementError: where what was edited or added since answers otherwise than the others.
        MeasuringError: where the machine is another, or nothing is left of the budget.
    """
    with LogbookWriter(logbook.path, append=True) as writer:
        resume(study, file, logbook, writer, progress, adviser, more)


def run_on_machines(
    study: Study, file: Path, settings: Settings, on: str, logbook: Path, lost: Callable[[str], None]
) -> list[Path]:
    """Measure on each machine of a cluster. Returns a logbook for each, named after its machine.

    Args:
        study, file: what is asked, and where it stands.
        settings: of the run.
        on: the address of the cluster's scheduler, or "local".
        logbook: beside which they are written, and whose name theirs begin with.
        lost: called with a line where a machine could not measure it.

    Raises:
        MeasuringError: where no machine could.
        LogbookError: where one of the logbooks is there already.
    """
    from ..executors.cluster import cluster
    from ..executors.machines import MeasureJob, measured_there

    made: list[Path] = []
    with cluster(on, study, file) as engine:
        hosts = engine.machines()
        for address, text in engine.on_each_machine(measured_there, MeasureJob(settings), str):
            host = "".join(each if each.isalnum() else "-" for each in address.split("://")[-1])
            if isinstance(text, Lost):
                lost(f"{hosts[address]}: {text.reason}")
                continue
            path = logbook.with_name(f"{logbook.stem}-{host}{logbook.suffix}")
            path.parent.mkdir(parents=True, exist_ok=True)
            try:
                write_file(path, text, replace=False)
            except FileExistsError:
                raise LogbookError(f"{path} exists: choose another name") from None
            made.append(path)
    if not made:
        raise MeasuringError("no machine has measured it: see above")
    return sorted(made)
