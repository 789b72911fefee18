"""The end of a run on the command line: its report, where its logbook is, and what ends it with exit code 1."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import LogarithmError, MeasuringError
from .commands.read import deliver_report
from .gates import NO_LIMITS, stop_measured
from .options import Form
from .output import tell

if TYPE_CHECKING:
    from ..results.findings import Findings


@contextmanager
def reported(logbook: Path) -> Iterator[None]:
    """Where a run is interrupted or measured nothing, report what there is; interrupted again, end at once."""
    from ..api.findings import read_logbook

    try:
        yield
    except KeyboardInterrupt:
        tell(f"\ninterrupted; what was measured until then is in {logbook}")
        with suppress(LogarithmError):
            deliver_report(read_logbook(logbook).findings())
        raise
    except MeasuringError:
        with suppress(LogarithmError):
            deliver_report(read_logbook(logbook).findings())
        raise


def concluded(findings: Findings, form: Form, quiet: bool, shares: Mapping[str, float] = NO_LIMITS) -> None:
    """The report of what was measured just now, and where it stands."""
    deliver_report(findings, form)
    if not quiet:
        tell(f"logbook: {findings.run.logbook}")
    stop_measured([findings], shares)
