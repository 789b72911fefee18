"""A walk as a document: what a contender does on one small instance, an event a line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ...counting.walk.event import Event
from ...counting.walk.pictures import in_words
from ...notation import numbers, words
from ...results.tasks.walk import Call, Walk
from ..document import BAD, DIM, SEEN, Document, Line, Section, Span, Table, told

LINES_MOST = 200
QUIET = ("set",)
FRAME = ("begin", "call", "return", "raise", "pass")  # kinds of events of the call itself, not of its items
SIDE_BY_SIDE_MOST = 3
FOLDED_LEAST = 4
LOOKING = ("read", "compare", "look up")  # kinds of events that change nothing
PLURALS = {"compare": "comparisons", "look up": "look-ups"}


@dataclass(frozen=True, slots=True)
class Choice:
    """Which events are shown.

    Attributes:
        only: kinds of events, all where there is none; small variables that are set are left out, unless nothing else
            happens.
        begin, end: the first and the last number.
        most: how many lines.
        fold: whether a stretch of four and more reads or comparisons that change nothing is one line.
        view: "events", or the "calls" of functions as a tree.
    """

    only: tuple[str, ...] = ()
    begin: int = 1
    end: int | None = None
    most: int = LINES_MOST
    fold: bool = True
    view: str = "events"


EVERYTHING = Choice()


@dataclass(frozen=True, slots=True)
class Shown:
    """An event with its number, the variables after it, and how many like it follow that are not shown."""

    number: int
    event: Event
    variables: dict[str, list[Any]]
    more: int = 0


def title_of(found: Walk) -> str:
    """What a walk is called."""
    return f"{words.name(found.contender)} on {words.name(found.family)}, n = {found.size}"


def chosen(found: Walk, choice: Choice = EVERYTHING) -> list[Shown]:
    """The events that are to be shown."""
    there = kinds_of(found)
    kinds = {each.rstrip("s") if each.rstrip("s") in there else each for each in choice.only}
    quiet = set() if {each.kind for each in found.events} <= {*QUIET, *FRAME} else set(QUIET)
    variables: dict[str, list[Any]] = {}
    scope = 0
    rows: list[Shown] = []
    for number, event in enumerate(found.events, start=1):
        variables = dict(variables) if event.scope == scope else {}
        scope = event.scope
        for name, state in event.changed.items():
            if state is None:
                variables.pop(name, None)
            else:
                variables[name] = state
        wanted = event.kind in kinds if kinds else event.kind not in quiet
        if wanted and number >= choice.begin and (choice.end is None or number <= choice.end):
            rows.append(Shown(number, event, variables))
    return folded(rows) if choice.fold else rows


def kinds_of(found: Walk) -> list[str]:
    """The kinds of events there are, in the order in which they first appear."""
    return list(dict.fromkeys(each.kind for each in found.events))


def folded(rows: list[Shown]) -> list[Shown]:
    """Long stretches of one kind that change nothing, as their first event and the number of the others."""
    made: list[Shown] = []
    at = 0
    while at < len(rows):
        end = at + 1
        kind, scope = rows[at].event.kind, rows[at].event.scope
        while end < len(rows) and kind in LOOKING and (rows[end].event.kind, rows[end].event.scope) == (kind, scope):
            end += 1
        if end - at >= FOLDED_LEAST:
            last = rows[end - 1]
            made += [rows[at], Shown(last.number, last.event, last.variables, end - at - 1)]
        else:
            made += rows[at:end]
        at = end
    return made


def walk(found: Walk, choice: Choice = EVERYTHING) -> Document:
    """The events of a walk, a line each, with what was worked on after it and tallies running along."""
    if choice.view == "calls":
        return calls(found)
    rows, names = chosen(found, choice), tallied(found.events)
    side = side_by_side(found)
    table = Table(("", "line", "event", *(side or ["after it"]), *names), whole=("line",), foot=" ")
    for row in rows[: choice.most]:
        event = row.event
        indent = "  " * min(event.depth, 8)
        counts = [str(event.tallies.get(name, 0)) for name in names]
        if row.more:
            text = Span(f"{indent}… {row.more} more {PLURALS.get(event.kind, f'{event.kind}s')}", DIM)
            table.rows.append((str(row.number), "", text, *("" for _ in side or [""]), *counts))
            continue
        what = Span(f"{indent}{event.what}", tone_of(event))
        after = [cells_of(row, name) for name in side] or [state_of(row)]
        table.rows.append((str(row.number), str(event.line), what, *after, *counts))
    lines: list[Line] = []
    if len(rows) > choice.most:
        left = numbers.whole(len(rows) - choice.most)
        lines.append(Span(f"… {left} more lines: see them with --most, --from and --to, or --out walk.html", DIM))
    elif found.cut:
        lines.append(Span(f"… and more: a walk keeps {numbers.whole(len(found.events))} events", DIM))
    if not found.events:
        lines.append("nothing was seen: its text cannot be read, or all of it happens in compiled code")
    total = total_of(found)
    end = Span(end_of(found), BAD if found.failure else "")
    lines.append((end, f"; in all {total}" if total else ""))
    return Document(title_of(found), sections=[Section("events", "", tables=[table]), told(lines)])


def end_of(found: Walk) -> str:
    """How a walk ended, in words."""
    if not found.failure:
        return f"answers {found.answer}"
    last = next((event for event in reversed(found.events) if event.kind == "raise"), None)
    if last is None:
        return f"no answer: {found.failure}"
    return f"no answer: line {last.line} raised {found.failure}"


def tone_of(event: Event) -> str:
    """How an event is shown."""
    if event.kind == "raise":
        return BAD
    return DIM if event.kind in (*QUIET, *FRAME) else SEEN if event.kind in LOOKING else ""


def calls(found: Walk) -> Document:
    """The call tree of a walk, a call a line; those that ask what was asked before are told."""
    made = found.calls()
    met: set[str] = set()
    lines: list[Line] = []
    for call, depth in zip(made, depths(made), strict=True):
        answer = f" → {call.answer}" if call.end is not None and call.answer else ""
        again = Span("  again", SEEN) if call.words in met else ""
        met.add(call.words)
        if len(lines) < LINES_MOST:
            lines.append(("  " * depth, call.words, Span(answer, DIM), again))
    if len(made) > LINES_MOST:
        lines.append(Span(f"… {numbers.whole(len(made) - LINES_MOST)} more calls", DIM))
    lines.append((calls_told(made), "; ", Span(end_of(found), BAD if found.failure else "")))
    return Document(title_of(found), sections=[told(lines)])


def calls_told(made: Sequence[Call]) -> str:
    """How many calls there were, and how many different ones."""
    other = len({call.words for call in made})
    said = f"{numbers.whole(len(made))} call{'s' if len(made) != 1 else ''}"
    return said if other == len(made) else f"{said}, {numbers.whole(other)} of them different"


def depths(made: Sequence[Call]) -> list[int]:
    """How many calls lie above each."""
    found: list[int] = []
    for call in made:
        found.append(0 if call.parent is None else found[call.parent] + 1)
    return found


def side_by_side(found: Walk) -> list[str]:
    """The containers that are worked on in turn, each to have a column of its own; none where there is only one."""
    names = list(dict.fromkeys(name for event in found.events for name in event.touched))
    return names if 1 < len(names) <= SIDE_BY_SIDE_MOST else []


def cells_of(row: Shown, name: str) -> Line:
    """One container after an event, the places that were touched marked; nothing where it is not there."""
    if name not in row.variables:
        return ""
    tone = SEEN if row.event.kind in LOOKING else BAD
    return tuple(in_cells(row.variables[name], row.event.touched.get(name, []), tone))


def total_of(found: Walk) -> str:
    """What was counted in all, in words."""
    last = found.events[-1].tallies if found.events else {}
    names = tallied(found.events)
    return ", ".join(counted(last[name], name) for name in names)


def state_of(row: Shown) -> Line:
    """What an event was about, after it: the container with the places that were touched marked."""
    names = [name for name in row.event.touched if name in row.variables]
    if not names and row.event.kind in ("begin", "call"):
        names = [name for name, state in row.variables.items() if state[0] != "value"][:1]
    made: list[str | Span] = []
    for number, name in enumerate(names):
        made.append("   " if number else "")
        if len(names) > 1 or row.event.kind == "begin":
            made.append(Span(f"{name} ", DIM))
        tone = SEEN if row.event.kind in LOOKING else BAD
        made += in_cells(row.variables[name], row.event.touched.get(name, []), tone)
    return tuple(made)


def in_cells(state: Sequence[Any], touched: Sequence[Any], tone: str) -> list[str | Span]:
    """A container in a line, the touched places in brackets and a tone."""
    kind, inside = state
    made: list[str | Span] = []

    def add(cell: str, is_touched: bool, is_first: bool) -> None:
        made.append("" if is_first else " ")
        made.append(Span(f"[{cell}]", tone) if is_touched else cell)

    if kind == "rows":
        marked = {tuple(each) for each in touched if isinstance(each, list)}
        for r, row in enumerate(inside):
            made.append(" / " if r else "")
            for c, cell in enumerate(row):
                add(cell, (r, c) in marked, c == 0)
    elif kind in ("cells", "heap", "letters", "chain"):
        between = " → " if kind == "chain" else ""
        for at, cell in enumerate(inside):
            made.append(between if at else "")
            add(cell, at in touched or cell in touched, at == 0 or bool(between))
    elif kind == "pairs":
        for at, (key, value) in enumerate(inside):
            add(f"{key}: {value}", key in touched, at == 0)
    else:
        made.append(in_words(list(state)))
    return made or [Span("empty", DIM)]


def counted(number: int, name: str) -> str:
    """How often something was done, with its name."""
    return f"{numbers.whole(number)} {one_or_more(number, name)}"


def one_or_more(number: int, name: str) -> str:
    """The name of what was counted, of one of it without its plural s.

    >>> one_or_more(1, "writes"), one_or_more(2, "hashes"), one_or_more(1, "hashes")
    ('write', 'hashes', 'hash')
    """
    return name if number != 1 else {"hashes": "hash"}.get(name, name.removesuffix("s"))


def tallied(events: Sequence[Event]) -> list[str]:
    """The names of what was counted, in the order in which they first appear."""
    return list(dict.fromkeys(name for event in events for name in event.tallies))
