"""What changed between logbooks, and what holds on several machines, as documents."""

from __future__ import annotations

from collections.abc import Iterator

from ...errors import counted
from ...notation import numbers, words
from ...notation.orders import pretty
from ...notation.places import Key
from ...notation.words import place, place_said
from ...results.logbooks.across import Across, Overtaking
from ...results.logbooks.contrast import SAME, Change, Contrast, Contrasts
from .. import units
from ..document import BAD, DIM, VERDICTS, Document, Line, Section, Span, Table, sections_of, told
from .findings.special.changes import moved_said
from .verdicts import broken_said

SIZES_SHOWN = 8
UNKNOWN = "not known"
NUMBERS = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten"}


def contrast(found: Contrast) -> Document:
    """What changed between two logbooks: sentences, then the ratio at each size."""
    lines: list[Line] = [Span(broken_said(each), BAD) for each in found.broken]
    lines += [Span(changed(change), VERDICTS.get(change.verdict, "")) for change in found.changes]
    lines += [moved_said(each, found.axis) for each in found.moved]
    table = Table(("contender", "family", found.axis, "ratio", "95 %", "difference"))
    for change in found.changes:
        for number, at in enumerate(units.evenly(len(change.sizes), SIZES_SHOWN)):
            row = change.sizes[at]
            names = (words.name(change.contender), place(change.place)) if number == 0 else ("", "")
            low, high = numbers.number(row.ratio.low), numbers.number(row.ratio.high)
            clear = "clear" if row.is_clear else Span("within noise", DIM)
            table.rows.append(
                (*names, numbers.size(row.size), numbers.number(row.ratio.value), f"{low} to {high}", clear)
            )
    by_size = Section("sizes", "By size, cost after over cost before", tables=[table])
    return Document(f"{found.names[0]} → {found.names[1]}", sections=[told(lines), by_size])


def contrasts(found: Contrasts) -> Document:
    """A series of logbooks: each step against the first and against the one before."""
    rows: dict[Key, list[Line]] = {}
    for at, (first, step) in enumerate(zip(found.against_first, found.steps, strict=True)):
        last = {each.key: each for each in step.changes}
        for change in first.changes:
            key = change.key
            row = rows.setdefault(key, [units.NOTHING] * len(found.steps))
            before = last.get(key)
            row[at] = f"{_marked(change)} · {units.NOTHING if before is None else _marked(before)}"
    table = Table(("contender", "family", *found.names[1:]), foot="≈ no difference seen; the others are real")
    table.rows = [(words.name(key[0]), place(key[1:]), *cells) for key, cells in rows.items()]
    title = "Cost against the first · against the one before"
    return Document("", sections=[Section("steps", title, tables=[table])])


def changed(change: Change) -> str:
    """A change in a sentence; where sizes differ, at both ends, and not as one mean."""
    who = f"{words.said(change.contender)} on {place_said(change.place)}"
    clear = [each for each in change.sizes if each.is_clear]
    signs = {each.ratio.value > 1 for each in clear}
    overall = change.overall
    if len(signs) > 1:
        ends = [f"{numbers.changed(each.ratio.value)} at {numbers.size(each.size)}" for each in (clear[0], clear[-1])]
        sentence = f"{who}: {' and '.join(ends)}"
    elif change.verdict == SAME:
        ends = [numbers.changed(end) for end in (overall.low, overall.high)]
        sentence = f"{who}: no difference seen ({ends[0]} to {ends[1]})"
    else:
        low, high = (numbers.number(end, 3) for end in (overall.low, overall.high))
        sentence = f"{who}: {numbers.changed(overall.value)} over all sizes (cost {low} to {high} times)"
    if change.is_new_order:
        sentence += f"; its order changed from {pretty(change.before or '')} to {pretty(change.after or '')}"
    return sentence


def _marked(change: Change) -> str:
    return f"{'≈ ' if change.verdict == SAME else ''}{numbers.changed(change.overall.value)}"


def across(found: Across) -> Document:
    """What holds on several machines: a row for each, then where one overtakes another, and who leads on all."""
    table = Table(("machine", "processor", "python", "noise", "settled"))
    for name, findings in found.findings.items():
        about, run = findings.machine, findings.run
        settled = UNKNOWN if run.settled is None else "yes" if run.settled else "no"
        facts = (str(about.get(key) or UNKNOWN) for key in ("processor", "python"))
        table.rows.append((name, *facts, run.noise or UNKNOWN, settled))
    sentences = list(_sentences(found)) or ["no crossover was measured on any of them"]
    title = f"{words.name(found.study)} · {counted(len(found.findings), 'machine')}"
    broken = Section("broken", "", [Span(broken_said(each), BAD) for each in found.broken])
    return Document(title, sections=sections_of(Section("machines", "", tables=[table]), told(sentences), broken))


def _sentences(found: Across) -> Iterator[str]:
    many = len(found.findings)
    for each in found.overtaking:
        yield _overtaking(each, many)
    for lead in found.leading:
        span = f"n = {numbers.size(lead.start)}" + ("" if lead.start == lead.end else f" to {numbers.size(lead.end)}")
        where = place_said((lead.family, lead.stage, "time"))
        yield f"{words.said(lead.leader)} leads on all machines at {span} on {where}"


def _overtaking(each: Overtaking, many: int) -> str:
    parts = []
    for size, machines in each.places:
        where = "all machines" if len(machines) == many else _many(machines)
        parts.append(f"at n = {numbers.crossing(size)} on {where}")
    if each.without:
        parts.append(f"not within the sizes measured on {_many(each.without)}")
    sentence = f"{words.said(each.after)} overtakes {words.said(each.before)} {', '.join(parts)}"
    return f"{sentence} ({place_said((each.family, each.stage, 'time'))})"


def _many(machines: list[str]) -> str:
    if len(machines) < 2:
        return machines[0]
    return f"{NUMBERS.get(len(machines), str(len(machines)))} machines"
