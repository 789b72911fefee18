"""The report of a logbook as a document: the answer in sentences first, then the tables behind it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec

from ....errors import counted
from ....notation import numbers, words
from ....notation.metrics import TIMED
from ....notation.words import place_said
from ....results.findings import FailureFinding, Findings
from ....results.tasks.machine import OTHERS_QUIET
from ... import units
from ...document import Document, Line, Section, sections_of
from . import first
from .chart import charts
from .leads import answers
from .lines import culprits, line_tables
from .notes import machine_said, notes_of
from .sentences import axis_of, best_values, choices, overtaking, spot_of
from .special import changes, maps, operations, versions, workload
from .special.breakeven import breakeven
from .special.crowd import first_look
from .tables import costs, growth, growth_details, native, per_item, ratio_details, ratios

NAMES = (
    *(
        "workload",
        "changes",
        "versions",
        "mixes",
        "grow",
        "answer",
        "crossovers",
        "choice",
        "breakeven",
        "startup",
        "inputs",
        "growth",
        "ratios",
        "costs",
        "counts",
    ),
    *("lines", "native", "failures", "notes", "machine", "chart"),
)
"""What `--section` may name."""


def report(
    findings: Findings,
    everything: bool = False,
    only: str | None = None,
    sizes_shown: int = 8,
    width: int = 100,
    rows: Mapping[str, int] | None = None,
) -> Document:
    """The report.

    Args:
        findings: what was found.
        everything: not the first screen alone, but all there is.
        only: the name of a single section.
        sizes_shown: how many sizes a table has room for.
        width: letters that a chart may be wide.
        rows: lines that each section of the first screen may have.
    """
    is_first = only is None and not everything
    made = heading(findings, is_first)
    if is_first:
        notes: list[Line] = [*notes_of(findings, False)]
        many = len(notes)
        made.sections = first.shortened([*first_sections(findings), Section("notes", "Notes", notes)], rows or {})
        is_left_out = not any(each.name == "notes" for each in made.sections)
        made.sections.append(first.next_steps(findings, many if is_left_out else 0))
        return made
    made.sections = sections(findings, sizes_shown)
    if only in ("chart", None):
        made.sections.append(Section("chart", "", text="\n\n".join(charts(findings, width))))
    if only is None:
        return made
    chosen = made.only(only)
    return chosen if chosen.sections else Document("", facts="there is nothing to report in this section")


def heading(findings: Findings, is_short: bool = False) -> Document:
    """The study's name, its question, and the facts of the run in a line; short, without how often it was measured."""
    study, run = findings.study, findings.run
    facts = [counted(len(study.contenders), "contender"), counted(len(study.families), "family", "families")]
    if run.sizes:
        low, high = run.sizes[0], run.sizes[-1]
        ends = numbers.size(low) if low == high else f"{numbers.size(low)} … {numbers.size(high)}"
        left_out = f", {counted(len(run.left_out), 'size')} in between left out" if run.left_out else ""
        facts.append(f"{axis_of(findings)} = {ends}{left_out}")
    if study.second_values:
        low, high = study.second_values[0], study.second_values[-1]
        facts[-1] += f", {study.names[1]} = {numbers.size(low)} … {numbers.size(high)}"
    if run.rounds and not is_short:
        facts.append(f"{counted(run.rounds, 'heat')} in {counted(run.processes, 'process', 'processes')}")
    if run.elapsed is not None:
        facts.append(_ended(findings))
    if run.noise:
        others, stolen, busy = run.others or 0.0, run.stolen or 0.0, ""
        if others >= OTHERS_QUIET:
            who = "other programs and its host" if stolen >= OTHERS_QUIET else "other programs"
            busy = f": {who} had {100 * others:.0f} % of the time, which is taken off"
        elif stolen >= OTHERS_QUIET:
            busy = f": its host took {100 * stolen:.0f} % of the time"
        facts.append(f"machine {run.noise}{busy}")
    if run.reason == "interrupted":
        facts.append("interrupted")
    return Document(words.name(study.name), study.question, " · ".join(facts))


def _ended(findings: Findings) -> str:
    """How long it took, and whether everything was settled by then."""
    run = findings.run
    took = numbers.span(run.elapsed or 0.0)
    if run.budget is None or run.reason != "finished":
        return took
    if run.too_few:
        return f"too few trials for verdicts in {took}"
    if run.settled is None:
        return took
    if not run.settled:
        return f"budget of {numbers.span(run.budget)} used up: {counted(len(run.unsettled), 'question')} open"
    untold = len(run.untold) + len(run.orders_untold)
    if not untold:
        return f"all settled after {took}"
    if run.untold:
        return f"settled after {took} but for {counted(untold, 'question')} that cannot be answered here"
    return f"settled after {took} but for {counted(untold, 'order')} that cannot be told apart here"


