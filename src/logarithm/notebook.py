"""Everything the command line does, from Python: in a script, or in a notebook, where findings show themselves.

from logarithm import Study, contrast, read_logbook
found = study.measure(budget="10s")       # the answer, and the growth view
found.to_frame("crossovers")              # a pandas table
found.plot("ratio")                       # a Matplotlib figure
found.forecast(at=1e6)
contrast("before.jsonl", "after.jsonl")
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, fields
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .advising import Adviser
from .analysis.analyse import analyse
from .analysis.comparing.contrast import Change, differences
from .analysis.comparing.contrast import contrast as compared
from .analysis.findings import Findings
from .analysis.forecasting import ahead
from .errors import LogarithmError, MeasuringError, StudyError, there
from .logbook.exporting import frame_of
from .logbook.reading import Logbook
from .logbook.reading import read_logbook as read
from .logbook.writing import LogbookWriter, fresh_path
from .measuring.plan.settings import Settings
from .measuring.run.measure import measure
from .notation.durations import capacity, seconds
from .notation.sizes import ladder
from .study.cells import file_of, written_down
from .study.loading import is_loading
from .study.study import Study

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.figure import Figure

FRAMES = ("growth", "crossovers", "standings", "costs", "claims", "failures", "breakeven", "pairs")
Progress = Callable[[float, str], None]


class ShownFindings(Findings):
    """Findings that show themselves."""

    def __repr__(self) -> str:
        from .report.text.terminal import text

        return text(self)

    def _repr_html_(self) -> str:
        from .report.page.page import fragment

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

    def plot(self, view: str = "growth", linear: bool = False) -> Figure:
        """A figure: growth, ratio, spread or standings.

        Raises:
            LogarithmError: where there is no such view, or nothing to draw in it.
        """
        from .report.figure.views import draw

        return draw(self, view, linear)

    def forecast(self, at: float | None = None, within: str | None = None) -> pd.DataFrame:
        """What each contender will cost at a size, or how large a size it manages within a time, with 95 %.

        Args:
            at: a size.
            within: a span of time, such as "1s".

        Raises:
            LogarithmError: where neither or both are given, or nothing can be forecast.
        """
        return ShownLogbook.of(read(self.run.logbook)).forecast(at, within)

    def page(self, path: str | Path) -> Path:
        """Write the page: one HTML file. Returns its path."""
        from .logbook.files import write_file
        from .report.page.page import page

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

    def to_frame(self) -> pd.DataFrame:
        """The trials as a table: contender, family, stage, metric, size, heat, life, value (seconds for time)."""
        return frame_of(self)

    def forecast(self, at: float | None = None, within: str | None = None) -> pd.DataFrame:
        """See `ShownFindings.forecast`."""
        import pandas as pd

        if (at is None) == (within is None):
            raise LogarithmError('say either at=1e6, a size, or within="1s", a time')
        limit = None if within is None else seconds(within)
        return pd.DataFrame([asdict(each) for each in ahead(self, at, limit)])

    def _repr_html_(self) -> str:
        return self.findings()._repr_html_()


class Contrast:
    """What changed between two logbooks, contender by contender. `changes` holds all of it."""

    def __init__(self, before: Logbook, after: Logbook, warnings: Sequence[str]) -> None:
        self.warnings = list(warnings)
        self.names = before.path.stem, after.path.stem
        self.axis = "n" if before.study.axis == "size" else before.study.axis
        changes, self.moved = compared(before, after, (analyse(before), analyse(after)))
        self.changes: list[Change] = changes

    def __repr__(self) -> str:
        from .report.text.depth import contrasted
        from .report.text.terminal import WIDE, plainly

        return plainly(contrasted(self.changes, self.moved, self.names, self.axis), WIDE)

    def to_frame(self) -> pd.DataFrame:
        """A row for each contender, family, stage and metric."""
        import pandas as pd

        return pd.json_normalize([asdict(each) for each in self.changes], max_level=1)


def read_logbook(path: str | Path) -> ShownLogbook:
    """Read a logbook. Nothing in it is run.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.
    """
    return ShownLogbook.of(read(path))


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


def measured(study: Study, budget: str, out: str | Path | None = None, **given: Any) -> ShownFindings:
    """Measure a study from Python; see `Study.measure`."""
    quiet = given.pop("quiet", False)
    settings = _settings(study, budget, given)
    path = Path(out) if out is not None else fresh_path(study.name)
    with _file(study, path) as file, LogbookWriter(path) as writer, _progress(quiet) as progress:
        measure(study, file, settings, writer, progress, Adviser())
    found = read_logbook(path).findings()
    if not found.costs:
        raise MeasuringError(f"nothing was measured; what there is stands in {path}")
    return found


def rehearsed(study: Study, sizes: str | None = None) -> str:
    """Rehearse a study from Python; see `Study.rehearse`."""
    from .measuring.parent.tools import absent
    from .measuring.plan.track import tracks
    from .measuring.rehearsing.rehearsal import first_crew, rehearse

    settings = _settings(study, "60s", {} if sizes is None else {"sizes": sizes})
    own = tracks(study, settings, absent(study))
    with _file(study, fresh_path(study.name)) as file, first_crew(study, file, own, settings) as crew:
        found = rehearse(study, own, crew, float("inf"))
    verdict = "The answers disagree." if found.disagreements else f"The answers agree ({found.compared} instances)."
    failures = [f"{name} on {family}: {failed.reason} at {size}" for name, family, size, failed in found.failures]
    return "\n".join(
        [verdict, *map(str, found.disagreements), *failures, *(f"{t.contender}: {t}" for t in found.traps)]
    )


def _settings(study: Study, budget: str, given: dict[str, Any]) -> Settings:
    """The dials of a run as Python users write them.

    Raises:
        StudyError: where one is unknown, or cannot be read.
    """
    study.check()
    known: dict[str, Callable[[Any], Any]] = {
        **{"ceiling": seconds, "memory": capacity, "seed": int, "anyway": bool, "same": bool, "whole": bool},
        **{"sizes": ladder, "family": _names, "only": _names, "metric": _names},
    }
    unknown = [name for name in given if name not in known]
    if unknown:
        raise StudyError(f"measure knows no '{unknown[0]}': {there(sorted(known), 20)}")
    read = {name: known[name](value) for name, value in given.items()}
    fields_of = {"family": "families", "only": "contenders", "metric": "metrics"}
    study.check_sizes(read.get("sizes"))
    for name in read.get("only", ()):
        study.the_contender(name)
    for name in read.get("family", ()):
        study.the_family(name)
    return Settings(budget=seconds(budget), **{fields_of.get(name, name): value for name, value in read.items()})


def _names(value: str | Sequence[str]) -> tuple[str, ...]:
    return (value,) if isinstance(value, str) else tuple(value)


@contextmanager
def _file(study: Study, logbook: Path) -> Iterator[Path]:
    """The study's own file; where it was defined in a notebook, one that is written beside the logbook."""
    if is_loading():
        raise StudyError('study.measure() in the file of a study must stand under if __name__ == "__main__":')
    own = file_of(study)
    if own is not None:
        yield own
        return
    file = logbook.with_suffix(".py")
    text = written_down(study)
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text, encoding="utf-8")
    yield file


