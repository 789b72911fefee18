"""A walk: what a contender does on one small instance, event by event."""

from __future__ import annotations

from pathlib import Path

from ..errors import LogarithmError
from ..protocol.messages import Walk, Walked
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from ..supervisor.pool import Crew
from .options import check_in

LONGEST = 30.0  # seconds that one call may take


def walked(study: Study, file: Path, contender: str, size: int, family: str | None = None, seed: int = 1) -> Walked:
    """Follow a contender on one instance.

    Args:
        study, file: what is asked, and where it stands.
        contender: whom to follow.
        size: of the instance.
        family: of the instance; the first where there is none.
        seed: the instance follows from it.

    Raises:
        LogarithmError: where a name is not there, or the contender fails.
    """
    check_in(study, file, [contender], [family] if family else [])
    chosen = family or study.families[0].name
    crew = Crew(study, file, [study.the_contender(contender)], seed, limits(1), set())
    try:
        return crew.ask(contender, Walk(chosen, size, seed), Walked, LONGEST)
    except Failed as failed:
        raise LogarithmError(f"{contender} fails: {failed.reason} ({failed.detail})") from None
    finally:
        crew.end()