def first_sections(findings: Findings) -> list[Section]:
    """The sections of the first screen, in the order of reading."""
    small, left = first_look(findings)
    main, counts = apart(small)
    whole = apart(findings)[0]
    several = len(findings.study.families) > 1
    on_map = {each.name: each for each in maps.sections(findings)} if findings.study.names else {}
    short = Section("answer", "", list(_others(left)), [answers(whole, is_short=True)], tables_first=True)
    answer = on_map.get("answer", short)
    alone = answer.is_empty and not findings.mixes
    growth_lines = [*first.growth_in_short(main, several)]
    if counts is not None:
        growth_lines += first.growth_in_short(counts, several)
    return [
        workload.section(findings),
        changes.section(findings, False),
        versions.section(findings),
        *operations.sections(findings),
        answer,
        Section("costs", "", tables=[first.costs_in_short(main)] if alone else []),
        Section("growth", "", growth_lines),
        on_map.get("ratios", Section("ratios", "")),
        Section("crossovers", "Crossovers", [*_overtakings(main)]),
        Section("choice", "Choice", [*best_values(main), *choices(main)]),
        Section("breakeven", "Break-even: uses after which a dearer build is repaid", tables=[breakeven(small)]),
        Section("startup", "Start-up", [*_startups(main), *_warm_ups(main)]),
        Section("lines", "Where the growth is", list(culprits(findings.lines))),
        Section("inputs", "Fresh and repeated inputs", list(_learned(main))),
        Section("failures", "Failures", [failure(each, findings) for each in findings.failures]),
    ]


def sections(findings: Findings, sizes_shown: int = 8) -> list[Section]:
    """Everything there is, in the order of reading.

    Args:
        findings: what was found.
        sizes_shown: how many sizes a table has room for.
    """
    head = maps.sections(findings) if findings.study.names else None
    return sections_of(
        workload.section(findings),
        changes.section(findings, True),
        versions.section(findings),
        *operations.sections(findings),
        *(_on_one_size(findings, sizes_shown) if head is None else head),
        Section("failures", "Failures", [failure(each, findings) for each in findings.failures]),
        Section("notes", "Notes", list(notes_of(findings, True))),
        Section("machine", "Machine", list(machine_said(findings)), is_small=True),
    )


def _on_one_size(findings: Findings, sizes_shown: int) -> list[Section]:
    """The sections of a study of one size, but for those that every report has."""
    main, counted = apart(findings)
    return [
        Section("answer", "", tables=[answers(main, is_short=True)]),
        Section("crossovers", "Crossovers", list(_overtakings(main))),
        Section("choice", "Choice", [*best_values(main), *choices(main)]),
        Section(
            "breakeven",
            "Break-even: after how many uses a dearer build is repaid",
            tables=[breakeven(findings, True)],
        ),
        Section("startup", "Start-up", [*_startups(findings), *_warm_ups(findings)]),
        Section("growth", "Growth", list(growth_details(main)), [growth(main)], tables_first=True),
        *_ratios_and_costs(main, sizes_shown),
        *([_counts(counted, sizes_shown)] if counted is not None else []),
        _lines(findings),
        Section("inputs", "Fresh and repeated inputs", list(_learned(findings))),
        Section("native", "Calls into compiled code", tables=[native(findings)]),
    ]


def _others(left: int) -> Iterator[str]:
    """How many contenders of a crowd are not among the tables."""
    if left:
        yield f"{left} other contenders are left out below: logarithm report --all has them"


def apart(findings: Findings) -> tuple[Findings, Findings | None]:
    """Times, and what was counted; where there is only one of them, that and None."""
    parts = [
        msgspec.structs.replace(
            findings,
            **{
                name: [each for each in getattr(findings, name) if (each.metric in TIMED) is timed]
                for name in ("growth", "crossovers", "standings", "pairs", "safe_choice", "cutoffs", "claims", "costs")
            },
        )
        for timed in (True, False)
    ]
    times, counted = parts
    return (times, counted) if times.costs and counted.costs else (findings, None)


def _counts(findings: Findings, sizes_shown: int) -> Section:
    """What was counted: who has the fewest, the formulas, where one overtakes another."""
    tables = [answers(findings), growth(findings), *costs(findings, sizes_shown)]
    lines: list[Line] = [*_overtakings(findings), *growth_details(findings)]
    return Section("counts", "Counts", lines, tables, tables_first=True)


