"""Verdicts as JUnit XML, which continuous integration shows as tests."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree

from ...errors import LogarithmError
from ...notation.words import place
from ...results.logbooks.contrast import Change
from ...results.tasks.gates import Breach
from ...results.tasks.verdicts import Verdicts
from .. import units
from ..documents.compare import changed
from ..documents.verdicts import broken_said, found_in, where

Case = tuple[str, str, str, str]
"""A test case: its class and name, what became of it ("failure", "error", "skipped", or nothing), and the words."""


def write_junit(found: Verdicts, path: Path) -> None:
    """Write a test case for each claim, and an error for each contender that fails where it should work.

    A claim that is undecided counts as skipped, unless it fails the whole.

    Raises:
        LogarithmError: where the file cannot be written.
    """
    cases: list[Case] = []
    for row in found.rows:
        claim = units.formula(row.claim)
        became = "failure" if row.fails else "skipped" if row.verdict == "undecided" else ""
        told = f"{claim} is {row.verdict}; found {found_in(row)}"
        cases.append((f"{found.study}.{row.contender}", f"{where(row)}: {claim}", became, told))
    _write(found.study, [*cases, *_errors(found.study, found.broken)], path)


def write_changes(changes: Sequence[Change], broken: Sequence[Breach], slower: Sequence[Change], path: Path) -> None:
    """Write a test case for each change between two logbooks; those that are slower than they may be fail.

    Raises:
        LogarithmError: where the file cannot be written.
    """
    cases = [
        (f"contrast.{each.contender}", place(each.place), "failure" if each in slower else "", changed(each))
        for each in changes
    ]
    _write("contrast", [*cases, *_errors("contrast", broken)], path)


def _errors(suite: str, broken: Sequence[Breach]) -> list[Case]:
    return [(f"{suite}.{each.contender}", each.family or "takes part", "error", broken_said(each)) for each in broken]


def _write(name: str, cases: Sequence[Case], path: Path) -> None:
    suites = ElementTree.Element("testsuites")
    suite = ElementTree.SubElement(suites, "testsuite", name=_plain(name), tests=str(len(cases)))
    for kind, attribute in (("error", "errors"), ("failure", "failures"), ("skipped", "skipped")):
        suite.set(attribute, str(sum(became == kind for _, _, became, _ in cases)))
    for group, called, became, told in cases:
        case = ElementTree.SubElement(suite, "testcase", classname=_plain(group), name=_plain(called))
        if became:
            made = ElementTree.SubElement(case, became, message=_plain(told))
            made.text = None if became == "skipped" else _plain(told)
    try:
        ElementTree.ElementTree(suites).write(path, encoding="utf-8", xml_declaration=True)
    except OSError as error:
        raise LogarithmError(f"{path} cannot be written: {error.strerror or error}") from None


def _plain(text: str) -> str:
    """Text without the control characters that XML has no way to write."""
    return "".join(letter if letter.isprintable() else "�" for letter in text)
