"""Every command in the README and the guide runs, one after another, as a reader would type them."""

from __future__ import annotations

import importlib.util
import re
import shlex
import shutil
from pathlib import Path

import pytest

import golden

DOCS = Path(__file__).parents[2] / "docs"
LONG = ("demo",)  # shown whole in another test


def commands(path: Path) -> list[list[str]]:
    """The indented commands of a document."""
    lines = re.findall(r"^    logarithm (.*)$", path.read_text(encoding="utf-8"), flags=re.MULTILINE)
    return [shlex.split(line) for line in lines]


def blocks(path: Path, kind: str = "python") -> list[str]:
    """The fenced pieces of code of a document."""
    return re.findall(rf"^```{kind}\n(.*?)^```", path.read_text(encoding="utf-8"), flags=re.MULTILINE | re.DOTALL)


def quick(arguments: list[str]) -> list[str]:
    """The same with a small budget."""
    # What is drawn afterwards takes several trials in two processes.
    few = {"race": "2.5s", "measure": "5s" if "study.jsonl" in arguments else "8s" if "two.py" in arguments else "2.5s"}
    short = few.get(arguments[0], "2s")
    made = [short if before == "--budget" else word for before, word in zip(["", *arguments], arguments, strict=False)]
    if made[0] in ("race", "measure", "verify") and "--budget" not in made:
        made += ["--budget", short]
    return made


def in_order(harbour, path: Path, installed: bool = False) -> None:
    for arguments in commands(path):
        if arguments[0] in LONG and "--list" not in arguments:
            continue
        if arguments[0] == "assess" and not (harbour.folder / arguments[1]).exists():
            harbour.study(CLASS, name=arguments[1])
            (harbour.folder / "handed-in").mkdir(exist_ok=True)
            (harbour.folder / "handed-in" / "anna.py").write_text("def best(rises): return max(rises)\n")
        done = (harbour.installed if installed else harbour.run)(*quick(arguments))
        if done.code == 2 and ("too few" in done.err or "takes ranked contenders, and three trials" in done.err):
            continue  # a machine that is slow now is no fault of the document
        assert done.code in (0, 1) if arguments[0] in ("verify", "contrast", "check") else done.code == 0, (
            arguments,
            done.err,
        )
        assert done.out or done.err


CLASS = """
from logarithm import Study, families
study = Study("peaks", sizes="8..64 *2")
study.family(families.decimals)
study.contender(max, name="reference", baseline=True)
study.submissions("handed-in/*.py", function="best", require="n log n")
"""


def test_the_guide_runs_from_beginning_to_end(harbour) -> None:
    if shutil.which("awk") is None:
        pytest.skip("awk is not installed")
    (harbour.folder / "harbour.py").write_text(blocks(DOCS / "guide.md")[0])
    in_order(harbour, DOCS / "guide.md")


def test_the_readme_runs(harbour) -> None:
    readme = DOCS.parent / "README.md"
    (harbour.folder / "water.py").write_text(blocks(readme)[0])
    (harbour.folder / "harbour.py").write_text(blocks(DOCS / "guide.md")[0])
    rows = [f"{n},{n * 2},{n * n}" for n in (8, 16, 32, 64, 128)]
    (harbour.folder / "times.csv").write_text("\n".join(["size,ebb,flood", *rows]))
    in_order(harbour, readme, installed=True)


def test_the_test_in_the_guide_passes() -> None:
    space: dict[str, object] = {}
    tests = next(each for each in blocks(DOCS / "guide.md") if "expect_order" in each)
    exec(blocks(DOCS / "guide.md")[0] + tests, space)
    space["test_the_highest_tide_takes_one_pass"]()  # type: ignore[operator]
    space["test_waiting_beats_looking_ahead"]()  # type: ignore[operator]
    space["max"] = lambda levels: sorted(levels)[-1] < levels[0] or levels[0] < levels[-1]
    with pytest.raises(AssertionError):
        space["test_the_highest_tide_takes_one_pass"]()  # type: ignore[operator]


def test_every_help_ends_with_an_example_of_a_command_that_is_there(harbour) -> None:
    listed = re.findall(r"^[│ ]+([a-z]+)  ", harbour.run("--help").out, flags=re.MULTILINE)
    assert {"measure", "report", "walk", "assess"} <= set(listed)
    for name in listed:
        shown = harbour.call(name, "--help").out
        assert f"Example: logarithm {name}" in " ".join(shown.split()), name


BOOKS = {"closest-buoys": "demo_closest_buoys", "lowest-tides": "demo_lowest_tides", "tides": "counted_lines"}


def pictures() -> dict[str, tuple[str, str]]:
    """The commands of the pictures that only read, each with the demo that it reads of."""
    spec = importlib.util.spec_from_file_location("remake_screenshots", DOCS / "remake_screenshots.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.READING


@pytest.mark.parametrize("name", pictures())
def test_each_command_of_a_picture_runs(harbour, name: str) -> None:
    demo, command = pictures()[name]
    (harbour.folder / "logbooks").mkdir()
    golden.unpack(BOOKS[demo], harbour.folder / "logbooks")
    for book, file in (("gauge", "before.jsonl"), ("gauge_later", "after.jsonl")):
        golden.unpack(book, harbour.folder).rename(harbour.folder / file)
    words = [word.replace("gauge", "ebb") if demo == "tides" else word for word in shlex.split(command)[1:]]
    done = harbour.run(*words)
    assert done.code == 0, done.err
    assert done.out or done.err
