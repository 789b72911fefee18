"""The options of a run, as users write them: one source for the command line, a study's TOML and Python."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from ..errors import StudyError, check_names, there
from ..notation.sizes import Number
from ..study.run_options import Names, RunOptions, names_of
from ..study.second import Sizes

if TYPE_CHECKING:
    from ..run.plan.settings import Settings
    from ..study.study import Study

BUDGET = "60s"
CEILING_SHARE, CEILING_LEAST = 0.1, 1.0  # of the budget, and seconds: how long a call may take if nothing else is said
ON_RESUME = ("sizes", "memory", "whole_budget", "prepare")
"""What may be said anew of a run that is gone on with."""


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
    from ..logbook.exchange.calls import read_calls, where_called
    from ..notation.durations import capacity, seconds
    from ..run.plan.settings import Settings
    from ..study.tally_names import check_metrics

    check_options(options)
    said = {**study.run_options, **options}
    families, contenders, metrics = (names_of(said.get(name)) for name in ("family", "only", "metric"))
    check_in(study, contenders, families)
    check_metrics(study, metrics)
    memory, inputs = said.get("memory"), said.get("inputs", "fresh")
    asked, seconds_asked = sizes_of(study, said.get("sizes"))
    names = [] if study.second is None else [study.second.first, study.second.name]
    calls = read_calls(Path(said["workload"]), names) if said.get("workload") else None
    if calls is not None and asked is None:
        asked = where_called(calls)
    if calls is not None and seconds_asked is None and names:
        seconds_asked = where_called(calls, is_second=True)
    if inputs not in ("fresh", "same"):
        raise StudyError(f"inputs={inputs!r}: there are fresh and same")
    span = seconds(budget or said.get("budget") or BUDGET)
    return Settings(
        budget=span,
        ceiling=seconds(said["ceiling"]) if said.get("ceiling") else max(CEILING_LEAST, CEILING_SHARE * span),
        seed=said.get("seed", 1),
        sizes=asked,
        seconds=seconds_asked,
        families=families,
        contenders=contenders,
        metrics=metrics,
        anyway=bool(said.get("anyway")),
        memory=None if memory is None else capacity(memory),
        same=inputs == "same",
        whole=bool(said.get("whole_budget")),
        wait=seconds(said["wait"]) if said.get("wait") else 0.0,
        workload=calls,
    )


def sizes_of(
    study: Study, given: Sizes | Sequence[str] | Mapping[str, Sizes] | None
) -> tuple[tuple[Number, ...] | None, tuple[Number, ...] | None]:
    """Sizes as they were asked for, of two each by its name: the first ones and the second ones, None where not said.

    Raises:
        StudyError: where they cannot be read, or name a size that the study does not have.
    """
    from ..notation.sizes import parse

    names = ["n"] if study.second is None else [study.second.first, study.second.name]
    named = dict(given) if isinstance(given, Mapping) else named_sizes(given)
    for name in named:
        if name and name not in names:
            raise StudyError(f"the study has no size '{name}': {there(names)}")
    first = named.get("", named.get(names[0]))
    asked = None if first is None else parse(first)
    study.check_sizes(asked, names[0])
    second = named.get(names[1]) if len(names) == 2 else None
    return asked, None if second is None else parse(second)


def second_of(study: Study, at: str | None, usual: Number | None = None) -> Number | None:
    """The value of the second size that is asked for, such as "k=64"; None of a study of one size.

    Raises:
        StudyError: where it cannot be read, or there are two sizes and none is named.
    """
    from ..notation.sizes import placed, plain

    if study.second is None:
        if at is not None:
            raise StudyError(f"the study has one size only: leave --at {at} out")
        return None
    name = study.second.name
    if at is None:
        if usual is None:
            raise StudyError(
                f"the study has two sizes: say at which {name}, such as --at {name}={study.second.values[0]}"
            )
        return usual
    found = placed(at)
    if set(found) != {name}:
        raise StudyError(f"--at {at} is no value of {name}: write --at {name}={study.second.values[0]}")
    return plain(found[name])


def named_sizes(given: Sizes | Sequence[str] | None) -> dict[str, Sizes]:
    """Sizes as they are typed, by name; those without a name under an empty one.

    >>> named_sizes("8..64"), named_sizes(["n=8..64", "k=1..8"])
    ({'': '8..64'}, {'n': '8..64', 'k': '1..8'})
    """
    if given is None:
        return {}
    parts = [given] if isinstance(given, str) else given
    if isinstance(parts, Sequence) and all(isinstance(each, str) for each in parts):
        made: dict[str, Sizes] = {}
        for each in parts:
            name, _, text = str(each).rpartition("=")
            made[name.strip()] = text.strip()
        return made
    return {"": cast(Sizes, given)}


def check_in(study: Study, contenders: Names, families: Names) -> None:
    """Raise a LogarithmError for a contender or family that a study does not have."""
    where = study.file or study.name
    check_names(where, "contender", names_of(contenders), [each.name for each in study.contenders])
    check_names(where, "family", names_of(families), [each.name for each in study.families])