def _lines(findings: Findings) -> Section:
    """Which line each contender's growth comes from, and all lines."""
    return Section("lines", "Where the growth is", list(culprits(findings.lines)), line_tables(findings.lines))


def _ratios_and_costs(findings: Findings, sizes_shown: int) -> Iterator[Section]:
    fast = ratios(findings, sizes_shown) if findings.study.baseline else []
    dear = costs(findings, sizes_shown)
    if fast:
        base = words.said(findings.study.baseline or "")
        yield Section("ratios", f"How many times as fast as {base}", tables=[*fast, *ratio_details(findings)])
    if dear:
        yield Section("costs", "Cost of a call", tables=[*dear, *per_item(findings)])


def _overtakings(findings: Findings) -> Iterator[str]:
    """Crossovers in sentences: those between leaders first, measured before forecast."""
    leaders = {(each.family, each.stage, each.metric, each.cheapest) for each in findings.standings}

    def rank(each: object) -> tuple[bool, bool]:
        names = (getattr(each, "before", ""), getattr(each, "after", ""))
        where = tuple(getattr(each, key) for key in ("family", "stage", "metric"))
        return getattr(each, "basis", "") == "forecast", not all((*where, name) in leaders for name in names)

    for crossover in sorted(findings.crossovers, key=rank):
        yield overtaking(crossover, axis_of(findings))


def failure(found: FailureFinding, findings: Findings) -> str:
    """A failure in a sentence."""
    works = f"works up to {numbers.size(found.works)}, then " if found.works is not None else ""
    detail = f" ({found.detail})" if found.detail else ""
    where = spot_of(findings, found.size, found.second)
    return f"{words.said(found.contender)} on {words.said(found.family)}: {works}{found.reason} at {where}{detail}"


def _startups(findings: Findings) -> Iterator[str]:
    """How long commands take to start, and from where on they lead, with and without that."""
    axis = axis_of(findings)
    for contender in dict.fromkeys(each.contender for each in findings.startups):
        own = [each for each in findings.startups if each.contender == contender]
        name = words.said(contender)
        yield f"{name} starts in {units.unit_for([own[0].seconds]).show(own[0].seconds, 2)}, which is part of each call"
        for each in own:
            if each.size is None and each.kept is None:
                continue
            where = f"{words.said(each.over)} on {words.said(each.family)}"
            kept = (
                "" if each.kept is None else f"from {axis} = {numbers.crossing(each.kept)} on if it were kept running"
            )
            if each.size is None:
                yield f"{name} is never ahead of {where}, but would be {kept}"
            else:
                told = f"{name} is ahead of {where} from {axis} = {numbers.crossing(each.size)} on"
                yield f"{told}, {kept}" if kept else told


def _warm_ups(findings: Findings) -> Iterator[str]:
    """What a new process costs before it is at full speed, and after how many calls that is repaid."""
    for each in findings.warmups:
        name, span = words.said(each.contender), units.unit_for([each.seconds]).show(each.seconds, 2)
        extra = units.unit_for([each.extra]).show(each.extra, 2)
        told = f"{name} is at full speed after {span} of calls; its first calls cost {numbers.times(each.cold)} as much"
        if each.repaid is None or each.over is None or each.at is None:
            yield f"{told}, {extra} in all"
        else:
            over, at = words.said(each.over), f"{axis_of(findings)} = {numbers.size(each.at)}"
            calls = counted(max(1, round(each.repaid)), "call")
            yield f"{told}, {extra} in all, which is repaid against {over} at {at} after {calls}"


def _learned(findings: Findings) -> Iterator[str]:
    """Where repeating one input would have misled, and what that would do to the crossovers."""
    axis = axis_of(findings)
    for each in findings.repeated_inputs:
        where = f"{axis} = {numbers.size(each.size)} on {place_said((each.family, each.stage, 'time'))}"
        cheaper = f"{words.said(each.contender)} is {numbers.times(each.ratio)} cheaper at {where}"
        yield f"{cheaper} if one input is repeated: the processor has learnt it"
    for cross in findings.crossovers:
        if cross.repeated is not None and cross.basis == "measured":
            pair = f"{words.said(cross.after)} overtaking {words.said(cross.before)}"
            where = place_said(cross.place)
            at, true = numbers.crossing(cross.repeated), numbers.crossing(cross.size)
            yield f"repeated inputs would show {pair} on {where} at {axis} = {at}, not {true}"
