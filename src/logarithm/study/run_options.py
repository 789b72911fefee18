"""The options of a run, as users write them: one list for the command line, a study's TOML and Python."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal, TypedDict

from .second import Sizes

Names = str | Sequence[str] | None


def names_of(value: Names) -> tuple[str, ...]:
    """Return one name or several as a tuple, each once.

    >>> names_of("sweep"), names_of(["sweep", "grid", "sweep"]), names_of(None)
    (('sweep',), ('sweep', 'grid'), ())
    """
    return (value,) if isinstance(value, str) else tuple(dict.fromkeys(value or ()))


class RaceOptions(TypedDict, total=False):
    """What may be said of every run, each with the words that `--help` has for it."""

    ceiling: Annotated[str | None, "How long a single call may take."]
    only: Annotated[Names, "Only this contender; may be repeated."]
    metric: Annotated[Names, "time, memory, steps, comparisons or a tally; may be repeated."]
    seed: Annotated[int, "Instances and the order of trials follow from it."]
    anyway: Annotated[bool, "Measure even where answers disagree."]
    memory: Annotated[str | None, "How much memory a contender may fill, such as 2GiB; else half."]
    inputs: Annotated[Literal["fresh", "same"], "Take inputs in turn, or repeat the same one on purpose."]
    wait: Annotated[str | None, "Wait at most so long for a moment in which a processor is idle."]
    against: Annotated[Names, "Beside today's code, that of a branch, tag, commit or v1..v4; may be repeated."]
    prepare: Annotated[Names, "Run in the copy of each revision, such as 'pip install .'; may be repeated."]
    whole_budget: Annotated[bool, "Use all of the budget, even when everything is settled before."]


class RunOptions(RaceOptions, total=False):
    """What may be said of a run beside its budget."""

    sizes: Annotated[
        Sizes | Mapping[str, Sizes] | None, "Other sizes, such as 8..4096; of two, n=8..4096; may be repeated."
    ]
    family: Annotated[Names, "Only this family; may be repeated."]
    workload: Annotated[str | None, "Calls that are really made: measure at their sizes, and weigh costs by them."]


class Defaults(RunOptions, total=False):
    """What a study may say of its runs beforehand."""

    budget: Annotated[str, "How long it may take at most."]
