"""One function for each task on a study; a study has them as methods.

Everything heavy is loaded where it is first used, so that a study can be read without it.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Unpack

from ..study.run_options import Names, RaceOptions, RunOptions, names_of
from ..study.second import Sizes
from ..study.study import Study

if TYPE_CHECKING:
    from ..results.findings import Findings
    from ..results.logbooks.across import Across
    from ..results.tasks.history import History
    from ..results.tasks.machine import Conditions
    from ..results.tasks.rehearsal import Rehearsal
    from ..results.tasks.verdicts import Verdicts
    from ..results.tasks.walk import Walk
    from ..results.tasks.worst import Search

Asked = Study | str | Path
"""A study, or the file of one."""


def measure(
    study: Asked,
    budget: str | None = None,
    *,
    out: str | Path | None = None,
    resume: str | Path | None = None,
    quiet: bool = False,
    verbose: bool = False,
    **options: Unpack[RunOptions],
) -> Findings:
    """Measure into a logbook until everything is settled, and return what was found.

    Works in a script, under `if __name__ == "__main__":`, and in a notebook, with functions defined in its cells.

    Args:
        study: what is asked.
        budget: the most that it may take; "60s" if nothing is said.
        out: the logbook to write; `logbooks/NAME-….jsonl` if none is named.
        resume: a logbook to go on with: further, or with contenders edited or added since.
        quiet: show no progress.
        verbose: log what is decided and why, in place of progress.
        options: ceiling, sizes, family, only, metric, seed, anyway, memory, inputs, whole_budget; see `RunOptions`.

    Raises:
        StudyError: where the study cannot be used, or its functions cannot go along to other processes.
        DisagreementError: where contenders disagree.
        MeasuringError: where nothing can be measured.
    """
    from .findings import read_logbook
    from .options import check_options
    from .running import go_on, run
    from .subject import opened

    check_options(options)
    with opened(study) as (plan, file, usual):
        if resume is not None:
            path = go_on(plan, file, Path(resume), budget, options, quiet, verbose)
        else:
            path = run(plan, file, usual if out is None else Path(out), budget, options, quiet, verbose)
    found = read_logbook(path).findings()
    if not found.costs:
        from ..errors import MeasuringError

        told = "no contender works at its smallest size" if found.failures else "the budget was too short"
        raise MeasuringError(f"nothing was measured: {told}; what there is stands in {path}")
    return found


def measure_on(
    study: Asked,
    address: str,
    budget: str | None = None,
    *,
    out: str | Path | None = None,
    lost: Callable[[str], None] = warnings.warn,
    **options: Unpack[RunOptions],
) -> Across:
    """Measure on each machine of a cluster, and return what holds on each and on all.

    Args:
        study: what is asked.
        address: of the cluster's scheduler, or "local" to start one here.
        budget, options: as of `measure`.
        out: beside which a logbook of each machine is written, and whose name theirs begin with.
        lost: called with a line where a machine could not measure it.

    Raises:
        MeasuringError: where no machine could measure it.
    """
    from .findings import across
    from .options import settings_of
    from .running import run_on_machines
    from .subject import opened

    with opened(study) as (plan, file, usual):
        settings = settings_of(plan, budget, options)
        made = run_on_machines(plan, file, settings, address, usual if out is None else Path(out), lost)
    return across(*made)


def rehearse(
    study: Asked,
    sizes: Sizes | Mapping[str, Sizes] | None = None,
    budget: str | None = None,
    quiet: bool = False,
    *,
    ceiling: str | None = None,
    family: Names = None,
    only: Names = None,
) -> Rehearsal:
    """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured.

    Args:
        study: what is asked.
        sizes: other sizes, such as "8..4096".
        budget: that measuring would have.
        quiet: show no progress.
        ceiling, family, only: as of `measure`.

    Raises:
        StudyError: where the study cannot be used, or a family makes no instance.
    """
    from .options import settings_of
    from .running import rehearsed
    from .subject import opened

    with opened(study) as (plan, file, _):
        said = {"sizes": sizes, "ceiling": ceiling, "family": family, "only": only}
        settings = settings_of(plan, budget, {name: each for name, each in said.items() if each is not None})
        return rehearsed(plan, file, settings, quiet)


def verify(
    study: Asked,
    budget: str | None = None,
    *,
    strict: bool = False,
    quiet: bool = False,
    verbose: bool = False,
    doubting: Callable[[list[str]], None] = lambda _: None,
    **options: Unpack[RunOptions],
) -> Verdicts:
    """Do the claims hold? What seems contradicted is measured again before it is believed.

    Args:
        study: what is asked.
        budget: the most that it may take.
        strict: claims that are undecided or slower fail too.
        quiet, verbose, options: as of `measure`.
        doubting: called with the contenders that are measured again.

    Raises:
        LogarithmError: where there is no claim, or nothing can be measured.
    """
    from .options import check_options
    from .running import verified
    from .subject import opened

    check_options(options)
    with opened(study) as (plan, file, _):
        return verified(plan, file, budget, options, strict, doubting, quiet, verbose)


def history(
    study: Asked,
    revisions: str,
    budget: str | None = None,
    *,
    quiet: bool = False,
    tell: Callable[[str], None] = lambda _: None,
    **options: Unpack[RunOptions],
) -> History:
    """Which commits changed the cost? Revisions are measured side by side, and halved where neighbours differ.

    Commits that say what the one before says are not measured, and those that do not run are named.

    Args:
        study: what is asked; its file lies in a git repository.
        revisions: a range of commits, such as "v1..HEAD" or "v1..".
        budget: the most that it may take.
        quiet: show no progress.
        tell: called with a line on what is being done.
        options: as of `measure`.

    Raises:
        StudyError: where there is no such range, or nothing in it runs.
    """
    from ..logbook.folder import fresh_path
    from ..notation.durations import seconds
    from .findings import read_logbook
    from .options import BUDGET, check_in, check_options
    from .running import run
    from .searches.history import history_of
    from .subject import opened

    check_options(options)
    with opened(study, "-history") as (plan, file, _):
        prepare, only = names_of(options.pop("prepare", None)), names_of(options.pop("only", None))
        check_in(plan, only, ())

        def measured(left: float) -> Findings:
            path = fresh_path(f"{plan.name}-history")
            return read_logbook(run(plan, file, path, f"{left:.3f}s", options, quiet, verbose=False)).findings()

        most = seconds(budget or BUDGET)
        return history_of(plan, file, revisions, most, prepare, only, measured, tell)


def worst(
    study: Asked,
    budget: str | None = None,
    *,
    only: Names = None,
    family: Names = None,
    metric: str = "work",
    sizes: Sizes | Sequence[str] | None = None,
    at: str | None = None,
    seed: int = 1,
    out: str | Path | None = None,
    on: str | None = None,
    quiet: bool = False,
    lost: Callable[[str], None] = warnings.warn,
) -> Search:
    """Search for inputs on which each contender does most work, and say how that worst case grows.

    What is found is a lower bound: that no worse was found does not say that there is none.

    Args:
        study: what is asked.
        budget: the most that it may take.
        only, family: contenders and families; all where none is named.
        metric: what to make large: work, steps, comparisons, memory or a tally.
        sizes: those to search at, such as "8..64".
        at: of two sizes, the value of the second, such as "k=64".
        seed: the same one gives the same result.
        out: the logbook to write.
        on: the address of a cluster's scheduler, or "local".
        quiet: show no progress.
        lost: called with a line where the search for a contender could not be done.

    Raises:
        LogarithmError: where nothing can be searched for.
    """
    from ..executors.local import executor_at
    from ..notation.durations import seconds
    from ..notation.sizes import fixed
    from ..report.progress import bar
    from .options import BUDGET, second_of, sizes_of
    from .searches.worst import Sought, search_worst
    from .subject import opened

    with opened(study, "-worst") as (plan, file, usual):
        ladder = fixed(sizes_of(plan, sizes)[0])
        climbed = None if ladder is None else tuple(int(size) for size in ladder)
        where = names_of(only), names_of(family)
        sought = Sought(*where, metric, seconds(budget or BUDGET), climbed, seed, second_of(plan, at))
        path = usual if out is None else Path(out)
        with bar(quiet) as progress, executor_at(on, plan, file) as executor:
            return search_worst(plan, file, sought, path, executor, progress, lost)


def walk(
    study: Asked,
    contender: str,
    size: int = 6,
    *,
    family: str | None = None,
    at: str | None = None,
    seed: int = 1,
) -> Walk:
    """What a contender does on one small instance, event by event: compare, read, write, swap, call.

    Args:
        study: what is asked.
        contender: its name.
        size: of the instance, 500 at most.
        family: of the instance; the first if none is named.
        at: of two sizes, the value of the second, such as "k=3"; the smallest if none is named.
        seed: the instance follows from it.

    Raises:
        LogarithmError: where a name is not there, or the contender fails.
    """
    from ..notation.places import slice_name
    from .options import check_in, second_of
    from .subject import opened
    from .walk import follow

    with opened(study) as (plan, file, _):
        check_in(plan, contender, family)
        name = family or plan.families[0].name
        if plan.second is not None:
            value = second_of(plan, at, plan.second.values[0])
            name = slice_name(name, plan.second.name, value or 0)
        return follow(plan, file, contender, name, size, seed)


def race(
    *functions: Callable[[Any], Any],
    family: Names = "shuffled",
    sizes: Sizes | Mapping[str, Sizes] | None = None,
    budget: str | None = "20s",
    unordered: bool = False,
    within: float = 1e-9,
    out: str | Path | None = None,
    quiet: bool = False,
    **options: Unpack[RaceOptions],
) -> Findings:
    """Race functions of one argument over ready-made families; the first is the one others are compared with.

    Args:
        functions: of a module, a script or a notebook's cells.
        family: ready-made families, such as "shuffled" or "decimals".
        sizes: such as "8..4096"; else as far as it goes. Of two, by their names: functions then get (instance, k).
        budget: the most that it may take.
        unordered, within: how answers agree; see `Study.agree`.
        out, quiet, options: as of `measure`.

    Raises:
        StudyError: where a function has no name or no text, or a family is not there.
        DisagreementError: where they disagree.
    """
    from ..study.families import ready

    names = [getattr(each, "__name__", repr(each)) for each in functions]
    study = Study(" against ".join(names) or "nothing", sizes=sizes)
    for each in names_of(family):
        study.family(ready(each))
    for number, function in enumerate(functions):
        study.contender(function, baseline=number == 0)
    study.agree(unordered=unordered, within=within)
    return measure(study, budget, out=out, quiet=quiet, **options)


def machine() -> Conditions:
    """What this machine can resolve: the clock, and how noisy it is now. Watches it for some seconds."""
    from ..supervisor.machine.noise import conditions
    from . import subject  # noqa: F401 - so that the result can show itself

    return conditions()
