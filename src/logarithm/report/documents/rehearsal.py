"""What a rehearsal found, and what a machine can resolve, as documents."""

from __future__ import annotations

from ...errors import counted
from ...notation import numbers, words
from ...results.tasks.machine import OTHERS_BUSY, Conditions, RepeatedBias
from ...results.tasks.rehearsal import Estimate, Rehearsal
from .. import units
from ..document import BAD, Document, Line, Section, Span, Table, sections_of, told


def rehearsal(found: Rehearsal) -> Document:
    """Whether the answers agree, failures, traps, how far each will get, how long it will take."""
    failures: list[Line] = [
        f"{words.name(each.contender)} on {words.name(each.family)}: {each.reason} at {numbers.size(each.size)}"
        + (f" ({each.detail})" if each.detail else "")
        for each in found.failures
    ]
    traps: list[Line] = [f"{words.name(trap.contender)}: {trap.text}" for trap in found.traps]
    made = [
        Section("answers", "", [str(each) for each in found.disagreements]),
        Section("failures", "Failures", failures),
        Section("traps", "Traps", traps),
        Section("estimates", "How far each will get", tables=[_estimates(found.estimates, found.axis)]),
        told(_time_needed(found) if found.estimates else []),
    ]
    return Document(Span(_verdict(found), "" if found.agrees else BAD), sections=sections_of(*made))


def _verdict(found: Rehearsal) -> str:
    if not found.agrees:
        return "The answers disagree."
    if not found.compared:
        return "No answers were compared: there is only one contender that answers."
    judged = "judged by the referee" if found.is_judged else "compared"
    most = f"sizes up to {numbers.size(found.largest)}" if found.largest is not None else "no size"
    return f"The answers agree ({counted(found.compared, 'instance')} {judged}, {most})."


def _time_needed(found: Rehearsal) -> list[Line]:
    """How long measuring will take, and how, in sentences."""
    heats = (
        f"about {counted(found.heats, 'heat')}." if found.heats else "no whole heat: the largest sizes are left out."
    )
    return [
        f"One trial of everything takes about {numbers.span(found.heat)}; "
        f"a budget of {numbers.span(found.budget)} gives {heats}",
        f"Most will be settled after about {numbers.span(found.settled)}; "
        "close crossovers and small differences take longer.",
        bias(found.bias),
    ]


def _estimates(rows: list[Estimate], axis: str) -> Table:
    unit = units.unit_for(each.call for each in rows if each.call)
    table = Table(("contender", "family", f"up to {axis}", f"a call there, {unit.name}", "then"))
    for each in rows:
        reach = units.NOTHING if each.reach is None else numbers.size(each.reach)
        call = units.NOTHING if each.reach is None else numbers.number(each.call / unit.size, 2)
        names = words.name(each.contender), words.name(each.family)
        table.rows.append((*names, reach, call, each.stops or "its sizes end"))
    return table


def bias(found: RepeatedBias) -> str:
    """What the processor learns, in a sentence."""
    most = found.most
    if found.until is None:
        return "This processor learns no repeated input that a list of 16 numbers or more would show."
    return (
        f"This processor learns inputs that are repeated, up to a length of about {found.until}: sorting {most.length} "
        f"numbers then looks {numbers.number(most.ratio, 2)} times cheaper than it is. So each trial takes inputs in "
        "turn."
    )


def machine(found: Conditions) -> Document:
    """What the machine can resolve, and the figures behind it."""
    about, clock = found.machine, units.Unit(1e-9, "ns")
    lines: list[Line] = [
        f"A call that does nothing costs {clock.show(found.empty, 2)}; "
        f"one of {clock.show(found.smallest, 2)} or more can be told from it.",
        f"The machine is {found.word}: the same work takes {numbers.number(found.spread, 2)} times as long in a slow "
        "moment as in a quick one.",
        bias(found.bias),
    ]
    if found.others >= 0.01:
        share = f"{100 * found.others:.0f} %"
        whose = "Other programs, or the host of a virtual machine,"
        lines.append(f"{whose} had the processor for {share} of the time; that is taken off each trial.")
    if (found.pressure or 0.0) >= OTHERS_BUSY:
        share = f"{100 * (found.pressure or 0):.0f} %"
        lines.append(f"In the last minute some program waited for a processor for {share} of the time.")
    if found.word != "quiet":
        lines.append("Each trial is compared with the pace around it; a longer --budget helps too.")
    kept = "all processors" if found.processor is None else f"processor {found.processor} of {about.cores}"
    facts = (
        ("clock step", clock.show(about.clock_step or 0.0, 2)),
        ("reading the clock", clock.show(about.clock_cost or 0.0, 2)),
        ("the loop, for each call", clock.show(found.turn, 2)),
        ("processor", about.processor),
        ("contenders run on", kept),
        ("memory", units.unit_for([about.memory], "memory").show(about.memory)),
        ("caches", ", ".join(units.unit_for([each], "memory").show(each, 2) for each in about.caches)),
        ("load", "not known" if about.load is None else f"{about.load:g}"),
        ("system", about.system),
        ("Python", about.python),
    )
    table = Table(None, [(Span(key, ""), value) for key, value in facts], foot=" ")
    return Document("", sections=[told(lines), Section("machine", "", tables=[table])])
