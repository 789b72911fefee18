"""The report as plain sections: sentences and tables of text, which text, Markdown and page each lay out.

All wording is here and in `tables`; nothing is computed, and nothing knows of terminals or markup.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import msgspec

from ...errors import counted
from ...results.findings import FailureFinding, Findings, NoteFinding, Standing
from .. import units
from .crowd import first_look
from .lines import culprits, tables
from .repaying import repaying
from .sentences import Place, axis_of, choices, overtaking, place, place_said
from .tables import Table, breakeven, costs, growth, growth_details, hidden, per_item, places, ratio_details, ratios

LINES_MOST = 8
TIMES = ("time", "cpu")
SAME = 1e-9
UNSETTLED_MOST, EARLY = 4, 0.9
TIE_TOLD = 0.25  # a tie is called equal within a share up to this; beyond it nothing is known
NAMES = (
    *("answer", "crossovers", "choice", "breakeven", "startup", "inputs", "growth", "ratios", "costs", "counts"),
    *("lines", "hidden", "failures", "notes", "machine", "chart"),
)
"""What `--section` may name."""


@dataclass(slots=True)
class Section:
    """A part of the report: sentences first, then tables, or the other way round."""

    name: str
    title: str
    lines: list[str] = field(default_factory=list)
    tables: list[Table] = field(default_factory=list)
    tables_first: bool = False

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to say."""
        return not self.lines and not any(table.rows for table in self.tables)


def heading(findings: Findings) -> tuple[str, str, str]:
    """The study's name, its question, and the facts of the run in a line."""
    study, run = findings.study, findings.run
    facts = [counted(len(study.contenders), "contender"), counted(len(study.families), "family", "families")]
    if run.sizes:
        low, high = run.sizes[0], run.sizes[-1]
        ends = units.size(low) if low == high else f"{units.size(low)} … {units.size(high)}"
        facts.append(f"{axis_of(findings)} = {ends}")
    if run.heats:
        facts.append(f"{counted(run.heats, 'heat')} in {counted(run.lives, 'life', 'lives')}")
    if run.elapsed is not None:
        facts.append(_ended(findings))
    if run.weather:
        facts.append(f"machine {run.weather}")
    if run.reason == "interrupted":
        facts.append("interrupted")
    return units.name(study.name), study.question, " · ".join(facts)


def _ended(findings: Findings) -> str:
    """How long it took, and whether everything was settled by then."""
    run = findings.run
    took = units.span(run.elapsed or 0.0)
    if run.settled is None or run.budget is None or run.reason != "finished":
        return took
    of = f"{took} of {units.span(run.budget)}"
    return f"settled after {of}" if run.settled else f"not settled after {of}"


def sections(findings: Findings, everything: bool = False, sizes_shown: int = 8) -> list[Section]:
    """The sections that a person needs, in the order of reading; or everything there is.

    Args:
        findings: what was found.
        everything: also what is left out of a first look: every line, costs beside ratios, intervals of ratios.
        sizes_shown: how many sizes a table has room for.
    """
    whole, left = findings, 0
    if not everything:
        findings, left = first_look(findings)
    main, counted = apart(findings)
    made = [
        Section("answer", "", list(_others(left)), [answers(apart(whole)[0])], tables_first=True),
        Section("crossovers", "Crossovers", list(_overtakings(main))),
        Section("choice", "Choice", list(choices(main))),
        Section("breakeven", "Break-even", list(repaying(findings)), [breakeven(findings)] if everything else []),
        Section("startup", "Start-up", [*_startups(findings), *_warm_ups(findings)]),
        Section("growth", "Growth", list(growth_details(main)), [growth(main)], tables_first=True),
        *_ratios_and_costs(main, everything, sizes_shown),
        *([_counts(counted, everything, sizes_shown)] if counted is not None else []),
        _lines(findings, everything),
        Section("inputs", "Fresh and repeated inputs", list(_learned(findings))),
        Section("hidden", "Calls into compiled code", tables=[hidden(findings)] if everything else []),
        Section("failures", "Failures", [failure(each, findings) for each in findings.failures]),
        Section("notes", "Notes", list(_notes(findings, everything))),
        Section("machine", "Machine", list(_machine(findings))),
    ]
    for each in made:
        if not everything and each.name != "machine" and len(each.lines) > LINES_MOST:
            left = len(each.lines) - LINES_MOST
            each.lines[LINES_MOST:] = [f"… and {left} more: logarithm report --section {each.name}"]
    return [each for each in made if not each.is_empty]


def _others(left: int) -> Iterator[str]:
    """How many contenders of a crowd are not among the tables."""
    if left:
        yield f"{left} other contenders are left out below: logarithm report --all, or --format json, has them"


def apart(findings: Findings) -> tuple[Findings, Findings | None]:
    """Times, and what was counted; where there is only one of them, that and None."""
    parts = [
        msgspec.structs.replace(
            findings,
            **{
                name: [each for each in getattr(findings, name) if (each.metric in TIMES) is timed]
                for name in ("growth", "crossovers", "standings", "pairs", "safe", "cutoffs", "claims", "costs")
            },
        )
        for timed in (True, False)
    ]
    times, counted = parts
    return (times, counted) if times.costs and counted.costs else (findings, None)