@contextmanager
def _progress(quiet: bool) -> Iterator[Progress]:
    """What a run is doing: a bar in a notebook or on a terminal, nothing elsewhere."""
    if quiet:
        yield lambda *_: None
    elif "IPython" in sys.modules and sys.modules["IPython"].get_ipython() is not None and not sys.stderr.isatty():
        yield from _in_notebook()
    elif sys.stderr.isatty():
        from rich.console import Console
        from rich.progress import BarColumn, Progress, TextColumn

        with Progress(
            BarColumn(), TextColumn("{task.description}"), console=Console(stderr=True), transient=True
        ) as shown:
            task = shown.add_task("", total=1.0)
            yield lambda share, what: shown.update(task, completed=share, description=what)
    else:
        yield lambda *_: None


def _in_notebook() -> Iterator[Progress]:
    """A bar below the cell, drawn twice a second, which goes away at the end."""
    from html import escape

    from IPython.display import HTML, display  # type: ignore[import-not-found, unused-ignore]

    shown, last = display(HTML(""), display_id=True), [0.0]

    def tell(share: float, what: str) -> None:
        if time.monotonic() - last[0] > 0.5:
            last[0] = time.monotonic()
            bar = f'<progress value="{share:.3f}" max="1" style="width: 20em"></progress>'
            shown.update(HTML(f"{bar} <small>{escape(what)}</small>"))

    try:
        yield tell
    finally:
        shown.update(HTML(""))
