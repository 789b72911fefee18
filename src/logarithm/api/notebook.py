"""What a study does from Python; see the methods of `logarithm.Study`, which call these."""

from __future__ import annotations

import warnings
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..errors import MeasuringError, StudyError, there
from ..executors.local import engine_at
from ..logbook.writing import fresh_path
from ..notation.durations import capacity, seconds
from ..notation.sizes import Number, ladder
from ..report.text.rehearsal import Rehearsal
from ..report.units import name
from ..run.plan.settings import Settings
from ..run.resume import More
from ..study.cells import file_of, written_down
from ..study.loading import is_loading
from ..study.study import Study
from . import running
from .assess import assess_class
from .compare import Across, across
from .findings import ShownFindings, read_logbook
from .options import Names, names_of, settings_of
from .progress import progress
from .rehearse import rehearsed as rehearsal_of
from .shown import Shown, ShownClass, ShownSearch, ShownVerdicts, ShownWalk
from .stopping import Adviser
from .verify import verified as verdicts_of
from .walk import walked as walk_of
from .worst import Search, search_worst

if TYPE_CHECKING:
    from rich.console import RenderableType

DIALS = ("anyway", "ceiling", "family", "memory", "metric", "only", "same", "seed", "sizes", "whole")


def measured(
    study: Study,
    budget: str | None,
    out: str | Path | None,
    resume: str | Path | None,
    quiet: bool,
    dials: dict[str, Any],
) -> ShownFindings:
    """Measure a study; see `Study.measure`."""
    _check(study, dials)
    adviser = Adviser()
    if resume is not None:
        path, more = Path(resume), _more(budget, dials)
        with _file(study, path) as file, progress(quiet) as shown:
            running.go_on(study, file, read_logbook(path), more, adviser, shown)
    else:
        path = _path(out, study.name)
        with _file(study, path) as file, progress(quiet) as shown:
            running.run(study, file, settings_of(study, file, budget or "60s", **dials), path, adviser, shown)
    return _found(path)


def measured_on(study: Study, address: str, budget: str, out: str | Path | None, dials: dict[str, Any]) -> Across:
    """Measure a study on each machine of a cluster; see `Study.measure_on`."""
    _check(study, dials)
    path = _path(out, study.name)
    with _file(study, path) as file:
        settings = settings_of(study, file, budget, **dials)
        made = running.run_on_machines(study, file, settings, address, path, warnings.warn)
    return across(*made)


def rehearsed(study: Study, budget: str, dials: dict[str, Any]) -> Rehearsal:
    """Rehearse a study; see `Study.rehearse`."""
    _check(study, dials)
    with _file(study, fresh_path(study.name)) as file, progress(quiet=False) as shown:
        return rehearsal_of(study, file, settings_of(study, file, budget, **dials), shown)


def verified(study: Study, budget: str, strict: bool, quiet: bool, dials: dict[str, Any]) -> ShownVerdicts:
    """Measure a study and hold its claims against what was found; see `Study.verify`."""
    _check(study, dials)

    with _file(study, fresh_path(study.name)) as file:

        def measure(settings: Settings) -> ShownFindings:
            path = fresh_path(study.name)
            with progress(quiet) as shown:
                running.run(study, file, settings, path, Adviser(), shown)
            return _found(path)

        settings = settings_of(study, file, budget, **dials)
        return ShownVerdicts(verdicts_of(settings, measure, lambda _: None, strict))


def searched(
    study: Study,
    budget: str,
    only: Names,
    family: Names,
    metric: str,
    sizes: str | Number | Sequence[Number] | None,
    seed: int,
    out: str | Path | None,
    on: str | None,
    quiet: bool,
) -> ShownSearch:
    """Search for worst cases; see `Study.worst`."""
    study.check()
    climbed = None if sizes is None else tuple(int(size) for size in ladder(sizes))
    asked = Search(names_of(only), names_of(family), metric, seconds(budget), climbed, seed)
    path = _path(out, f"{study.name}-worst")
    with _file(study, path) as file, progress(quiet) as shown, engine_at(on, study, file) as engine:
        return ShownSearch(search_worst(study, file, asked, path, engine, shown, warnings.warn))