def _counts(findings: Findings, everything: bool, sizes_shown: int) -> Section:
    """What was counted: who has the fewest, the formulas, where one overtakes another."""
    tables = [answers(findings), growth(findings)]
    if everything:
        tables += costs(findings, sizes_shown)
    lines = [*_overtakings(findings), *growth_details(findings)]
    return Section("counts", "Counts", lines, tables, tables_first=True)


def _lines(findings: Findings, everything: bool) -> Section:
    """Which line each contender's growth comes from; all lines for those who ask."""
    found = tables(findings.lines) if everything else []
    return Section("lines", "Where the growth is", list(culprits(findings.lines)), found)


def _ratios_and_costs(findings: Findings, everything: bool, sizes_shown: int) -> Iterator[Section]:
    fast = ratios(findings, sizes_shown) if findings.study.baseline else []
    dear = costs(findings, sizes_shown)
    if fast:
        details = ratio_details(findings) if everything else []
        base = units.said(findings.study.baseline or "")
        yield Section("ratios", f"How many times as fast as {base}", tables=[*fast, *details])
    # Where ratios say it, costs are for those who ask.
    if dear and (everything or not fast):
        yield Section("costs", "Cost of a call", tables=[*dear, *per_item(findings)])


TIED = "cannot be told apart"


def answers(findings: Findings) -> Table:
    """Who leads where, a row a family."""
    table = Table(headings=None)
    if len(findings.study.contenders) < 2:
        return table
    tied = False
    for where, reigns in places(findings.standings).items():
        line = "; ".join(_reign(reign, where, len(reigns) == 1, findings) for reign in reigns)
        never = _never(where, reigns, findings)
        if never:
            line += f"; {units.listed(never, 4)} never {'leads' if len(never) == 1 else 'lead'}"
        # Said in full once; from then on in a word.
        first, told, rest = line.partition(TIED)
        line = first + told + rest.replace(TIED, "tie") if not tied else line.replace(TIED, "tie")
        tied = tied or bool(told)
        table.rows.append((place(where), line))
    return table


def _reign(reign: Standing, where: Place, alone: bool, findings: Findings) -> str:
    everyone = units.listed([reign.leader, *reign.tied], 4)
    who = f"{everyone} {_tie(reign)}" if reign.tied else f"{units.said(reign.leader)} leads"
    here = [point.size for each in places(findings.costs)[where] for point in each.points]
    low, high = min(here), max(here)
    if alone:
        return f"{who} at every size" if low < high else f"{who} at {axis_of(findings)} = {units.size(low)}"
    if reign.start <= low:
        return f"{who} up to {axis_of(findings)} = {units.size(reign.end)}"
    if reign.start == reign.end:
        return f"{who} at {units.size(reign.start)}"
    if reign.end >= high:
        return f"{who} from {units.size(reign.start)} on"
    return f"{who} from {units.size(reign.start)} to {units.size(reign.end)}"


def _tie(reign: Standing) -> str:
    """What is known of contenders that cannot be told apart: by how much they may differ, where that is little."""
    if reign.within is None or reign.within > TIE_TOLD:
        return TIED
    if reign.within < SAME:
        return "are equal"
    return f"are equal within {units.number(100 * reign.within, 2)} %"


def _never(where: Place, reigns: list[Standing], findings: Findings) -> list[str]:
    """Contenders measured there that never lead nor tie for the lead."""
    seen = {name for reign in reigns for name in (reign.leader, *reign.tied)}
    present = [each.contender for each in places(findings.costs)[where]]
    return [name for name in present if name not in seen and name not in findings.study.yardsticks]


def _overtakings(findings: Findings) -> Iterator[str]:
    """Crossovers in sentences: those between leaders first, measured before forecast."""
    leaders = {(each.family, each.stage, each.metric, each.leader) for each in findings.standings}

    def rank(each: object) -> tuple[bool, bool]:
        names = (getattr(each, "before", ""), getattr(each, "after", ""))
        where = tuple(getattr(each, key) for key in ("family", "stage", "metric"))
        return getattr(each, "basis", "") == "forecast", not all((*where, name) in leaders for name in names)

    for crossover in sorted(findings.crossovers, key=rank):
        yield overtaking(crossover, findings)


def failure(found: FailureFinding, findings: Findings) -> str:
    """A failure in a sentence."""
    works = f"works up to {units.size(found.works)}, then " if found.works is not None else ""
    detail = f" ({found.detail})" if found.detail else ""
    where = f"{axis_of(findings)} = {units.size(found.size)}"
    return f"{units.said(found.contender)} on {units.said(found.family)}: {works}{found.reason} at {where}{detail}"


