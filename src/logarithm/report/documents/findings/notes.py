"""What else is worth telling of a run: notes, what is open, the machine, how it was measured."""

from __future__ import annotations

from collections.abc import Iterator

from ....errors import counted, named
from ....notation import numbers, words
from ....results.findings import Findings, NoteFinding
from ....results.tasks.machine import SPREAD_QUIET
from ...document import Line, Section
from .sentences import spot_of

STRETCHED = 1.2  # times by the clock what calls cost, from which on it is told

UNSETTLED_MOST = 4

CAUSES = {"ceiling": "a call would take longer than --ceiling allows", "budget": "the budget has no room for it"}


def notes_of(findings: Findings, everything: bool) -> Iterator[str]:
    """What else is worth telling; where sizes ended early is summed up, unless everything is asked for."""
    ended: dict[str, list[NoteFinding]] = {}
    alike: dict[str, list[NoteFinding]] = {}
    for found in findings.notes:
        if found.topic == "sizes" and not everything:
            ended.setdefault(CAUSES.get(found.cause, CAUSES["budget"]), []).append(found)
        else:
            alike.setdefault(found.text, []).append(found)
    for text, group in alike.items():
        yield note(group[0]) if len(group) == 1 else f"{_together(group)}: {text}"
    for why, group in ended.items():
        listed = [f"{words.said(each.contender or '')} on {words.said(each.family or '')}" for each in group]
        sizes = [
            f"{who} before {spot_of(findings, each.size or 0, each.second)}"
            for who, each in zip(listed, group, strict=True)
        ]
        yield f"ended early because {why}: {', '.join(sizes[:4])}" + (
            f" and {len(sizes) - 4} more" if len(sizes) > 4 else ""
        )
    yield from _unsettled(findings, everything)
    yield from findings.warnings
    stretched = max(
        (p.wall / p.typical for each in findings.costs for p in each.points if p.wall and p.typical), default=1
    )
    if stretched >= STRETCHED:
        yield (
            f"by the clock, calls took up to {numbers.number(stretched, 2)} times as long as is told here: other "
            "programs had the processor meanwhile"
        )
    if findings.run.too_busy:
        yield (
            "other programs keep this machine so busy that own time itself spreads: this is no moment for verdicts on "
            "orders, or on small differences. Counts, exact forms and large ratios hold. Close other programs, or let "
            "measure --wait 5m wait for a calmer moment"
        )
    if findings.run.noise == "noisy" and (spread := findings.run.spread or 0.0) >= SPREAD_QUIET:
        left = f"{100 * (findings.run.disturbed or 0):.0f} % of the trials were left out; intervals are wider for it"
        yield f"the machine was noisy: its pace varied by {numbers.number(spread, 2)} ×, and {left}"


def _together(group: list[NoteFinding]) -> str:
    """Whom and what a note is about that is the same in several places, with how many those are."""
    places: dict[str, list[str]] = {}
    for each in group:
        families = places.setdefault(words.said(each.contender or "all"), [])
        if each.family and words.said(each.family) not in families:
            families.append(words.said(each.family))
    told = [name + (f" on {named(families, 3)}" if families else "") for name, families in places.items()]
    several = f" ({len(group)} places)" if len(group) > sum(max(1, len(each)) for each in places.values()) else ""
    return named(told, 4) + several


def _unsettled(findings: Findings, everything: bool) -> Iterator[str]:
    """What is open, and what cannot be told."""
    run = findings.run
    if run.too_few:
        yield "too few trials to say who leads, or where: give a longer --budget, or fewer sizes or contenders"
    for why, names in (
        ("open, and a longer --budget may settle it", run.unsettled),
        ("cannot be told within reach", [*run.untold, *run.orders_untold]),
    ):
        shown = names if everything else names[:UNSETTLED_MOST]
        more = f"; and {len(names) - len(shown)} more" if len(shown) < len(names) else ""
        if shown:
            yield f"{why}: {'; '.join(shown)}{more}"


def note(found: NoteFinding) -> str:
    """A note in a sentence, with whom and what it is about."""
    about = words.said(found.contender) if found.contender else ""
    if found.family:
        about += f" on {words.said(found.family)}"
    if found.second is not None:
        about += f" at {numbers.size(found.second)}"
    return f"{about}: {found.text}" if about else found.text


def machine_said(findings: Findings) -> Iterator[str]:
    """The machine in a line, and the tools that were used."""
    machine = findings.machine
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    if machine.get("cores"):
        facts.insert(1, counted(machine["cores"], "core"))
    if facts:
        yield " · ".join(facts)
    for tool, version in findings.tools.items():
        yield f"{tool}: {version}" if version else tool


def how_measured(findings: Findings) -> Section:
    """How it was measured, for those who ask."""
    run, study = findings.run, findings.study
    lines: list[Line] = []
    if run.created:
        lines.append(f"begun {run.created}" + (f", for {numbers.span(run.elapsed)}" if run.elapsed is not None else ""))
    if run.rounds:
        many = "1 process" if run.processes == 1 else f"up to {run.processes} processes"
        lines.append(f"{run.trials} trials in {counted(run.rounds, 'shuffled heat')}, {many} of each contender")
    if run.noise and run.spread is not None:
        left = f"{100 * (run.disturbed or 0):.0f} % of the trials were left out"
        lines.append(
            f"the machine was {run.noise}: its pace varied by {run.spread:.2f} × (upper over lower decile), and {left}"
        )
    if run.noise and run.others is None:
        lines.append("what other programs had of the processor was not read: wall time stands")
    lines.append("intervals are for 95 %; a lead must be more than 1 %, and clearer than chance makes any of all sizes")
    lines.append(f"logbook: {run.logbook}")
    if study.sha256:
        lines.append(f"study: {study.file}, SHA-256 {study.sha256}")
    return Section("how", "How it was measured", lines)