def assessed(
    study: Study,
    memory: str,
    seed: int | None,
    trusted: bool,
    out: str | Path | None,
    resume: str | Path | None,
    on: str | None,
    quiet: bool,
) -> ShownClass:
    """Assess what a class handed in; see `Study.assess`."""
    study.check()
    path = Path(resume) if resume is not None else _path(out, study.name)
    with _file(study, path) as file, progress(quiet) as shown:
        seen = assess_class(
            study,
            file,
            path,
            engine_at(on, study, file),
            shown,
            memory=capacity(memory),
            seed=seed,
            trusted=trusted,
            resume=resume is not None,
        )
    return ShownClass(seen)


def walked(study: Study, contender: str, size: int, family: str | None, seed: int, most: int) -> ShownWalk:
    """Follow a contender on one small instance; see `Study.walk`."""
    study.check()
    with _file(study, fresh_path(study.name)) as file:
        found = walk_of(study, file, contender, size, family, seed)
    title = f"{name(contender)} on {name(family or study.families[0].name)}, n = {size}"
    return ShownWalk(title, found, most)


def race(
    *functions: Callable[[Any], Any],
    family: Names = "shuffled",
    sizes: str | Number | Sequence[Number] | None = None,
    budget: str = "20s",
    unordered: bool = False,
    within: float = 1e-9,
    **settings: Any,
) -> ShownFindings:
    """Race functions of one argument over ready-made families; the first is the one others are compared with.

    Args:
        functions: of a module, a script or a notebook's cells.
        family: ready-made families, such as "shuffled" or "decimals".
        sizes: a ladder, such as "8..4096"; else as far as it goes.
        budget: the most that it may take.
        unordered, within: how answers agree; see `Study.agree`.
        settings: as of `Study.measure`.

    Raises:
        StudyError: where a function has no name or no text, or a family is not there.
        DisagreementError: where they disagree.
    """
    from ..study.families import ALL

    ready = {make.__name__: make for make in ALL}
    names = [getattr(each, "__name__", repr(each)) for each in functions]
    study = Study(" against ".join(names) or "nothing", sizes=sizes)
    for each in names_of(family):
        if each not in ready:
            raise StudyError(f"there is no ready-made family '{each}': {there(list(ready), 20)}")
        study.family(ready[each])
    for number, function in enumerate(functions):
        study.contender(function, baseline=number == 0)
    study.agree(unordered=unordered, within=within)
    return measured(study, budget, settings.pop("out", None), None, settings.pop("quiet", False), settings)


def machine() -> Shown:
    """What this machine can resolve: the clock, and how noisy it is now. Watches it for some seconds."""
    from ..report.text.conditions import render
    from ..supervisor.machine.noise import conditions
    from ..supervisor.machine.repeated_inputs import learnt

    told: RenderableType = render(conditions(), learnt())
    return Shown(told)


def _check(study: Study, dials: dict[str, Any]) -> None:
    """Raise a StudyError where a study cannot be measured, or a dial is not known."""
    study.check()
    unknown = [each for each in dials if each not in DIALS]
    if unknown:
        raise StudyError(f"measure has no setting '{unknown[0]}': {there(list(DIALS), 20)}")


def _more(budget: str | None, dials: dict[str, Any]) -> More:
    """What is said beside `resume`."""
    sizes, memory = dials.get("sizes"), dials.get("memory")
    others = [each for each in dials if each not in ("sizes", "memory", "whole")]
    if others:
        raise StudyError(f"'{others[0]}' cannot be changed when a run is resumed: leave it out")
    return More(
        None if budget is None else seconds(budget),
        None if sizes is None else ladder(sizes),
        None if memory is None else capacity(memory),
        bool(dials.get("whole")),
    )


def _path(out: str | Path | None, name: str) -> Path:
    return Path(out) if out is not None else fresh_path(name)


def _found(path: Path) -> ShownFindings:
    """What was found in a logbook that was written just now.

    Raises:
        MeasuringError: where nothing was measured.
    """
    found = read_logbook(path).findings()
    if not found.costs:
        raise MeasuringError(f"nothing was measured; what there is stands in {path}")
    return found


@contextmanager
def _file(study: Study, logbook: Path) -> Iterator[Path]:
    """The study's own file; where it was defined in a notebook, one that is written beside the logbook."""
    if is_loading():
        raise StudyError('in the file of a study, this must stand under if __name__ == "__main__":')
    own = file_of(study)
    if own is not None:
        yield own
        return
    file = logbook.with_suffix(".py")
    text = written_down(study)
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text, encoding="utf-8")
    yield file
