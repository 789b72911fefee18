"""The records that open a logbook: what is asked, who takes part, and what their code says."""

from __future__ import annotations

from collections.abc import Collection
from datetime import UTC, datetime
from pathlib import Path

from ...logbook.exchange.calls import recorded
from ...logbook.records import AnyRecord, ClaimRecord, ContenderRecord, FamilyRecord, Header, StudyRecord
from ...notation.sizes import fixed
from ...study.files.fingerprints import fingerprint_of, fingerprint_of_program
from ...study.files.loading import fingerprint
from ...study.parts import Contender, Family
from ...study.study import Study
from ...supervisor.machine.facts import this_machine
from ...supervisor.programs.tools import versions
from ...version import __version__
from ..counters.counts import metrics_of
from ..git import state_of
from ..plan.settings import Settings
from ..plan.track import seconds_of

SOURCE_MOST = 200_000  # characters


def contender_record(contender: Contender, folder: Path) -> ContenderRecord:
    """The record of a contender; `folder` is that of its study."""
    program = contender.program
    return ContenderRecord(
        name=contender.name,
        baseline=contender.options.baseline,
        # The promise of an answer is not the answer: what times that alone is shown, but not ranked.
        yardstick=contender.options.yardstick or contender.options.drain is False,
        claims=[ClaimRecord(claim.order, claim.where) for claim in contender.options.claims],
        stages=[stage for stage in contender.stages if stage],
        levels={key: str(value) for key, value in contender.values.items()},
        base=contender.base,
        doc=contender.doc,
        command=list(program.arguments) if program else [],
        build=list(program.build) if program else [],
        tools=versions(contender),
        handed_in=contender.source is not None,
        fails_from=contender.options.fails_from,
        of="" if contender.revision is None else contender.revision.of,
        revision="" if contender.revision is None else contender.revision.label,
        commit="" if contender.revision is None else contender.revision.commit,
        beside="" if contender.revision is None else contender.revision.beside,
        require=contender.require,
        function="" if contender.source is None else contender.source.function,
        late="" if contender.source is None else contender.source.late,
        person="" if contender.source is None else contender.source.person,
        code=code_of(contender, folder),
    )


def preamble(
    study: Study, study_file: Path, settings: Settings, taking: Collection[str], on: Collection[str]
) -> list[AnyRecord]:
    """The records that open a logbook: format, machine, study, the contenders and families that take part."""
    folder = study_file.resolve().parent
    return [
        Header(software=f"logarithm {__version__}", created=datetime.now(UTC).isoformat(timespec="seconds")),
        this_machine(),
        study_record(study, study_file, settings),
        *(contender_record(contender, folder) for contender in study.contenders if contender.name in taking),
        *(family_record(family) for family in study.families if family.name in on),
        *([] if settings.workload is None else [recorded(settings.workload)]),
    ]


def study_record(study: Study, study_file: Path, settings: Settings) -> StudyRecord:
    """The record of what is asked, with the settings of a run."""
    state = state_of(study_file)
    asked, second = fixed(settings.sizes or study.sizes), study.second
    return StudyRecord(
        name=study.name,
        question=study.question,
        file=study_file.name if study.is_kept else "",
        sha256=fingerprint(study_file),
        source=study_file.read_text(encoding="utf-8", errors="replace")[:SOURCE_MOST],
        axis=study.axis,
        sizes=None if asked is None else list(asked),
        names=[] if second is None else [second.first, second.name],
        seconds=list(seconds_of(study, settings) or ()),
        is_second_size=second is None or second.is_size,
        commit="" if state is None else state.commit,
        branch="" if state is None else state.branch,
        changed=state is not None and state.changed,
        budget=settings.budget,
        ceiling=settings.ceiling,
        seed=settings.seed,
        metrics=list(metrics_of(study, settings)),
        known=[contender.name for contender in study.contenders],
        versions=list(study.ladder),
        mixes=study.mixes,
    )


def code_of(contender: Contender, folder: Path) -> str:
    """The fingerprint of a contender's code."""
    program = contender.program
    if contender.revision is not None:
        return contender.revision.commit
    if program is not None:
        return fingerprint_of_program(program.arguments, program.build, folder)
    return "" if contender.source is not None else fingerprint_of(contender.code)


def family_record(family: Family) -> FamilyRecord:
    """The record of a family."""
    return FamilyRecord(name=family.name, doc=family.doc, code=fingerprint_of(family.code))
