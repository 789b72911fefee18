"""Golden files: everything that the program says about the stored logbooks, and the bytes of each message.

    python tests/golden/golden.py write [NAME…]              writes them anew
    python tests/golden/golden.py compare [--figures] [NAME…]  compares them, and shows each difference

Drawing takes most of the time, so `compare` draws the figures and pages of some logbooks only; with `--figures` it
draws all. Named logbooks are always drawn.

A refactoring changes no byte. A change of behaviour is reviewed as the difference that `compare` shows.
"""

from __future__ import annotations

import difflib
import json
import lzma
import math
import os
import re
import shutil
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import fields, is_dataclass
from functools import partial
from importlib.metadata import version
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
BOOKS, SAID = HERE / "books", HERE / "said"
MESSAGES = "messages"
NEIGHBOURS = {
    "gauge": "gauge_later",
    "moorings": "moorings_edited",
    "demo_closest_buoys": "busy_buoys",
    "busy_buoys": "short",
    "repeated": "repeated_on_purpose",
    "counted": "counted_and_timed",
    "demo_lowest_tides": "map",
    "map": "map_of_laws",
    "failing": "disagreeing",
    "slow": "deep",
}
"""Logbooks of one study, compared as before and after."""
DRAWN = ("bay", "map_of_laws", "revisions")
"""Logbooks whose figures and pages are drawn whenever golden files are compared: one of each kind of figure."""
DRAWINGS = (".svg", ".html")
LINES_MOST = 40  # lines of one difference that are shown
NUMBER = re.compile(r"[+-]?\d+(?:\.\d+)?(?:e-?\d+)?")
HASH = re.compile(r"(?<=[#\"])[a-z][0-9a-f]{10}\b")  # the names of parts of an SVG, which follow from its numbers
ROUNDING = 1e-6  # largest difference of two numbers, relative or absolute, that another processor may cause


def names() -> list[str]:
    """Return the names of all golden files."""
    return [*sorted(path.name.removesuffix(".jsonl.xz") for path in BOOKS.glob("*.jsonl.xz")), MESSAGES]


def unpack(name: str, folder: Path) -> Path:
    """Write a stored logbook into a folder as `NAME.jsonl`, and return its path."""
    path = folder / f"{name}.jsonl"
    path.write_bytes(lzma.decompress((BOOKS / f"{name}.jsonl.xz").read_bytes()))
    return path


@contextmanager
def unpacked(*books: str) -> Iterator[None]:
    """Work in a new folder that holds some stored logbooks."""
    before = Path.cwd()
    with tempfile.TemporaryDirectory() as room:
        for name in books:
            unpack(name, Path(room))
        os.chdir(room)
        try:
            yield
        finally:
            os.chdir(before)


def outputs(name: str, drawn: bool = True) -> dict[str, str]:
    """Return everything that the program says about a stored logbook, by the name of the output.

    Args:
        name: of the logbook.
        drawn: also figures and pages.
    """
    if name == MESSAGES:
        return messages()
    other = NEIGHBOURS.get(name)
    with unpacked(name, *([other] if other else [])):
        makers = _makers(name, other)
        return {each: _said(make) for each, make in makers.items() if drawn or not each.endswith(DRAWINGS)}


def _said(make: Callable[[], str]) -> str:
    """Return an output, or the error in place of it."""
    from logarithm.errors import LogarithmError

    try:
        return make()
    except LogarithmError as error:
        return f"{type(error).__name__}: {error}\n"


