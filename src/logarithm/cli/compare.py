"""Commands that compare: two contenders in depth, and two or more logbooks."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError
from .common import LogbookArgument, findings_of, results, tell

if TYPE_CHECKING:
    from ..logbook.reading import Logbook
    from ..statistics.logbooks.contrast import Change


def crossover(
    logbook: LogbookArgument = None,
    contenders: Annotated[
        list[str] | None, typer.Argument(metavar="[A B]", help="Two contenders, or one against all others.")
    ] = None,
    only: Annotated[
        list[str] | None, typer.Option("--only", help="Only pairs with this contender; may be repeated.")
    ] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
) -> None:
    """Two contenders in depth: every crossover, who leads where, the ratio at each size."""
    from ..api.depth import pairs_in_depth
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    read = read_logbook(newest() if logbook is None else logbook)
    console = results()
    for pair in pairs_in_depth(read, [*(only or []), *(contenders or [])], family or ()):
        console.print(pair)
        console.print()


def contrast(
    logbooks: Annotated[list[Path], typer.Argument(metavar="BEFORE AFTER…", help="Two logbooks, or more in order.")],
    fail_on_slower: Annotated[
        str | None,
        typer.Option("--fail-on-slower", metavar="SHARE", help="Exit with 1 where a real slowdown exceeds this."),
    ] = None,
    anyway: Annotated[bool, typer.Option("--anyway", help="Compare even where the machines differ.")] = False,
) -> None:
    """What changed between two logbooks, and is the change real? More than two: each step of the way."""
    from ..logbook.reading import read_logbook

    if len(logbooks) < 2:
        raise LogarithmError("name two logbooks at least: logarithm contrast BEFORE AFTER")
    share = None if fail_on_slower is None else _share(fail_on_slower)
    read = [read_logbook(path) for path in logbooks]
    for before, after in pairwise(read):
        _weigh(before, after, anyway)
    changes = _two(read[0], read[1]) if len(read) == 2 else _several(read)
    slower = [change for change in changes if share is not None and change.is_slower_than(share)]
    if share is not None and slower:
        at = slower[0].slower_by(share)
        where = f"{slower[0].contender} on {slower[0].family}" + (f" at {at:g}" if at else "")
        more = f", and {len(slower) - 1} more" if len(slower) > 1 else ""
        tell(f"exit code 1: {where} is slower by more than {100 * share:g} %, beyond noise and luck{more}")
        raise typer.Exit(1)


def _two(before: Logbook, after: Logbook) -> list[Change]:
    from ..report.text.depth import contrasted
    from ..statistics.analyse import analyse
    from ..statistics.logbooks.contrast import contrast as compare

    changes, moved = compare(before, after, (analyse(before), analyse(after)))
    axis = "n" if before.study.axis == "size" else before.study.axis
    results().print(contrasted(changes, moved, (before.path.stem, after.path.stem), axis))
    return changes


def _several(read: list[Logbook]) -> list[Change]:
    """The ladder of improvements. Returns the changes from the first logbook to the last."""
    from ..report.contents.sentences import place
    from ..report.text.depth import steps_table
    from ..statistics.analyse import analyse
    from ..statistics.logbooks.contrast import contrast as compare

    found = [analyse(each) for each in read]
    last: list[Change] = []
    table: dict[tuple[str, str, str | None, str], list[tuple[Change | None, Change | None]]] = {}
    for at in range(1, len(read)):
        last, _ = compare(read[0], read[at], (found[0], found[at]))
        step, _ = compare(read[at - 1], read[at], (found[at - 1], found[at]))
        by_key = {(each.contender, each.family, each.stage, each.metric): each for each in step}
        for change in last:
            key = change.contender, change.family, change.stage, change.metric
            row = table.setdefault(key, [(None, None)] * (len(read) - 1))
            row[at - 1] = change, by_key.get(key)
    rows = [(key[0], place(key[1:]), cells) for key, cells in table.items()]
    results().print(steps_table([each.path.stem for each in read[1:]], rows))
    return last


def _weigh(before: Logbook, after: Logbook, anyway: bool) -> None:
    """Refuse, or warn, where two logbooks do not belong together."""
    from ..statistics.logbooks.contrast import differences

    refuse, care = differences(before, after)
    if refuse and not anyway:
        raise LogarithmError(
            f"{before.path} and {after.path} are not alike: {'; '.join(refuse)}. Say --anyway to compare them"
        )
    for reason in [*refuse, *care]:
        tell(f"warning: {reason}")


def _share(text: str) -> float:
    """A share such as 10% or 0.1."""
    try:
        value = float(text.rstrip("% ")) / (100 if text.rstrip().endswith("%") else 1)
    except ValueError:
        value = -1.0
    if not 0 <= value < 100:
        raise LogarithmError(f"--fail-on-slower {text} is not a share: write for example 10%")
    return value


def across(
    logbooks: Annotated[list[Path], typer.Argument(metavar="LOGBOOK…", help="Logbooks of one study, two at least.")],
) -> None:
    """What holds on several machines, or under several interpreters: each by itself, and all together."""
    if len(logbooks) < 2:
        raise LogarithmError("name two logbooks at least, each of another machine or interpreter")
    print_across(logbooks)


def print_across(logbooks: list[Path]) -> None:
    """The findings of several logbooks side by side, on standard output."""
    from ..report.text.across import render

    named = [(machine_of(path), findings_of(path)) for path in logbooks]
    studies = {findings.study.name for _, findings in named}
    if len(studies) > 1:
        raise LogarithmError(f"these are logbooks of different studies: {', '.join(sorted(studies))}")
    results().print(render(named))


def machine_of(path: Path) -> str:
    """What a machine is called by: the name of its logbook, without what all have."""
    return path.stem
