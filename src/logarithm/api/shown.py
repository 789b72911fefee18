"""Results that print themselves as the commands do, and can be drawn, tabled and written as pages."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from ..protocol.messages import Walked
from ..report.contents.verdicts import Verdict, verdicts
from .assess import Assessed
from .worst import Found

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure
    from rich.console import RenderableType

    from ..grading.grades import Row
    from ..report.contents.worst import Case
    from ..results.findings import Findings

WIDE = 120


class Shown:
    """Something that prints itself as the command does."""

    def __init__(self, *parts: RenderableType) -> None:
        self._parts = parts

    def __repr__(self) -> str:
        from ..report.text.terminal import plainly

        return "\n".join(
            "\n".join(line.rstrip() for line in plainly(part, WIDE).splitlines()) + "\n" for part in self._parts
        )


class ShownVerdicts(Shown):
    """Claims with their verdicts; `fails` says whether any fails."""

    def __init__(self, rows: Sequence[Verdict]) -> None:
        self.rows = list(rows)
        super().__init__(verdicts(rows))

    def __iter__(self) -> Iterator[Verdict]:
        return iter(self.rows)

    @property
    def fails(self) -> bool:
        """Whether a claim fails."""
        return any(row.fails for row in self.rows)

    def to_frame(self) -> pd.DataFrame:
        """A row for each claim: contender, where, claim, verdict, found, fails."""
        import pandas as pd

        return pd.DataFrame([asdict(row) for row in self.rows])


class ShownSearch(Shown):
    """What a search for worst cases found. `cases` holds it contender by contender, `findings` how it grows."""

    def __init__(self, found: Found) -> None:
        from ..report.text.worst import render

        self._found = found
        self.cases: list[Case] = found.cases
        self.findings: Findings = found.findings
        super().__init__(render(found.cases, found.findings))

    def keep(self, path: str | Path) -> Path:
        """Write the instances down as JSON, for `Study.family_from`. Returns the file's path."""
        self._found.keep(Path(path))
        return Path(path)

    def plot(self) -> Figure:
        """A figure: for each contender a band from the best to the worst found, with what is typical in it."""
        from ..report.figure.worst import draw_worst

        return draw_worst(self.cases, self.findings)

    def to_frame(self) -> pd.DataFrame:
        """A row for each contender, family and stage: what is done typically and at most, and by which inputs."""
        import pandas as pd

        return pd.DataFrame([asdict(case) for case in self.cases]).drop(columns="suffix")


class ShownWalk(Shown):
    """What a contender does on one small instance. `events` holds each event."""

    def __init__(self, title: str, found: Walked, most: int = 200) -> None:
        from ..report.text.walk import chosen, render

        self._title, self._found, self._rows = title, found, chosen(found)
        self.events = found.events
        self.answer = found.answer
        super().__init__(render(title, found, self._rows, most))

    def plot(self) -> Figure:
        """A figure, an event a line."""
        from ..report.figure.walk import draw_walk

        return draw_walk(self._title, self._found, self._rows)

    def page(self, path: str | Path) -> Path:
        """Write a page to step through. Returns its path."""
        from ..logbook.files import write_file
        from ..report.page.walk import walk_page

        write_file(Path(path), walk_page(self._title, self._found))
        return Path(path)


class ShownClass(Shown):
    """What a class handed in, a row for each submission. `weaknesses` are sentences on what the referee lets pass."""

    def __init__(self, seen: Assessed) -> None:
        from ..report.page.assessed import render

        self._seen = seen
        self.rows: list[Row] = seen.rows
        self.weaknesses, self.logbook = seen.weaknesses, seen.logbook
        super().__init__(render(seen.title, seen.rows))

    def _repr_html_(self) -> str:
        return self.to_frame().to_html(index=False, na_rep="")

    def to_frame(self) -> pd.DataFrame:
        """The table: verdict, orders, the order asked for, time and steps as multiples of the reference's, marks."""
        import io

        import pandas as pd

        from ..report.page.assessed import as_csv

        return pd.read_csv(io.StringIO(as_csv(self.rows)))

    def pages(self, folder: str | Path) -> Path:
        """Write a page for each submission, to hand back. Returns the folder."""
        from ..report.page.assessed import write_pages

        write_pages(self._seen.title, self.rows, Path(folder), self._seen.question)
        return Path(folder)
