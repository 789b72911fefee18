"""What a task is doing while it goes on: a view or a bar on a terminal, a bar in a notebook, a line now and then.

All of it is on standard error, or below the cell of a notebook.
"""

from __future__ import annotations

import logging
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from ..results.questions import Look
from ..version import __version__

if TYPE_CHECKING:
    from rich.console import Console, RenderableType

LOG = "logarithm.log"
NOW_AND_THEN = 10.0  # seconds between two lines in a pipe
A_SECOND = 2  # how often a view is drawn

Progress = Callable[[float, str], None]
"""Called with the share that is done, and what is being done."""


class Seen(Protocol):
    """Who has seen what is known of a run so far."""

    last: Look


def warn(message: str) -> None:
    """A word of warning, on standard error."""
    sys.stderr.write(f"warning: {message}\n")


def _silent(_share: float, _what: str) -> None:
    """Progress that nobody is told of."""


@contextmanager
def watching(
    name: str, budget: float, seen: Seen, logbook: Path, quiet: bool = False, verbose: bool = False
) -> Iterator[Progress]:
    """Show a run. Yields what is called with the share of the budget that is used, and what is done.

    Args:
        name: of the study.
        budget: seconds.
        seen: who has seen what is known so far.
        logbook: beside which the log is kept.
        quiet: say nothing.
        verbose: log what is decided and why, instead of the view.
    """
    from rich.console import Console

    console = Console(stderr=True)
    if quiet:
        yield _silent
    elif verbose:
        with _logged(logbook.with_name(LOG)):
            yield _silent
    elif _is_notebook():
        yield from _in_notebook()
    elif console.is_terminal:
        yield from _view(name, budget, seen, console)
    else:
        yield _lines(budget)


@contextmanager
def bar(quiet: bool = False) -> Iterator[Progress]:
    """A bar: a sign of life, the share that is done, the time left, what is being done. Nothing where nobody looks."""
    if quiet:
        yield _silent
        return
    if _is_notebook():
        yield from _in_notebook()
        return
    from rich.console import Console
    from rich.progress import BarColumn, Progress, SpinnerColumn, TaskProgressColumn, TextColumn, TimeRemainingColumn

    columns = (
        SpinnerColumn("line"),
        BarColumn(30),
        TaskProgressColumn(),
        TimeRemainingColumn(),
        TextColumn("{task.description}", markup=False),
    )
    console = Console(stderr=True)
    with Progress(*columns, console=console, transient=True, disable=not console.is_terminal) as shown:
        task = shown.add_task("starting", total=1.0)
        yield lambda share, what: shown.update(task, completed=share, description=what)


@contextmanager
def _logged(file: Path) -> Iterator[None]:
    """The log of the package on standard error and in a file, each line with the seconds since the beginning."""
    begun = time.time()

    class Seconds(logging.Formatter):
        def format(self, record: logging.LogRecord) -> str:
            return f"{record.created - begun:7.2f} s  {record.getMessage()}"

    handlers: list[logging.Handler] = [logging.StreamHandler(sys.stderr)]
    with suppress(OSError):  # where it cannot be written, standard error must do
        handlers.append(logging.FileHandler(file, encoding="utf-8", errors="replace"))
    logger = logging.getLogger("logarithm")
    before = logger.level
    for handler in handlers:
        handler.setFormatter(Seconds())
        logger.addHandler(handler)
    logger.setLevel(logging.INFO)
    logger.info("logarithm %s, %s", __version__, datetime.now().astimezone().isoformat(timespec="seconds"))
    try:
        yield
    finally:
        for handler in handlers:
            logger.removeHandler(handler)
            handler.close()
        logger.setLevel(before)


def _lines(budget: float) -> Progress:
    """A line at most every few seconds; a run that is short says nothing."""
    last = time.monotonic()

    def progress(share: float, what: str) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= NOW_AND_THEN:
            last = now
            sys.stderr.write(f"{share * budget:.0f} s of at most {budget:.0f} s: {what}\n")

    return progress


def _view(name: str, budget: float, seen: Seen, console: Console) -> Iterator[Progress]:
    """A view that a thread draws twice a second; trials are timed in other processes, which it does not touch."""
    from rich.live import Live

    from .text.live import View, render

    shown = View(name, 0.0, budget, "starting")
    used = time.monotonic()

    def drawn() -> RenderableType:
        # Between two reports of progress the time goes on.
        shown.elapsed = max(shown.elapsed, time.monotonic() - used)
        shown.look = seen.last
        return render(shown, console.width, console.height)

    def progress(share: float, what: str) -> None:
        nonlocal used
        used = time.monotonic() - share * budget
        shown.doing = what

    with Live(get_renderable=drawn, console=console, refresh_per_second=A_SECOND, transient=True):
        yield progress


def _is_notebook() -> bool:
    shell = sys.modules["IPython"].get_ipython() if "IPython" in sys.modules else None
    return shell is not None and not sys.stderr.isatty()


def _in_notebook() -> Iterator[Progress]:
    """A bar below the cell, drawn twice a second, which goes away at the end."""
    from html import escape

    from IPython.display import HTML, display  # type: ignore[import-not-found, unused-ignore]

    shown, last = display(HTML(""), display_id=True), time.monotonic()

    def tell(share: float, what: str) -> None:
        nonlocal last
        if time.monotonic() - last > 1 / A_SECOND:
            last = time.monotonic()
            drawn = f'<progress value="{share:.3f}" max="1" style="width: 20em"></progress>'
            shown.update(HTML(f"{drawn} <small>{escape(what)}</small>"))

    try:
        yield tell
    finally:
        shown.update(HTML(""))