def _makers(name: str, other: str | None) -> dict[str, Callable[[], str]]:
    """Return what makes each output."""
    from logarithm.api import findings as api
    from logarithm.api.assessment.assess import class_of
    from logarithm.api.searches.worst import search_of
    from logarithm.report.documents.grades import as_csv
    from logarithm.report.figure.views import sheets
    from logarithm.report.present import rendered
    from logarithm.report.view import View

    path = f"{name}.jsonl"
    book = api.read_logbook(path)
    found = book.findings()
    largest = max((float(point.size) for each in found.costs for point in each.points), default=1.0)
    at = dict(zip(found.study.names, (2 * largest, 3.0), strict=True)) if found.study.names else {"": 2 * largest}

    def svg(view: str) -> str:
        from logarithm.report.figure.views import draw

        return "\n".join(_svg_of(draw(part, view)) for part in sheets(found))

    made: dict[str, Callable[[], str]] = {
        "findings.json": lambda: json.dumps(json.loads(found.json()), indent=1, ensure_ascii=False) + "\n",
        "report.txt": lambda: rendered(found, "text"),
        "report --all.txt": lambda: rendered(found, "text", everything=True),
        "report --all.md": lambda: rendered(found, "markdown", everything=True),
        "page.html": lambda: rendered(found, "html"),
        "crossover.txt": lambda: rendered(found.crossover(), "text"),
        "growth.txt": lambda: rendered(found.growth_in_depth(), "text"),
        "growth --lines.txt": lambda: rendered(found.lines_in_depth(), "text"),
        "forecast.txt": lambda: rendered(book.analysis.forecast(at), "text"),
        "forecast --within.txt": lambda: rendered(
            book.analysis.forecast({"k": 3.0} if len(at) > 1 else {}, "1s"), "text"
        ),
        "verify.txt": lambda: rendered(found.verify(), "text"),
        **{f"{view}.svg": partial(svg, view) for view in View},
    }
    if found.study.names:
        value = next(float(each.size if each.second is None else each.second) for each in found.costs)
        made["report --at.txt"] = lambda: rendered(
            api.read_logbook(path).at(**{found.study.names[1]: value}).findings(), "text"
        )
    if other is not None:
        made[f"contrast {other}.txt"] = lambda: rendered(api.contrast(path, f"{other}.jsonl", anyway=True), "text")
        made[f"contrast {other}.json"] = lambda: rendered(api.contrast(path, f"{other}.jsonl", anyway=True), "json")
        made[f"across {other}.txt"] = lambda: rendered(api.across(path, f"{other}.jsonl"), "text")
    if name == "worst":
        made["search.txt"] = lambda: rendered(search_of(book), "text")
        made["search.json"] = lambda: rendered(search_of(book), "json")
        made["search.svg"] = lambda: _svg_of(search_of(book).plot())
    if name == "assessed":
        made["class.txt"] = lambda: rendered(class_of(book), "text")
        made["class.json"] = lambda: rendered(class_of(book), "json")
        made["class.csv"] = lambda: as_csv(class_of(book))
        made["pages"] = lambda: _pages(class_of(book))
    return made


def _svg_of(figure: Any) -> str:
    """Return a figure as SVG, without the date and the version of what drew it."""
    from logarithm.report.figure.canvas import save_figure

    path = Path("figure.svg")
    save_figure(figure, path)
    return re.sub(r"<metadata>.*?</metadata>", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)


def _pages(found: Any) -> str:
    """Return the pages of a class, one behind the other."""
    found.pages("pages")
    pages = sorted(Path("pages").iterdir())
    text = "".join(f"==== {page.name}\n{page.read_text(encoding='utf-8')}\n" for page in pages)
    shutil.rmtree("pages")
    return text


# --- messages ---------------------------------------------------------------------------------------------------------


def messages() -> dict[str, str]:
    """Return the line of each kind of request and reply, with a value of its type in every field."""
    from logarithm.protocol import replies, requests
    from logarithm.protocol.message import line_of

    made = {}
    for module in (requests, replies):
        for kind in vars(module).values():
            if isinstance(kind, type) and is_dataclass(kind) and kind.__module__ == module.__name__:
                made[f"{kind.__name__}.json"] = line_of(_example(kind)).decode()
    return made


def _example(kind: type) -> Any:
    """Return an instance of a message, with a value in each field that follows from its name and type."""
    return kind(**{each.name: _value(each.name, str(each.type), at) for at, each in enumerate(fields(kind))})


