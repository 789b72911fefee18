"""What a search for worst cases found: each case, how it grows, and the instances behind it."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

import msgspec

from ...logbook.files import write_file
from ...logbook.records import Instance, Searched
from ..base import Drawn, Frames
from ..findings import Findings, GrowthFinding

TYPICAL, BEST, WORST = "typical", "best", "worst"
FORMAT, VERSION = "logarithm-instances", 1
SHOWS = 1.5  # a size shows the worst case where it is so many times the typical


class Search(Drawn):
    """What a search found. `cases` holds it contender by contender, `findings` how it grows."""

    _frames: ClassVar[Frames] = {"cases": Searched}

    study: str
    metric: str
    cases: list[Searched]
    instances: list[Instance]
    findings: Findings

    def growth(self, case: Searched, role: str) -> GrowthFinding | None:
        """How the typical, the best or the worst found of a case grows."""
        about = self.findings.study
        family = next((name for name in self.families(case) if about.roles.get(name) == role), None)
        where = case.contender, family, case.stage
        return next((row for row in self.findings.growth if row.who == where), None)

    def families(self, case: Searched) -> list[str]:
        """The families of the logbook that hold what was found on the family of a case."""
        about = self.findings.study
        return [name for name in about.families if about.searched.get(name, case.family) == case.family]

    @property
    def is_one_family(self) -> bool:
        """Whether only one family was searched."""
        return len({case.family for case in self.cases}) < 2

    def keep(self, path: str | Path) -> Path:
        """Write the instances down as JSON, for `Study.family_from`. Returns the file's path."""
        rows = [
            {"contender": each.contender, "family": each.family, "stage": each.stage, "kind": each.sort}
            | {"metric": each.metric, "size": each.size, "count": each.count, "looks": each.looks}
            | {"instance": each.instance}
            for each in self.instances
        ]
        whole = {"format": FORMAT, "version": VERSION, "study": self.study, "instances": rows}
        write_file(Path(path), msgspec.json.encode(whole).decode() + "\n")
        return Path(path)
