"""Findings and logbooks that show themselves, and give tables, figures and a page."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping
from dataclasses import asdict, fields
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import LogarithmError, there
from ..logbook.exporting import frame_of, wide_frame_of
from ..logbook.importing import imported
from ..logbook.reading import Logbook
from ..logbook.reading import read_logbook as read
from ..logbook.writing import fresh_path, write_logbook
from ..notation.durations import seconds
from ..results.findings import Findings
from ..statistics.analyse import analyse
from ..statistics.forecasts import ahead
from .depth import growth_in_depth, pairs_in_depth
from .options import Names, names_of
from .shown import Shown, ShownVerdicts
from .verify import verdicts_in

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure

FRAMES = ("growth", "crossovers", "standings", "costs", "claims", "failures", "breakeven", "pairs")


class ShownFindings(Findings):
    """Findings that show themselves."""

    def __repr__(self) -> str:
        from ..report.text.terminal import text

        return text(self)

    def _repr_html_(self) -> str:
        from ..report.page.page import fragment

        return fragment(self)

    def to_frame(self, part: str = "growth") -> pd.DataFrame:
        """One part of the findings as a table, a row each.

        Args:
            part: growth, crossovers, standings, costs, claims, failures, breakeven or pairs. Times are seconds.

        Raises:
            LogarithmError: where there is no such part.
        """
        import msgspec
        import pandas as pd

        if part not in FRAMES:
            raise LogarithmError(f"findings have no part '{part}': {there(list(FRAMES))}")
        rows = msgspec.to_builtins(getattr(self, part))
        if part == "costs":
            names = ("contender", "family", "metric", "stage")
            rows = [{**{name: row[name] for name in names}, **point} for row in rows for point in row["points"]]
        if part == "growth":
            rows = [{**row, "exponent": (row["exponent"] or {}).get("value")} for row in rows]
        return pd.json_normalize(rows, max_level=1)

    def plot(
        self, view: str = "growth", linear: bool = False, size: tuple[int, int] | None = None, dark: bool = False
    ) -> Figure:
        """A figure of at most nine panels.

        Args:
            view: growth, work, ratio, spread or standings.
            linear: linear axes, not logarithmic ones.
            size: pixels, wide and high.
            dark: on dark paper.

        Raises:
            LogarithmError: where there is no such view, or nothing to draw in it.
        """
        from ..report.figure.views import draw, sheets

        return draw(sheets(self)[0], view, linear, size, dark)

    def report(self, section: str | None = None, everything: bool = False) -> Shown:
        """The report, or one section of it.

        Args:
            section: such as "growth", "ratios", "costs", "notes" or "chart".
            everything: also what a first look leaves out.

        Raises:
            LogarithmError: where there is no such section.
        """
        from ..report.contents.sections import NAMES
        from ..report.text.terminal import render

        if section is not None and section not in NAMES:
            raise LogarithmError(f"a report has no section '{section}': {there(list(NAMES), 20)}")
        return Shown(render(self, only=section, everything=everything))

    def crossover(self, *contenders: str, family: Names = None) -> Shown:
        """Two contenders in depth, or one against all others: every crossover, and the ratio at each size.

        Raises:
            LogarithmError: where one is not there, or no two were measured at the same sizes.
        """
        return self.logbook().crossover(*contenders, family=family)

    def growth_in_depth(self, only: Names = None, family: Names = None) -> Shown:
        """Every order that was tried, residuals and local exponents by size.

        Raises:
            LogarithmError: where one is not there, or nothing can be fitted.
        """
        return self.logbook().growth_in_depth(only, family)

    def verify(self, strict: bool = False) -> ShownVerdicts:
        """Hold the claims against what was found.

        Args:
            strict: claims that are undecided or slower fail too.

        Raises:
            LogarithmError: where there is no claim.
        """
        return ShownVerdicts(verdicts_in(self, strict))

    def logbook(self) -> ShownLogbook:
        """The logbook that this was found in."""
        return ShownLogbook.of(read(self.run.logbook))

    def forecast(self, at: float | None = None, within: str | None = None) -> pd.DataFrame:
        """What each contender will cost at a size, or how large a size it manages within a time, with 95 %.

        Args:
            at: a size.
            within: a span of time, such as "1s".

        Raises:
            LogarithmError: where neither or both are given, or nothing can be forecast.
        """
        return self.logbook().forecast(at, within)

    def page(self, path: str | Path) -> Path:
        """Write the page: one HTML file. Returns its path."""
        from ..logbook.files import write_file
        from ..report.page.page import page

        write_file(Path(path), page(self))
        return Path(path)


class ShownLogbook(Logbook):
    """A logbook that shows what was found in it."""

    @classmethod
    def of(cls, logbook: Logbook) -> ShownLogbook:
        """A logbook that shows itself."""
        return cls(**{each.name: getattr(logbook, each.name) for each in fields(logbook)})

    def findings(self) -> ShownFindings:
        """Everything that can be concluded from it."""
        found = analyse(self)
        return ShownFindings(**{name: getattr(found, name) for name in Findings.__struct_fields__})

    def to_frame(self, wide: bool = False) -> pd.DataFrame:
        """The trials as a table: contender, family, stage, metric, size, heat, life, value (seconds for time).

        Args:
            wide: a column a contender, for a spreadsheet.
        """
        return wide_frame_of(self) if wide else frame_of(self)

    def crossover(self, *contenders: str, family: Names = None) -> Shown:
        """See `ShownFindings.crossover`."""
        return Shown(*pairs_in_depth(self, contenders, names_of(family)))

    def growth_in_depth(self, only: Names = None, family: Names = None) -> Shown:
        """See `ShownFindings.growth_in_depth`."""
        return Shown(*growth_in_depth(self, names_of(only), names_of(family)))

    def forecast(self, at: float | None = None, within: str | None = None) -> pd.DataFrame:
        """See `ShownFindings.forecast`."""
        import pandas as pd

        if (at is None) == (within is None):
            raise LogarithmError('say either at=1e6, a size, or within="1s", a time')
        limit = None if within is None else seconds(within)
        return pd.DataFrame([asdict(each) for each in ahead(self, at, limit)])

    def _repr_html_(self) -> str:
        return self.findings()._repr_html_()


def read_logbook(path: str | Path) -> ShownLogbook:
    """Read a logbook. Nothing in it is run.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.
    """
    return ShownLogbook.of(read(path))


def import_table(
    table: str | Path | pd.DataFrame,
    unit: str | None = None,
    column: Mapping[str, str] | None = None,
    baseline: str | None = None,
    out: str | Path | None = None,
) -> ShownLogbook:
    """Bring numbers measured elsewhere into a logbook.

    Args:
        table: a CSV file or a pandas table, tidy (contender, size, value) or wide (a column a contender).
        unit: what its times are in where it does not say so: ns, us, ms or s.
        column: other headings for the known columns, {"value": "nanos"}.
        baseline: the contender that others are compared with.
        out: the logbook to write; `logbooks/NAME-….jsonl` if none is named.

    Raises:
        TableError: naming line and column of what cannot be used.
    """
    if isinstance(table, (str, Path)):
        name, records = Path(table).stem, imported(Path(table), unit, dict(column or {}), baseline)
    else:
        with tempfile.TemporaryDirectory() as folder:
            name, file = "table", Path(folder) / "table.csv"
            table.to_csv(file, index=table.index.name is not None)
            records = imported(file, unit, dict(column or {}), baseline)
    path = Path(out) if out is not None else fresh_path(name)
    write_logbook(path, records)
    return read_logbook(path)
