"""What a run is doing: a bar in a notebook or on a terminal, nothing elsewhere."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

Progress = Callable[[float, str], None]


@contextmanager
def progress(quiet: bool) -> Iterator[Progress]:
    """Yields what is called with the share that is done, and what is being done."""
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
