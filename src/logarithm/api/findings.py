"""Findings and logbooks that can be asked further."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import fields
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import AnalysisError, LogbookError
from ..logbook.exchange.calls import Calls, of_record, read_calls
from ..logbook.exchange.exporting import frame_of, wide_frame_of
from ..logbook.memory import Logbook as Book
from ..logbook.slices import part_of
from ..report.present import rendered
from ..report.result_documents import WIDE
from ..results import findings as plain
from ..results.logbooks.across import Across
from ..results.logbooks.contrast import Contrast, Contrasts
from ..results.tasks.depth import GrowthsInDepth, PairsInDepth
from ..results.tasks.forecast import Forecast
from ..results.tasks.verdicts import Verdicts, verdicts_of
from ..statistics.analyse import analyse
from ..study.run_options import Names
from .options import check_in, names_of
from .subject import logbook_of, place_in, slice_of

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure


class Text(str):
    """Text that shows itself as it is."""

    __slots__ = ()

    def __repr__(self) -> str:
        return str(self)


class Findings(plain.Findings):
    """Findings that can be asked further: drawn, told in part, and looked at in depth."""

    def plot(
        self,
        view: str | None = None,
        linear: bool = False,
        size: tuple[int, int] | None = None,
        dark: bool = False,
        ax: Axes | None = None,
    ) -> Figure:
        """A figure of at most nine panels.

        Args:
            view: growth, work, ratio, spread, standings or map; of two sizes the map, else growth, if none is named.
            linear: linear axes, not logarithmic ones.
            size: pixels, wide and high.
            dark: on dark paper.
            ax: axes to draw the first panel into, in place of a figure of its own.

        Raises:
            LogarithmError: where there is no such view, or nothing to draw in it.
        """
        from ..report.figure.views import draw, draw_into, sheets

        if ax is not None:
            return draw_into(ax, self, view, linear)
        return draw(sheets(self)[0], view, linear, size, dark)

    def report(self, section: str | None = None, everything: bool = False) -> Text:
        """The report, or one section of it.

        Args:
            section: such as "growth", "ratios", "costs", "notes" or "chart".
            everything: also what a first look leaves out.

        Raises:
            LogarithmError: where there is no such section.
        """
        return Text(rendered(self, "text", WIDE, only=section, everything=everything))

    def crossover(self, *contenders: str, family: Names = None) -> PairsInDepth:
        """Two contenders in depth, or one against all others: every crossover, and the ratio at each size.

        Raises:
            LogarithmError: where one is not there, or no two were measured at the same sizes.
        """
        return crossover(self.run.logbook, contenders, family)

    def growth_in_depth(self, only: Names = None, family: Names = None) -> GrowthsInDepth:
        """Every order that was tried, residuals and local exponents by size.

        Raises:
            LogarithmError: where one is not there, or nothing can be fitted.
        """
        return growth(self.run.logbook, only, family)

    def verify(self, strict: bool = False) -> Verdicts:
        """Hold the claims against what was found.

        Args:
            strict: claims that are undecided or slower fail too.

        Raises:
            LogarithmError: where there is no claim.
        """
        return verdicts_of(self, strict)

    def at(self, **second: float) -> Findings:
        """Of a study of two sizes, what holds at one value of the second: `found.at(k=64)`.

        Raises:
            LogbookError: where there is one size only, or nothing was measured there.
        """
        return read_logbook(self.run.logbook).at(**second).findings()

    def weighed(self, calls: str | Path) -> Findings:
        """These findings with what some calls cost in all, by contender.

        Args:
            calls: a file of sizes, one a line, or a CSV table with the columns size, count and, where there, family;
                of two sizes, both by their names.

        Raises:
            LogarithmError: where the file cannot be used, or nothing that was measured tells of its calls.
        """
        return _weighed(self, logbook_of(self.run.logbook), read_calls(Path(calls), self.study.names))

    def map(self, ax: Axes | None = None, dark: bool = False) -> Figure:
        """The map of a study of two sizes: who leads where.

        Args:
            ax: axes to draw the first family's into, in place of a figure of its own.
            dark: on dark paper.

        Raises:
            LogarithmError: where there is one size only.
        """
        return self.plot("map", dark=dark, ax=ax)

    def forecast(self, at: float | None = None, within: str | float | None = None, **second: float) -> Forecast:
        """What each contender will cost at a size, or how large a size it manages within a time, with 95 %.

        Args:
            at: a size.
            within: a span of time, such as "1s".
            second: of two sizes, the second one: `k=64`.

        Raises:
            LogarithmError: where neither or both are given, or nothing can be forecast.
        """
        place = {**({} if at is None else {"": at}), **second}
        return forecast(self.run.logbook, place, within)

    def logbook(self) -> Logbook:
        """The logbook that this was found in."""
        return read_logbook(self.run.logbook)


class Logbook(Book):
    """A logbook that shows what was found in it."""

    def findings(self) -> Findings:
        """Everything that can be concluded from it."""
        return findings_of(self)

    def at(self, **second: float) -> Logbook:
        """Of a study of two sizes, what was measured at one value of the second: `logbook.at(k=64)`.

        Raises:
            LogbookError: where there is one size only, or nothing was measured there.
        """
        size, value = place_in(self, second)
        if value is None or size is not None:
            raise LogbookError(f"{self.path}: name a value of the second size, such as at(k=64)")
        return _asking(slice_of(self, value))

    def part(self, only: Names = None, family: Names = None) -> Logbook:
        """What it holds of some contenders and families, all where none is named.

        Raises:
            LogarithmError: where one is not there.
        """
        check_in(self, only, family)
        return _asking(part_of(self, names_of(only), names_of(family)))

    def to_frame(self, wide: bool = False) -> pd.DataFrame:
        """The trials as a table: contender, family, stage, metric, size, heat, process, value (seconds for time).

        Args:
            wide: a column a contender, for a spreadsheet.
        """
        return wide_frame_of(self) if wide else frame_of(self)

    def __str__(self) -> str:
        return str(self.findings())

    def __repr__(self) -> str:
        return f"<Logbook {self.path}: {len(self.trials)} trials>"

    def _repr_html_(self) -> str:
        return self.findings()._repr_html_()


def read_logbook(path: str | Path | None = None) -> Logbook:
    """Read a logbook, the newest one where none is named. Nothing in it is run.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.
    """
    return _asking(logbook_of(path))


def _asking(book: Book) -> Logbook:
    return Logbook(**{each.name: getattr(book, each.name) for each in fields(book)})


def findings_of(logbook: str | Path | Book | None = None, sampled: float | None = None) -> Findings:
    """Everything found in a logbook; `sampled` is the size whose single trials are kept, else the largest."""
    book = logbook_of(logbook)
    found = analyse(book, sampled, kind=Findings)
    if book.workload is None:
        return found
    try:
        return _weighed(found, book, of_record(book.workload))
    except AnalysisError:
        return found  # too few sizes, or none on its families: the rest stands all the same


def _weighed(found: Findings, book: Book, calls: Calls) -> Findings:
    from msgspec.structs import replace

    from ..statistics.workloads.workload import weighed

    totals, weighing = weighed(book, calls)
    return replace(found, workload=totals, weighing=weighing)


def crossover(logbook: str | Path | Book | None, contenders: Sequence[str] = (), family: Names = None) -> PairsInDepth:
    """Two contenders of a logbook in depth; see `Findings.crossover`."""
    from ..statistics.depth import pairs_in_depth

    book = logbook_of(logbook)
    check_in(book, contenders, family)
    return pairs_in_depth(book, contenders, names_of(family))


def growth(logbook: str | Path | Book | None, only: Names = None, family: Names = None) -> GrowthsInDepth:
    """The growth of some contenders of a logbook in depth; see `Findings.growth_in_depth`."""
    from ..statistics.depth import growth_in_depth

    book = logbook_of(logbook)
    check_in(book, only, family)
    return growth_in_depth(book, names_of(only), names_of(family))


def forecast(
    logbook: str | Path | Book | None,
    at: Mapping[str, float] | None = None,
    within: str | float | None = None,
    only: Names = None,
    family: Names = None,
) -> Forecast:
    """Forecasts from a logbook; see `Findings.forecast`. A place has its sizes by name, the first also by none."""
    from ..notation.durations import seconds
    from ..statistics import forecasts

    book = logbook_of(logbook)
    check_in(book, only, family)
    limit = None if within is None else seconds(within)
    size, second = place_in(book, at or {})
    if size is not None and size <= 0:
        raise LogbookError(f"{size:g} is not a size: it must be more than 0")
    return forecasts.forecast(book, size, limit, names_of(only), names_of(family), second)


def import_table(
    table: str | Path | pd.DataFrame,
    unit: str | None = None,
    column: Mapping[str, str] | None = None,
    baseline: str | None = None,
    out: str | Path | None = None,
) -> Logbook:
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
    import tempfile

    from ..logbook.exchange.importing import imported
    from ..logbook.folder import fresh_path
    from ..logbook.writing import write_logbook

    if isinstance(table, str | Path):
        name, records = Path(table).stem, imported(Path(table), unit, dict(column or {}), baseline)
    else:
        with tempfile.TemporaryDirectory() as folder:
            name, file = "table", Path(folder) / "table.csv"
            table.to_csv(file, index=table.index.name is not None)
            records = imported(file, unit, dict(column or {}), baseline)
    path = Path(out) if out is not None else fresh_path(name)
    write_logbook(path, records)
    return read_logbook(path)


def contrast(
    before: str | Path | Book, after: str | Path | Book, *more: str | Path | Book, anyway: bool = False
) -> Contrast | Contrasts:
    """What changed between two logbooks, or step by step along several, and whether the change is real.

    Args:
        before, after, more: logbooks, or parts of them, in their order.
        anyway: compare even where the machines differ.

    Returns:
        a `Contrast`; of more than two logbooks `Contrasts`.

    Raises:
        LogarithmError: where they are not alike, or cannot be read.
    """
    from ..statistics.logbooks.contrast import contrast as compare

    return compare([logbook_of(path) for path in (before, after, *more)], anyway)


def across(*logbooks: str | Path | Book) -> Across:
    """What holds on several machines, or under several interpreters: each by itself, and all together.

    Args:
        logbooks: of one study, or parts of them.

    Returns:
        an `Across`.

    Raises:
        LogarithmError: where they are of different studies, or cannot be read.
    """
    from ..statistics.logbooks.across import across as side_by_side

    books = [logbook_of(each) for each in logbooks]
    return side_by_side({book.path.stem: findings_of(book) for book in books})
