"""The history of a cost, as a document: the ladder of steps, and what was skipped."""

from __future__ import annotations

from ...errors import counted, named
from ...notation import numbers, words
from ...notation.orders import pretty
from ...notation.words import place
from ...results.revisions import TODAYS_STUDY
from ...results.tasks.history import History, Step, label_of
from .. import units
from ..document import DIM, VERDICTS, Document, Line, Section, Span, Table, sections_of

SUBJECT_MOST = 44  # letters of what a commit says


def history(found: History) -> Document:
    """A row for each commit that changed something."""
    facts = [
        counted(found.commits, "commit"),
        f"{found.measured} measured",
        f"{found.same} say what the one before says",
    ]
    facts += [f"{len(found.skipped)} skipped"] if found.skipped else []
    facts.append(numbers.span(found.elapsed))
    table = Table(("commit", "date", "subject", "contender", "family", "cost then to now", "95 %", "order"))
    for step in found.steps:
        table.rows.append(
            (
                label_of(step.commit),
                step.date,
                step.subject if len(step.subject) <= SUBJECT_MOST else f"{step.subject[:SUBJECT_MOST]}…",
                words.name(step.contender),
                place(step.place),
                Span(f"{numbers.changed(step.factor)} at {numbers.size(step.size)}", VERDICTS.get(step.verdict, "")),
                f"{numbers.number(step.low)} to {numbers.number(step.high)}",
                _orders(step),
            )
        )
    lines: list[Line] = [f"{label_of(each.commit)} {each.subject}: {each.reason}" for each in found.skipped]
    wide = [
        f"{label_of(step.commit)}: it changed after {label_of(step.since or '')}; a longer --budget narrows it down"
        for step in found.steps
        if step.since is not None
    ]
    if found.inside:
        inside = named([words.said(each) for each in found.inside])
        wide.append(f"{inside} changed in the study's own file, {TODAYS_STUDY}")
    told: list[Line] = [] if found.steps else [Span("no commit changed a cost, as far as can be told", DIM)]
    return Document(
        f"{words.name(found.study)} · {found.revisions}",
        facts=" · ".join(facts),
        sections=sections_of(
            Section("steps", "", [*told, *wide], [table], tables_first=True),
            Section("skipped", "Skipped, since they do not run", lines),
        ),
    )


def _orders(step: Step) -> Line:
    if not step.order_before or not step.order_now:
        return units.NOTHING
    if step.order_before == step.order_now:
        return Span(pretty(step.order_now), DIM)
    return f"{pretty(step.order_before)} → {pretty(step.order_now)}"