def _startups(findings: Findings) -> Iterator[str]:
    """How long commands take to start, and from where on they lead, with and without that."""
    axis = axis_of(findings)
    for contender in dict.fromkeys(each.contender for each in findings.startups):
        own = [each for each in findings.startups if each.contender == contender]
        name = units.said(contender)
        yield f"{name} starts in {units.unit_for([own[0].seconds]).show(own[0].seconds, 2)}, which is part of each call"
        for each in own:
            if each.size is None and each.kept is None:
                continue
            where = f"{units.said(each.over)} on {units.said(each.family)}"
            kept = "" if each.kept is None else f"from {axis} = {units.crossing(each.kept)} on if it were kept running"
            if each.size is None:
                yield f"{name} is never ahead of {where}, but would be {kept}"
            else:
                told = f"{name} is ahead of {where} from {axis} = {units.crossing(each.size)} on"
                yield f"{told}, {kept}" if kept else told


def _warm_ups(findings: Findings) -> Iterator[str]:
    """What a new process costs before it is at full speed, and after how many calls that is repaid."""
    for each in findings.warmups:
        name, span = units.said(each.contender), units.unit_for([each.seconds]).show(each.seconds, 2)
        extra = units.unit_for([each.extra]).show(each.extra, 2)
        told = f"{name} is at full speed after {span} of calls; its first calls cost {units.times(each.cold)} as much"
        if each.repaid is None or each.over is None or each.at is None:
            yield f"{told}, {extra} in all"
        else:
            over, at = units.said(each.over), f"{axis_of(findings)} = {units.size(each.at)}"
            calls = counted(max(1, round(each.repaid)), "call")
            yield f"{told}, {extra} in all, which is repaid against {over} at {at} after {calls}"


def _learned(findings: Findings) -> Iterator[str]:
    """Where repeating one input would have misled, and what that would do to the crossovers."""
    axis = axis_of(findings)
    for each in findings.learned:
        where = f"{axis} = {units.size(each.size)} on {place_said((each.family, each.stage, 'time'))}"
        cheaper = f"{units.said(each.contender)} is {units.times(each.ratio)} cheaper at {where}"
        yield f"{cheaper} if one input is repeated: the processor has learnt it"
    for cross in findings.crossovers:
        if cross.repeated is not None and cross.basis == "measured":
            pair = f"{units.said(cross.after)} overtaking {units.said(cross.before)}"
            where = place_said((cross.family, cross.stage, cross.metric))
            at, true = units.crossing(cross.repeated), units.crossing(cross.size)
            yield f"repeated inputs would show {pair} on {where} at {axis} = {at}, not {true}"


def _notes(findings: Findings, everything: bool) -> Iterator[str]:
    """What else is worth telling; where ladders ended early is summed up, unless everything is asked for."""
    ended: dict[str, list[NoteFinding]] = {}
    for found in findings.notes:
        if found.topic == "seen":
            continue
        if found.topic == "ladder" and not everything:
            why = "a call would be over the ceiling" if "ceiling" in found.text else "the budget has no room for it"
            ended.setdefault(why, []).append(found)
        else:
            yield note(found)
    for why, group in ended.items():
        listed = [f"{units.said(each.contender or '')} on {units.said(each.family or '')}" for each in group]
        sizes = [
            f"{who} before {axis_of(findings)} = {units.size(each.size or 0)}"
            for who, each in zip(listed, group, strict=True)
        ]
        yield f"ended early because {why}: {', '.join(sizes[:4])}" + (
            f" and {len(sizes) - 4} more" if len(sizes) > 4 else ""
        )
    yield from _unsettled(findings, everything)
    yield from findings.warnings
    if findings.run.weather == "noisy":
        yield (
            f"the machine was noisy: its pace varied by {units.number(findings.run.spread or 0, 2)} ×, and "
            f"{100 * (findings.run.disturbed or 0):.0f} % of the trials were left out; intervals are wider for it"
        )


def _unsettled(findings: Findings, everything: bool) -> Iterator[str]:
    """What is not settled, and why it ended all the same."""
    run = findings.run
    if not run.unsettled or run.elapsed is None or run.budget is None:
        return
    shown = run.unsettled if everything else run.unsettled[:UNSETTLED_MOST]
    more = f"; and {len(run.unsettled) - len(shown)} more" if len(shown) < len(run.unsettled) else ""
    early = run.elapsed < EARLY * run.budget
    why = "more trials within the budget would not settle it" if early else "a longer --budget may settle it"
    yield f"not settled, and {why}: {'; '.join(shown)}{more}"


def note(found: NoteFinding) -> str:
    """A note in a sentence, with whom and what it is about."""
    about = units.said(found.contender) if found.contender else ""
    if found.family:
        about += f" on {units.said(found.family)}"
    return f"{about}: {found.text}" if about else found.text


def _machine(findings: Findings) -> Iterator[str]:
    machine = findings.machine
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    if machine.get("cores"):
        facts.insert(1, counted(machine["cores"], "core"))
    if facts:
        yield " · ".join(facts)
    for tool, version in findings.tools.items():
        yield f"{tool}: {version}" if version else tool
