"""Verdicts as JUnit XML, which continuous integration shows as tests."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree

from ...errors import LogarithmError
from ..contents.verdicts import Verdict


def write_junit(study: str, rows: Sequence[Verdict], path: Path) -> None:
    """Write a test case for each claim; one that is undecided counts as skipped, unless it fails the whole.

    Raises:
        LogarithmError: where the file cannot be written.
    """
    failing = sum(row.fails for row in rows)
    undecided = sum(row.verdict == "undecided" and not row.fails for row in rows)
    suites = ElementTree.Element("testsuites")
    suite = ElementTree.SubElement(suites, "testsuite", name=_plain(study), tests=str(len(rows)), errors="0")
    suite.set("failures", str(failing))
    suite.set("skipped", str(undecided))
    for row in rows:
        name = _plain(f"{row.where}: {row.claim}")
        case = ElementTree.SubElement(suite, "testcase", classname=_plain(f"{study}.{row.contender}"), name=name)
        told = _plain(f"{row.claim} is {row.verdict}; found {row.found}")
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
