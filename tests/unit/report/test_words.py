"""The words that users read: every text of the source, read for what a student anywhere would stumble over."""

from __future__ import annotations

import ast
import importlib.util
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from logarithm.errors import AnalysisError, counted, there
from logarithm.report.documents.grades import summary
from logarithm.results.tasks.grades import Grade
from logarithm.statistics.growth.fit import fit_growth

ROOT = Path(__file__).parents[3]
STRANGE = (
    *(
        "had best",
        "nought",
        "whom",
        "come to its end",
        "set apart",
        "nobody else down",
        "its head says",
        "told by the ending",
    ),
    *(
        "is no time",
        "is no text",
        "is no size",
        "is no number",
        "is no span",
        "is no ladder",
        "spells no",
        "its greeting",
    ),
    *(
        "could not be looked at",
        "come to cost",
        "comes to cost",
        "this is not Python",
        "as fast as as",
        "hath",
        "thereof",
    ),
)
LATER = r"\b(?:one|1) (?:sizes|submissions|heats|processes|trials|calls|families|contenders)\b"


@cache
def texts() -> list[tuple[str, str]]:
    """Every text in the code that is no documentation, with its place; what is filled in stands as {}."""
    return list(_texts())


def _texts() -> Iterator[tuple[str, str]]:
    for path in sorted((ROOT / "src").rglob("*.py")):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        quiet = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef)) and node.body and _is_text(node.body[0])
        }
        for node in ast.walk(tree):
            if isinstance(node, ast.JoinedStr):
                yield (
                    f"{path.name}:{node.lineno}",
                    "".join(str(part.value) if isinstance(part, ast.Constant) else "{}" for part in node.values),
                )
            elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in quiet:
                yield f"{path.name}:{node.lineno}", node.value


def _is_text(node: ast.stmt) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str)


def test_no_message_has_words_that_nobody_says() -> None:
    found = [(place, text) for place, text in texts() if any(word in f" {text} " for word in STRANGE)]
    assert not [each for each in found if not re.fullmatch(r"[\w\s]*", each[1]) or " " in each[1]]
    assert not [(place, text) for place, text in texts() if re.search(LATER, text)]


@pytest.mark.parametrize(
    "page",
    [
        "README.md",
        "CHANGELOG.md",
        "SECURITY.md",
        *(f"docs/{name}" for name in ("guide.md", "method.md", "formats.md", "cluster.md")),
    ],
)
def test_no_page_has_them(page: str) -> None:
    text = (ROOT / page).read_text(encoding="utf-8")
    assert [word for word in STRANGE if word in text] == []


def test_the_page_of_all_messages_is_current() -> None:
    spec = importlib.util.spec_from_file_location("write_messages", ROOT / "docs" / "write_messages.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    found = module.written()
    assert (ROOT / "docs" / "messages.md").read_text(encoding="utf-8") == found, "run python docs/write_messages.py"
    assert not [word for word in (*STRANGE, "anew", "nobody else") if f"{word} " in found]


def test_one_is_one_and_many_are_many() -> None:
    assert [counted(n, "size") for n in (0, 1, 2)] == ["0 sizes", "1 size", "2 sizes"]
    assert [there(["berth"][:n]) for n in (0, 1)] == ["there is none", "there is only 'berth'"]
    rows = [Grade(name, f"{name}.py", "fails") for name in "abcd"]
    assert summary(rows) == "4 submissions: 4 fail"
    assert summary(rows[:1]) == "1 submission: 1 fails"
    for many, told in ((1, "1 size is too few"), (2, "2 sizes are too few")):
        with pytest.raises(AnalysisError, match=told):
            fit_growth(range(8, 8 + many), [1.0] * many)


DOCS = Path(__file__).parents[3] / "docs"
WORDS_MOST = 25


def sentences(text: str, colons: bool) -> Iterator[str]:
    """The sentences of a document, without code, tables and commands."""
    text = re.sub(r"```.*?```", "", text, flags=re.DOTALL)
    text = re.sub(r"^(    .*|\|.*|!\[.*|#.*)$", "", text, flags=re.MULTILINE)
    text = re.sub(r"`[^`]*`", "code", re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", text))
    for paragraph in re.split(r"\n\s*\n|\n(?=\s*(?:[-*]|\d+\.) )", text):
        # A message says what is wrong, and after a colon what to do.
        yield from re.split(r"(?<=[.!?])\s+" if colons else r"(?<=[.!?:])\s+", " ".join(paragraph.split()))


@pytest.mark.parametrize("page", ["guide.md", "jobs.md", "cluster.md", "../README.md", "../SECURITY.md", "messages.md"])
def test_sentences_are_short(page: str) -> None:
    text = (DOCS / page).read_text(encoding="utf-8")
    text = re.sub(r"^- (?:write for example|static void).*$", "", text, flags=re.MULTILINE)  # lists, and code
    long = [each for each in sentences(text, page != "messages.md") if len(re.findall(r"[\w’'-]+", each)) > WORDS_MOST]
    assert not long, long


def test_each_command_of_the_jobs_is_there_with_its_options() -> None:
    import typer.main

    from logarithm.cli.app import app

    known = typer.main.get_command(app)
    for line in re.findall(r"^    logarithm (.*)$", (DOCS / "jobs.md").read_text(encoding="utf-8"), re.MULTILINE):
        name, *words = line.split()
        command = known.commands[name]  # type: ignore[attr-defined]
        options = {option for each in command.params for option in each.opts}
        assert {word for word in words if word.startswith("--")} <= options, line
