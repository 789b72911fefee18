"""Verdicts as JUnit XML, which continuous integration shows as tests."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

from ...errors import LogarithmError
from ...results.verdicts import Verdicts
from .. import units
from ..documents.verdicts import found_in, where


def write_junit(found: Verdicts, path: Path) -> None:
    """Write a test case for each claim; one that is undecided counts as skipped, unless it fails the whole.

    Raises:
        LogarithmError: where the file cannot be written.
    """
    rows = found.rows
    failing = sum(row.fails for row in rows)
    undecided = sum(row.verdict == "undecided" and not row.fails for row in rows)
    suites = ElementTree.Element("testsuites")
    suite = ElementTree.SubElement(suites, "testsuite", name=_plain(found.study), tests=str(len(rows)), errors="0")
    suite.set("failures", str(failing))
    suite.set("skipped", str(undecided))
    for row in rows:
        claim = units.formula(row.claim)
        name = _plain(f"{where(row)}: {claim}")
        case = ElementTree.SubElement(suite, "testcase", classname=_plain(f"{found.study}.{row.contender}"), name=name)
        told = _plain(f"{claim} is {row.verdict}; found {found_in(row)}")
        if row.fails:
            ElementTree.SubElement(case, "failure", message=told).text = told
        elif row.verdict == "undecided":
            ElementTree.SubElement(case, "skipped", message=told)
    try:
        ElementTree.ElementTree(suites).write(path, encoding="utf-8", xml_declaration=True)
    except OSError as error:
        raise LogarithmError(f"{path} cannot be written: {error.strerror or error}") from None


def _plain(text: str) -> str:
    """Text without the control characters that XML has no way to write."""
    return "".join(letter if letter.isprintable() else "�" for letter in text)
