"""The dials of a run as they were typed, or written in Python, checked against the study."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ..errors import check_names
from ..logbook.reading import Logbook
from ..notation.durations import capacity, seconds
from ..notation.sizes import Number, ladder
from ..run.plan.settings import Settings
from ..study.study import Study
from ..study.tally_names import check_metrics

Names = str | Sequence[str] | None


def names_of(value: Names) -> tuple[str, ...]:
    """One name or several as a tuple, each once.

    >>> names_of("sweep"), names_of(["sweep", "grid", "sweep"]), names_of(None)
    (('sweep',), ('sweep', 'grid'), ())
    """
    return (value,) if isinstance(value, str) else tuple(dict.fromkeys(value or ()))


def settings_of(
    study: Study,
    file: Path,
    budget: str,
    ceiling: str = "1s",
    *,
    sizes: str | Number | Sequence[Number] | None = None,
    family: Names = None,
    only: Names = None,
    metric: Names = None,
    seed: int = 1,
    anyway: bool = False,
    memory: str | None = None,
    same: bool = False,
    whole: bool = False,
) -> Settings:
    """The dials of a run.

    Args:
        study, file: what is asked, and where it stands.
        budget, ceiling: spans of time, such as "60s".
        sizes: a ladder, in place of the study's.
        family, only, metric: names; all, or the study's, where there is none.
        seed: instances and the order of trials follow from it.
        anyway: measure even where answers disagree.
        memory: that a contender may fill, such as "2GiB"; half of the machine's where there is none.
        same: repeat one instance in a trial, on purpose.
        whole: use all of the budget.

    Raises:
        LogarithmError: where one of them cannot be read, or names what is not there.
    """
    families, contenders, metrics = names_of(family), names_of(only), names_of(metric)
    check_in(study, file, contenders, families)
    check_metrics(study, file, metrics)
    asked = None if sizes is None else ladder(sizes)
    study.check_sizes(asked)
    return Settings(
        budget=seconds(budget),
        ceiling=seconds(ceiling),
        seed=seed,
        sizes=asked,
        families=families,
        contenders=contenders,
        metrics=metrics,
        anyway=anyway,
        memory=None if memory is None else capacity(memory),
        same=same,
        whole=whole,
    )


def check_in(asked: Study | Logbook, file: Path, contenders: Sequence[str], families: Sequence[str]) -> None:
    """Raise a LogarithmError for a contender or family that the study or logbook of a file does not have."""
    check_names(file, "contender", contenders, [each.name for each in asked.contenders])
    check_names(file, "family", families, [each.name for each in asked.families])
