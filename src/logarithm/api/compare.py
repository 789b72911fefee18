"""Several logbooks beside each other, which show what changed, or what holds everywhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import LogarithmError
from ..logbook.reading import Logbook
from ..logbook.reading import read_logbook as read
from ..statistics.analyse import analyse
from ..statistics.logbooks.contrast import Change, differences
from ..statistics.logbooks.contrast import contrast as compared
from .findings import ShownFindings, read_logbook
from .shown import Shown

if TYPE_CHECKING:
    import pandas as pd


class Contrast:
    """What changed between two logbooks, contender by contender. `changes` holds all of it."""

    def __init__(self, before: Logbook, after: Logbook, warnings: Sequence[str]) -> None:
        self.warnings = list(warnings)
        self.names = before.path.stem, after.path.stem
        self.axis = "n" if before.study.axis == "size" else before.study.axis
        changes, self.moved = compared(before, after, (analyse(before), analyse(after)))
        self.changes: list[Change] = changes

    def __repr__(self) -> str:
        from ..report.text.depth import contrasted
        from ..report.text.terminal import WIDE, plainly

        return plainly(contrasted(self.changes, self.moved, self.names, self.axis), WIDE)

    def to_frame(self) -> pd.DataFrame:
        """A row for each contender, family, stage and metric."""
        import pandas as pd

        return pd.json_normalize([asdict(each) for each in self.changes], max_level=1)


def contrast(before: str | Path, after: str | Path, anyway: bool = False) -> Contrast:
    """What changed between two logbooks, and whether the change is real.

    Args:
        before, after: logbooks.
        anyway: compare even where the machines differ.

    Raises:
        LogarithmError: where they are not alike, or cannot be read.
    """
    one, other = read(before), read(after)
    refuse, care = differences(one, other)
    if refuse and not anyway:
        raise LogarithmError(
            f"{before} and {after} are not alike: {'; '.join(refuse)}. Say anyway=True to compare them"
        )
    return Contrast(one, other, [*refuse, *care])


class Across(Shown):
    """What holds on several machines, or under several interpreters. `findings` has those of each, by its name."""

    def __init__(self, findings: dict[str, ShownFindings]) -> None:
        from ..report.text.across import render

        self.findings = findings
        super().__init__(render(list(findings.items())))


def across(*logbooks: str | Path) -> Across:
    """What holds on several machines, or under several interpreters: each by itself, and all together.

    Args:
        logbooks: of one study.

    Raises:
        LogarithmError: where they are of different studies, or cannot be read.
    """
    found = {Path(path).stem: read_logbook(path).findings() for path in logbooks}
    studies = {each.study.name for each in found.values()}
    if len(studies) != 1:
        raise LogarithmError(f"these are not logbooks of one study: {', '.join(sorted(studies)) or 'none is named'}")
    return Across(found)
