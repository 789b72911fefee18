"""The options of a run, as users write them: one source for the command line, a study's TOML and Python."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import StudyError, check_names, there
from ..study.run_options import Names, RunOptions

if TYPE_CHECKING:
    from ..logbook.memory import Logbook
    from ..run.plan.settings import Settings
    from ..study.study import Study

BUDGET = "60s"
ON_RESUME = ("sizes", "memory", "whole_budget")
"""What may be said anew of a run that is gone on with."""


def names_of(value: Names) -> tuple[str, ...]:
    """One name or several as a tuple, each once.

    >>> names_of("sweep"), names_of(["sweep", "grid", "sweep"]), names_of(None)
    (('sweep',), ('sweep', 'grid'), ())
    """
    return (value,) if isinstance(value, str) else tuple(dict.fromkeys(value or ()))


def check_options(options: Mapping[str, Any]) -> None:
    """Raise a StudyError for an option that there is none of."""
    for name in options:
        if name not in RunOptions.__annotations__:
            raise StudyError(f"a run has no option '{name}': {there(list(RunOptions.__annotations__), 20)}")


def settings_of(study: Study, budget: str | None, options: Mapping[str, Any]) -> Settings:
    """The options of a run, read and checked. What is not said here is as the study says, else as usual.

    Args:
        study: what is asked; its own `run_options` come first.
        budget: a span of time, such as "60s".
        options: see `RunOptions`.

    Raises:
        LogarithmError: where one of them is not known, cannot be read, or names what is not there.
    """
    from ..notation.durations import capacity, seconds
    from ..notation.sizes import parse
    from ..run.plan.settings import Settings
    from ..study.tally_names import check_metrics

    check_options(options)
    said = {**study.run_options, **options}
    families, contenders, metrics = (names_of(said.get(name)) for name in ("family", "only", "metric"))
    check_in(study, contenders, families)
    check_metrics(study, metrics)
    sizes, memory, inputs = said.get("sizes"), said.get("memory"), said.get("inputs", "fresh")
    asked = None if sizes is None else parse(sizes)
    study.check_sizes(asked)
    if inputs not in ("fresh", "same"):
        raise StudyError(f"inputs={inputs!r}: there are fresh and same")
    return Settings(
        budget=seconds(budget or said.get("budget") or BUDGET),
        ceiling=seconds(said.get("ceiling", "1s")),
        seed=said.get("seed", 1),
        sizes=asked,
        families=families,
        contenders=contenders,
        metrics=metrics,
        anyway=bool(said.get("anyway")),
        memory=None if memory is None else capacity(memory),
        same=inputs == "same",
        whole=bool(said.get("whole_budget")),
        wait=seconds(said["wait"]) if said.get("wait") else 0.0,
    )


def check_in(asked: Study | Logbook, contenders: Names, families: Names) -> None:
    """Raise a LogarithmError for a contender or family that a study or logbook does not have."""
    where = getattr(asked, "path", None) or getattr(asked, "file", None) or getattr(asked, "name", "the study")
    check_names(where, "contender", names_of(contenders), [each.name for each in asked.contenders])
    check_names(where, "family", names_of(families), [each.name for each in asked.families])
