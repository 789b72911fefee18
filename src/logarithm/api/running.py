"""Runs, rehearsals and verdicts, shown while they go on."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from ..errors import DisagreementError, LogbookError, MeasuringError, StudyError
from ..executors.cluster import cluster
from ..executors.machines import MeasureJob, measured_there
from ..logbook.files import write_file
from ..logbook.folder import fresh_path
from ..logbook.records import Note
from ..logbook.writing import LogbookWriter
from ..notation.durations import capacity, seconds
from ..notation.numbers import span
from ..notation.words import axis
from ..report.progress import bar, warn, watching
from ..results.findings import FailureFinding, Findings
from ..results.tasks.rehearsal import Rehearsal
from ..results.tasks.verdicts import FAILING, FAILING_STRICTLY, Verdicts, verdict_of, verdicts_of
from ..run.executor import Lost
from ..run.measure import measure
from ..run.plan.settings import Settings
from ..run.plan.track import tracks as tracks_of
from ..run.rehearsal.estimate import estimate, heats_within, settled_after
from ..run.rehearsal.rehearse import rehearsal_pool, rehearse
from ..run.resume import More, resume
from ..run.revisions.copies import measured_against
from ..study.run_options import names_of
from ..study.study import Study
from ..supervisor.machine.idle import wait_for_calm
from ..supervisor.machine.repeated_inputs import repeated_bias
from ..supervisor.programs.tools import absent
from .findings import read_logbook
from .options import BUDGET, ON_RESUME, settings_of, sizes_of
from .rule import LoadedLater

FIRST = 0.45  # of the budget, for all claims; what is left is for those that seem contradicted


def run(
    study: Study,
    file: Path,
    logbook: Path,
    budget: str | None,
    options: Mapping[str, Any],
    quiet: bool,
    verbose: bool,
) -> Path:
    """Measure into a new logbook. Returns its path."""
    settings, said = settings_of(study, budget, options), {**study.run_options, **options}
    against, prepare = (names_of(said.get(name)) for name in ("against", "prepare"))
    with measured_against(study, file, {each: each for each in against}, prepare, settings.contenders) as notes:
        named = [each.name for each in study.contenders if each.revision is not None]
        if named and settings.contenders:
            settings = replace(settings, contenders=(*settings.contenders, *named))
        return _run(study, file, logbook, settings, quiet, verbose, notes)


def _run(
    study: Study,
    file: Path,
    logbook: Path,
    settings: Settings,
    quiet: bool,
    verbose: bool,
    notes: Sequence[Note] = (),
) -> Path:
    rule = LoadedLater()
    shown = watching(study.name, settings.budget, rule, logbook, quiet, verbose)
    try:
        with shown as progress, LogbookWriter(logbook) as writer:
            if settings.wait and not wait_for_calm(settings.wait, lambda what: progress(0.0, what)):
                warn(f"no calmer moment came within {span(settings.wait)}: measured all the same")
            found = measure(study, file, settings, writer, progress, rule, notes).rehearsed
    except DisagreementError:
        if not len(writer.memory.logbook().trials):
            logbook.unlink(missing_ok=True)  # refused in the rehearsal: nothing was measured
        raise
    for disagreement in found.disagreements:
        warn(str(disagreement))
    return logbook


def go_on(
    study: Study,
    file: Path,
    logbook: Path,
    budget: str | None,
    options: Mapping[str, Any],
    quiet: bool,
    verbose: bool,
) -> Path:
    """Go on with a logbook until everything is settled or its budget is used. Returns its path."""
    others = [each for each in options if each not in ON_RESUME]
    if others:
        raise StudyError(f"'{others[0]}' cannot be changed when a run is resumed: leave it out")
    memory = options.get("memory")
    sizes, values = sizes_of(study, options.get("sizes"))
    if values is not None:
        raise StudyError("values of the second size cannot be changed when a run is resumed: leave them out")
    more = More(
        None if budget is None else seconds(budget),
        sizes,
        None if memory is None else capacity(memory),
        bool(options.get("whole_budget")),
    )
    before, rule = read_logbook(logbook), LoadedLater()
    whole = more.budget or before.study.budget or seconds(BUDGET)
    shown = watching(study.name, whole, rule, logbook, quiet, verbose)
    earlier = {each.name: each for each in before.contenders if each.of}
    revisions = {each.revision: each.commit for each in earlier.values()}
    only = {each.of for each in earlier.values()}
    with measured_against(study, file, revisions, names_of(options.get("prepare")), [*only]) as notes:
        # The code of a contender may be that of its revision by now: what was measured of that stays as it is.
        study.contenders[:] = [each for each in study.contenders if each.revision is None or each.name in earlier]
        for note in notes:
            if note.cause == "fault":
                warn(note.text)
        with shown as progress, LogbookWriter(logbook, append=True) as writer:
            resume(study, file, before, writer, progress, rule, more)
    return logbook


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
    made: list[Path] = []
    with cluster(on, study, file) as executor:
        hosts = executor.machines()
        for address, text in executor.on_each_machine(measured_there, MeasureJob(settings), str):
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


def rehearsed(study: Study, file: Path, settings: Settings, quiet: bool) -> Rehearsal:
    """Try every contender at small sizes; nothing is measured.

    Raises:
        StudyError: where a family makes no instance.
        MeasuringError: where no worker starts.
    """
    missing = absent(study)
    tracks = tracks_of(study, settings, missing)
    begun = time.monotonic()
    with bar(quiet) as progress, rehearsal_pool(study, file, tracks, settings) as pool:
        starting = time.monotonic() - begun
        found = rehearse(study, tracks, pool, float("inf"), lambda what: progress(0.3, what))
        ahead = estimate(tracks, pool, settings, settings.seed, lambda what: progress(0.7, what))
    return Rehearsal(
        study=study.name,
        disagreements=found.disagreements,
        compared=found.compared,
        is_judged=study.judge is not None,
        largest=max(found.sizes, default=None),
        failures=[
            FailureFinding(contender=name, family=family, size=size, reason=failed.reason, detail=failed.detail)
            for name, family, size, failed in found.failures
        ],
        traps=found.traps,
        estimates=ahead,
        missing=missing,
        axis=axis(study.axis),
        budget=settings.budget,
        heat=sum(each.heat for each in ahead),
        heats=heats_within(ahead, settings),
        settled=settled_after(ahead, tracks, starting, settings),
        bias=repeated_bias(),
        yardsticks=[each.name for each in study.contenders if each.options.yardstick],
        fails_from={
            each.name: each.options.fails_from for each in study.contenders if each.options.fails_from is not None
        },
    )


def verified(
    study: Study,
    file: Path,
    budget: str | None,
    options: Mapping[str, Any],
    strict: bool,
    doubting: Callable[[list[str]], None],
    quiet: bool,
    verbose: bool,
) -> Verdicts:
    """The claims of a study, measured now; only what is contradicted twice is.

    Raises:
        LogarithmError: where there is no claim.
    """
    settings = settings_of(study, budget, options)

    def measured(part: Settings) -> Findings:
        return read_logbook(_run(study, file, fresh_path(study.name), part, quiet, verbose)).findings()

    first = measured(replace(settings, budget=FIRST * settings.budget))
    found = verdicts_of(first, strict)
    doubted = tuple(dict.fromkeys(row.contender for row in found if row.verdict == "contradicted"))
    if not doubted:
        return found
    doubting(list(doubted))
    rest = replace(settings, budget=(1 - FIRST) * settings.budget, seed=settings.seed + 1, contenders=doubted)
    again = measured(rest)
    failing = FAILING_STRICTLY if strict else FAILING
    second = {row.key: row for row in (verdict_of(claim, again, failing) for claim in again.claims)}
    rows = [second.get(row.key, row) if row.verdict == "contradicted" else row for row in found]
    return Verdicts(found.study, rows, found.broken)