def _value(name: str, written: str, at: int) -> Any:
    """Return a value of a type as it is written in an annotation."""
    values: dict[str, Any] = {
        "str": name,
        "int": at + 1,
        "float": at + 0.5,
        "bool": True,
        "Number": at + 2,
        "Any": [at],
    }
    for start, value in (("list[", [name]), ("dict[", {name: at}), ("tuple[", [at, name])):
        if written.startswith(start):
            return value
    return values.get(written.split(" ")[0])


# --- writing and comparing --------------------------------------------------------------------------------------------


def surroundings() -> dict[str, str]:
    """Return the versions of what draws figures."""
    return {"matplotlib": version("matplotlib")}


def write(name: str) -> str:
    """Write a golden file anew. Returns its name and size."""
    text = json.dumps({"made with": surroundings(), **outputs(name)}, ensure_ascii=False, indent=0)
    SAID.mkdir(exist_ok=True)
    path = SAID / f"{name}.json.xz"
    path.write_bytes(lzma.compress(text.encode(), preset=9))
    return f"{name}: {path.stat().st_size:,} bytes"


def stored(name: str) -> tuple[dict[str, str], dict[str, str]]:
    """Return the versions that a golden file was made with, and its outputs."""
    kept = json.loads(lzma.decompress((SAID / f"{name}.json.xz").read_bytes()))
    return kept.pop("made with"), kept


def differences(name: str, drawn: bool = True) -> list[str]:
    """Return what differs from a golden file, an output each; empty if nothing does.

    Figures are left out if another version of Matplotlib drew the stored ones.
    """
    made_with, before = stored(name)
    drawn = drawn and made_with == surroundings()
    after = outputs(name, drawn)
    found = []
    for output in dict.fromkeys([*before, *after]):
        if output.endswith(DRAWINGS) and not drawn:
            continue
        old, new = before.get(output, ""), after.get(output, "")
        if old != new and not is_rounding(old, new):
            found.append(difference(f"{name}: {output}", old, new))
    return found


def is_rounding(old: str, new: str) -> bool:
    """Return whether two texts differ in the last digits of their numbers alone, as on another processor."""
    old, new = (_with_numbered_parts(text) for text in (old, new))
    if NUMBER.sub("", old) != NUMBER.sub("", new):
        return False
    pairs = zip(NUMBER.findall(old), NUMBER.findall(new), strict=True)
    return all(
        one == other or math.isclose(float(one), float(other), rel_tol=ROUNDING, abs_tol=ROUNDING)
        for one, other in pairs
    )


def _with_numbered_parts(text: str) -> str:
    """Return an SVG whose parts have their numbers as names."""
    parts: dict[str, str] = {}
    return HASH.sub(lambda found: parts.setdefault(found[0], f"part{len(parts)}"), text)


def difference(title: str, old: str, new: str) -> str:
    """Return a readable difference of two texts."""
    lines = list(difflib.unified_diff(_lines(old), _lines(new), "stored", "now", lineterm="", n=1))[2:]
    more = len(lines) - LINES_MOST
    return "\n".join([f"--- {title}", *lines[:LINES_MOST], *([f"… {more} more lines"] if more > 0 else [])])


def _lines(text: str) -> list[str]:
    """Return the lines of a text; those that are very long are parted at tags."""
    return [piece for line in text.splitlines() for piece in (line.replace("><", ">\n<").splitlines() or [""])]


def main(words: list[str]) -> int:
    """Write or compare golden files. Returns the exit code."""
    if not words or words[0] not in ("write", "compare"):
        print(__doc__)
        return 2
    begun, named = time.monotonic(), [each for each in words[1:] if each != "--figures"]
    chosen = named or names()
    drawn = [bool(named) or "--figures" in words or each in DRAWN for each in chosen]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        if words[0] == "write":
            for line in pool.map(write, chosen):
                print(line)
            return 0
        found = [each for differing in pool.map(differences, chosen, drawn) for each in differing]
    print("\n\n".join(found))
    print(f"{len(found)} outputs of {len(chosen)} golden files differ; {time.monotonic() - begun:.0f} s")
    return 1 if found else 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
