"""What a walk shows: values as pictures, events that are chosen and folded, containers side by side, figures."""

from __future__ import annotations

import array
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from logarithm.counting.items.counted import counted
from logarithm.counting.walk.follow import followed
from logarithm.counting.walk.pictures import CELLS_MOST, is_small, state
from logarithm.counting.walk.pictures import text as in_short
from logarithm.report.documents.walk import Choice, chosen, side_by_side, total_of, walk
from logarithm.report.figure.walks import draw_walk, save_walk
from logarithm.report.text.terminal import text as as_text
from logarithm.results.tasks.walk import Walk

CODE = """
def merged(ebb, flood):
    made = []
    while ebb and flood:
        if ebb[0] <= flood[0]:
            made.append(ebb.pop(0))
        else:
            made.append(flood.pop(0))
    return made + ebb + flood

def looked(levels, wanted):
    found = 0
    for level in levels:
        found += level == wanted
    return found

def spread(rows):
    rows[1][0] = rows[0][1]
    return rows

def named(levels):
    known = {}
    for level in levels:
        known[level] = known.get(level, 0) + 1
    return known

def counted_down(levels):
    return len(levels) and counted_down(levels[1:])
"""


class Berth:
    def __init__(self, ship: Any, behind: Berth | None = None) -> None:
        self.ship, self.behind = ship, behind


class Mark:
    __slots__ = ("above", "below", "far")

    def __init__(self, far: int, above: Mark | None = None, below: Mark | None = None) -> None:
        self.far, self.above, self.below = far, above, below


def ring() -> Berth:
    first = Berth("a")
    first.behind = Berth("b", first)
    return first


@pytest.mark.parametrize(
    ("value", "seen"),
    [
        ([3, 1.23456], ["cells", ["3", "1.235"]]),
        ([[1, 2], [3]], ["rows", [["1", "2"], ["3"]]]),
        ([], ["cells", []]),
        (deque([1, 2]), ["cells", ["1", "2"]]),
        (array.array("i", [4, 5]), ["cells", ["4", "5"]]),
        ({3, 1}, ["cells", ["1", "3"]]),
        ("tide", ["letters", ["t", "i", "d", "e"]]),
        ("t", ["value", "'t'"]),
        (b"ab", ["cells", ["97", "98"]]),
        ({"ebb": [1]}, ["pairs", [["'ebb'", "[1]"]]]),
        ((1,), ["value", "(1,)"]),
        (None, ["value", "None"]),
        (len, None),
        (iter([1]), None),
        (Berth("a", Berth("b")), ["chain", ["'a'", "'b'"]]),
        (ring(), ["chain", ["'a'", "'b'", "↺"]]),
        (Mark(2, Mark(1), Mark(3)), ["tree", ["2", [["1", []], ["3", []]]]]),
        (Mark(2, Mark(1)), ["tree", ["2", [["1", []], None]]]),
    ],
)
def test_a_value_is_seen_as_what_it_is(value: Any, seen: Any) -> None:
    assert state(value) == seen
    assert state(counted(value)) == seen if not isinstance(value, (Berth, Mark)) else True


def test_large_values_are_cut() -> None:
    assert len(state(list(range(1000)))[1]) == CELLS_MOST  # type: ignore[index]
    assert in_short("x" * 100).endswith("…") and len(in_short("x" * 100)) <= 24
    assert (
        in_short({"a": (1, 2)}) == "{'a': (1, 2)}"
        and in_short(Berth("x")) == "Berth('x')"
        and in_short(object()) == "object"
    )
    assert is_small(["value", "3"]) and not is_small(["cells", ["3"]])


@pytest.fixture(scope="module")
def walked(tmp_path_factory: pytest.TempPathFactory) -> Callable[..., Walk]:
    file = tmp_path_factory.mktemp("shown") / "shown.py"
    file.write_text(CODE)
    made: dict[str, Any] = {}
    exec(compile(CODE, str(file), "exec"), made)  # the test's own text

    def run(name: str, *given: Any) -> Walk:
        found = followed(lambda: made[name](*given), {str(file)})
        source = CODE.splitlines()
        return Walk(name, "any", 3, found.events, repr(found.answer), found.failure, source, 1, found.cut)

    return run


def test_two_containers_stand_side_by_side_with_marks_at_what_was_touched(walked: Callable[..., Walk]) -> None:
    found = walked("merged", counted([1, 4]), counted([2]))
    assert side_by_side(found) == ["ebb", "flood", "made"] or set(side_by_side(found)) >= {"ebb", "flood"}
    written = as_text(walk(found))
    assert written.startswith("merged on any, n = 3") and "answers [1, 2, 4]" in written and "[1]" in written
    assert "comparison" in total_of(found)


def test_looks_that_change_nothing_are_folded(walked: Callable[..., Walk]) -> None:
    found = walked("looked", counted([5, 3, 5, 1, 5, 2]), 5)
    plainly = chosen(found, Choice(only=("compare",), fold=False))
    assert len(plainly) == 6 and all(row.event.kind == "compare" for row in plainly)
    first, rest = chosen(found, Choice(only=("compare",)))
    assert (first.number, rest.more) == (plainly[0].number, 5)
    assert "… 5 more comparisons" in as_text(walk(found, Choice(only=("compares",))))
    assert chosen(found, Choice(begin=2, end=3, fold=False))[-1].number <= 3
    short = as_text(walk(found, Choice(most=1, fold=False)))
    assert "more lines: see them with --most, --from and --to" in short


def test_rows_pairs_and_calls_are_told(walked: Callable[..., Walk]) -> None:
    assert "[2]" in as_text(walk(walked("spread", counted([[1, 2], [3, 4]]))))
    assert "3: 1" in as_text(walk(walked("named", counted([3, 1, 3]))))
    tree = as_text(walk(walked("counted_down", [7, 8]), Choice(view="calls")))
    assert "counted_down(levels=[7, 8]) → 0" in tree and "\n  counted_down(levels=[8]) → 0" in tree
    assert "3 calls" in tree


def test_events_calls_and_steps_are_drawn(walked: Callable[..., Walk], tmp_path: Path) -> None:
    for name, given in (
        ("merged", (counted([1, 4]), counted([2]))),
        ("spread", (counted([[1, 2], [3, 4]]),)),
        ("named", (counted([3, 1, 3]),)),
        ("counted_down", ([7, 8],)),
    ):
        found = walked(name, *given)
        for view in ("events", "calls"):
            drawn = draw_walk(found, Choice(view=view))
            written = " ".join(each.get_text() for panel in drawn.axes for each in panel.texts)
            assert name in written or name in str(drawn.get_suptitle()), (name, view)
    save_walk(walked("looked", counted([5, 3]), 5), tmp_path / "steps", Choice(), dark=True)
    pictures = sorted((tmp_path / "steps").iterdir())
    assert len(pictures) >= 2 and all(each.read_bytes().startswith(b"\x89PNG") for each in pictures)
    save_walk(walked("looked", counted([5, 3]), 5), tmp_path / "walk.svg")
    assert "<svg" in (tmp_path / "walk.svg").read_text()
