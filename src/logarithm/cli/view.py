"""A run while it goes on: a view on a terminal, a line now and then in a pipe, and a log for those who ask."""

from __future__ import annotations

import logging
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from ..version import __version__
from .common import tell

if TYPE_CHECKING:
    from rich.console import RenderableType

    from ..api.stopping import Adviser

LOG = "logarithm.log"
NOW_AND_THEN = 10.0  # seconds between two lines in a pipe
A_SECOND = 2  # how often the view is drawn

Progress = Callable[[float, str], None]


@contextmanager
def watching(
    name: str, budget: float, adviser: Adviser, logbook: Path, quiet: bool = False, verbose: bool = False
) -> Iterator[Progress]:
    """Show a run. Yields what is called with the share of the budget that is used, and what is done.

    Args:
        name: of the study.
        budget: seconds.
        adviser: who has seen what is known so far.
        logbook: beside which the log is kept.
        quiet: say nothing.
        verbose: log what is decided and why, instead of the view.
    """
    from rich.console import Console

    console = Console(stderr=True)
    if quiet:
        yield _nothing
    elif verbose:
        with _logged(logbook.with_name(LOG)):
            yield _nothing
    elif console.is_terminal:
        yield from _view(name, budget, adviser, console)
    else:
        yield _lines(budget)


def _nothing(_share: float, _what: str) -> None:
    """Progress that nobody is told of."""


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
            tell(f"{share * budget:.0f} s of at most {budget:.0f} s: {what}")

    return progress


def _view(name: str, budget: float, adviser: Adviser, console: object) -> Iterator[Progress]:
    """A view that a thread draws twice a second; trials are timed in other processes, which it does not touch."""
    from rich.console import Console
    from rich.live import Live

    from ..report.text.live import View, render

    assert isinstance(console, Console)
    shown = View(name, 0.0, budget, "starting")
    used = time.monotonic()

    def drawn() -> RenderableType:
        # Between two reports of progress the time goes on.
        shown.elapsed = max(shown.elapsed, time.monotonic() - used)
        shown.look = adviser.last
        return render(shown, console.width, console.height)

    def progress(share: float, what: str) -> None:
        nonlocal used
        used = time.monotonic() - share * budget
        shown.doing = what

    with Live(get_renderable=drawn, console=console, refresh_per_second=A_SECOND, transient=True):
        yield progress
