"""The command line: parses, calls, prints. Everything heavy loads only where a command needs it."""

from __future__ import annotations

import gc
import sys

GARBAGE_EVERY = 100_000  # new objects; the usual 700 costs a command a tenth of its time, and most live to its end


def main() -> None:
    """Run the command line; the version is told before anything is loaded."""
    if sys.argv[1:] == ["--version"]:
        from ..version import __version__

        sys.stdout.write(f"logarithm {__version__}\n")
        return
    gc.set_threshold(GARBAGE_EVERY)
    from .app import run

    run()
