"""Which figure and page belongs to which result; this is how results show themselves."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from ..errors import LogarithmError
from ..results.base import Result
from ..results.findings import Findings
from ..results.tasks.exercise import Exercise
from ..results.tasks.grades import Class
from ..results.tasks.history import History
from ..results.tasks.walk import Walk
from ..results.tasks.worst import Search
from .documents import exercise
from .result_documents import WIDE, document_of

if TYPE_CHECKING:
    from matplotlib.figure import Figure


def rendered(result: Result, form: str, width: int = WIDE, **choices: Any) -> str:
    """A result as text of at most so many columns, Markdown, a page or JSON."""
    if form == "json":
        return result.json() + "\n"
    if form == "html":
        from .page.page import page

        return page(result)
    if isinstance(result, Findings):
        choices = {"width": width, **choices}
    document = document_of(result, **choices)
    if form == "markdown":
        from .text.markdown import markdown

        return markdown(document)
    from .text.terminal import text

    return text(document, width)


class Reports:
    """The presenter of this package."""

    def render(self, result: Result, form: str, **choices: Any) -> str:
        """A result as text, markdown or html."""
        return rendered(result, form, **choices)

    def fragment(self, result: Result) -> str:
        """A result as a piece of HTML, for a notebook."""
        from .page.page import fragment

        return fragment(result)

    def draw(self, result: Result, **choices: Any) -> Figure:
        """A result as a figure.

        Raises:
            LogarithmError: where there is nothing to draw.
        """
        if isinstance(result, Findings):
            from .figure.views import draw, draw_into, sheets

            ax = choices.pop("ax", None)
            if ax is not None:
                return draw_into(ax, result, choices["view"], choices["linear"])
            return draw(sheets(result)[0], **choices)
        if isinstance(result, Search):
            from .figure.charts.worst import draw_worst

            return draw_worst(result, **choices)
        if isinstance(result, History):
            from .figure.charts.history import draw_history

            return draw_history(result, **choices)
        if isinstance(result, Walk):
            from .figure.walks import draw_walk

            return draw_walk(result, **choices)
        raise LogarithmError(f"a {type(result).__name__} has no figure")

    def write_pages(self, result: Result, folder: Path) -> None:
        """A page for each submission of a class."""
        from .page.page import write_submissions

        assert isinstance(result, Class)
        write_submissions(result, folder)


def written_exercise(found: Exercise, folder: Path, overwrite: bool) -> list[Path]:
    """Write what students get into a folder.

    Raises:
        LogarithmError: where a file is there already, and is not to be replaced.
    """
    from ..logbook.files import write_file
    from .page.page import written
    from .text.markdown import markdown

    document = exercise.exercise(found)
    texts: dict[str, str | bytes] = {
        "exercise.html": written(document),
        "exercise.md": markdown(document),
        "exercise.json": msgspec.json.encode(found),
    }
    folder.mkdir(parents=True, exist_ok=True)
    made = [folder / name for name in texts]
    there = next((each for each in made if each.exists()), None)
    if there is not None and not overwrite:
        raise LogarithmError(f"{there} exists: choose another folder, or say --overwrite")
    for path, text in zip(made, texts.values(), strict=True):
        write_file(path, text)
    return made
