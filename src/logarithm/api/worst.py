"""A search for worst cases, written into a logbook of its own."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..errors import LogarithmError
from ..logbook.files import write_file
from ..logbook.reading import read_logbook
from ..logbook.records import AnyRecord, ClaimRecord, FamilyRecord, Note, Trial
from ..logbook.writing import LogbookWriter
from ..report.contents.worst import AS_MUCH, BEST, SHOWS, TYPICAL, WORST, Case
from ..results.findings import Findings
from ..run.counters.worst import SearchJob, Worst, search
from ..run.executor import Engine, Lost
from ..run.plan.settings import Settings
from ..run.preamble import preamble
from ..run.state import Progress
from ..statistics.analyse import analyse
from ..study.parts import Contender, Family
from ..study.saved_instances import FORMAT, VERSION
from ..study.study import WORST_CLAIM, Study
from ..study.tally_names import check_metrics
from .options import check_in

WORK = "work"
COUNTED = (WORK, "steps", "calls", "memory")
BUDGET = 60.0


@dataclass(frozen=True, slots=True)
class Search:
    """What is searched for.

    Attributes:
        contenders, families: names; all where there are none.
        metric: what is to be large.
        budget: seconds that it may take at most.
        sizes: those to search at; the usual ones where it is None.
        seed: the same one gives the same result, as long as the time is enough.
    """

    contenders: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    metric: str = WORK
    budget: float = BUDGET
    sizes: tuple[int, ...] | None = None
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Found:
    """What a search found: each case as it is told, the instances behind it, and the findings of the logbook."""

    study: str
    metric: str
    cases: list[Case]
    instances: list[Worst]
    findings: Findings

    def keep(self, file: Path) -> None:
        """Write the instances down as JSON, for `Study.family_from`."""
        rows = [
            {
                "contender": each.contender,
                "family": each.family,
                "stage": each.stage,
                "kind": kind,
                "metric": self.metric,
                "size": size,
                "count": count,
                "looks": found.looks if kind == "worst" else "",
                "instance": instance,
            }
            for each in self.instances
            for size, found in each.found.items()
            for kind, count, instance in (("worst", found.most, found.worst), ("best", found.least, found.best))
        ]
        whole = {"format": FORMAT, "version": VERSION, "study": self.study, "instances": rows}
        write_file(file, json.dumps(whole, ensure_ascii=False) + "\n")


def search_worst(
    study: Study,
    file: Path,
    asked: Search,
    logbook: Path,
    engine: Engine,
    progress: Progress,
    lost: Callable[[str], None],
) -> Found:
    """Search for instances on which each contender does most, and write what is found into a logbook.

    Args:
        study, file: what is asked, and where it stands.
        asked: what is searched for.
        logbook: to write.
        engine: where it is done.
        progress: called with the share that is done, and who was searched for last.
        lost: called with a line where the search for a contender could not be done.

    Raises:
        LogarithmError: where nothing can be searched for, or a name is not there.
    """
    pairs = _pairs(study, file, asked)
    several = len({family.name for _, family in pairs}) > 1
    made: list[Worst] = []
    with LogbookWriter(logbook) as writer:
        writer.write(*_preamble(study, file, pairs, asked, several))
        contenders = list({contender.name: contender for contender, _ in pairs})
        seconds = asked.budget * min(engine.places, len(contenders)) / len(contenders)
        jobs = [
            SearchJob(
                name, tuple(f.name for c, f in pairs if c.name == name), asked.metric, seconds, asked.seed, asked.sizes
            )
            for name in contenders
        ]
        for number, (job, found) in enumerate(engine.each(search, jobs, list[Worst]), start=1):
            progress(number / len(jobs), job.contender)
            if isinstance(found, Lost):
                lost(f"{job.contender}: {found.reason}")
                continue
            for each in found:
                made.append(each)
                writer.write(*_records(each, asked, several))
            writer.flush()
        order = {(contender.name, family.name): at for at, (contender, family) in enumerate(pairs)}
        made.sort(key=lambda each: (order[each.contender, each.family], each.stage or ""))
        cases = [_case(each, asked.metric, several) for each in made]
        writer.write(*_notes(cases))
    return Found(study.name, asked.metric, cases, made, analyse(read_logbook(logbook)))


def _pairs(study: Study, file: Path, asked: Search) -> list[tuple[Contender, Family]]:
    """Who is searched for on what.

    Raises:
        LogarithmError: where that is nobody, or something that is named is not there.
    """
    check_in(study, file, asked.contenders, asked.families)
    if asked.metric not in COUNTED:
        check_metrics(study, file, (asked.metric,))
    if study.axis != "size":
        raise LogarithmError(f"{file} varies {study.axis}, not the size: a worst case is searched for over sizes")
    pairs = [
        (contender, family)
        for contender in study.contenders
        for family in study.families
        if contender.program is None
        and contender.source is None
        and (not asked.contenders or contender.name in asked.contenders)
        and (not asked.families or family.name in asked.families)
        and (contender.options.families is None or family.name in contender.options.families)
    ]
    if not pairs:
        raise LogarithmError(
            f"{file} has no contender in Python to search: the worst case of programs cannot be counted"
        )
    return pairs


def _preamble(
    study: Study, file: Path, pairs: Sequence[tuple[Contender, Family]], asked: Search, several: bool
) -> Iterator[AnyRecord]:
    """The records that open the logbook: claims on the worst case are for the family of what was found."""
    settings = Settings(budget=asked.budget, seed=asked.seed, metrics=(asked.metric,))
    taking = {contender.name for contender, _ in pairs}
    families = [f" on {family.name}" if several else "" for family in {each.name: each for _, each in pairs}.values()]
    for record in preamble(study, file, settings, taking, ()):
        if hasattr(record, "claims"):
            record.claims = [
                ClaimRecord(claim.order, f"{WORST if claim.where == WORST_CLAIM else TYPICAL}{suffix}, {asked.metric}")
                for suffix in families
                for claim in record.claims
                if claim.where in (None, WORST_CLAIM, suffix.removeprefix(" on "))
            ]
        yield record
    for kind in (TYPICAL, BEST, WORST):
        yield from (FamilyRecord(name=f"{kind}{suffix}") for suffix in families)


def _records(found: Worst, asked: Search, several: bool) -> Iterator[AnyRecord]:
    suffix = f" on {found.family}" if several else ""
    for size, each in found.found.items():
        rows = [(TYPICAL, heat, count) for heat, count in enumerate(each.typical, start=1)]
        rows += [(kind, 1, count) for kind, count in ((BEST, each.least), (WORST, each.most)) if count is not None]
        for kind, heat, count in rows:
            yield Trial(
                contender=found.contender,
                family=kind + suffix,
                stage=found.stage,
                size=size,
                metric=asked.metric,
                heat=heat,
                seed=asked.seed + heat - 1,
                value=count,
            )


def _case(found: Worst, metric: str, several: bool) -> Case:
    """What is to be told of a search."""
    case = Case(found.contender, found.family, found.stage, metric, f" on {found.family}" if several else "")
    case.tries, case.refused = found.tries, sum(each.refused for each in found.found.values())
    case.why = found.why
    case.fails = next((each.detail for each in found.found.values() if each.fails is not None), "")
    climbed = [size for size, each in found.found.items() if each.most is not None and each.suspects] or list(
        found.found
    )
    if not climbed:
        return case
    case.size = max(size for size in climbed if size <= 64) if min(climbed) <= 64 else max(climbed)
    last = found.found[case.size]
    case.most, case.typical, case.looks = last.most or 0.0, sum(last.typical) / len(last.typical), last.looks
    ranked = sorted(last.suspects.items(), key=lambda each: -each[1])
    case.suspects = [name for name, count in ranked if count >= AS_MUCH * case.most and count >= SHOWS * case.typical]
    for size, each in found.found.items():
        if each.most is not None and each.most >= SHOWS * sum(each.typical) / len(each.typical):
            case.smallest, case.shown = size, each.shown
            break
    return case


def _notes(cases: list[Case]) -> Iterator[AnyRecord]:
    """What a later report should know: what does it, and how hard it was searched for."""
    for case in cases:
        causes = case.suspects or ([case.looks] if case.looks else [])
        text = f"{case.tries} instances were tried on {case.family}, "
        text += f"and no worse was found than {case.most:g} at n = {case.size}"
        if causes:
            text += f", by {' or '.join(causes[:3])} inputs"
        yield Note(topic="worst", text=text, contender=case.contender)
