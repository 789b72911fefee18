"""The command line: parses, calls, prints. Everything heavy loads only where a command needs it."""

from __future__ import annotations

import sys


def main() -> None:
    """Run the command line; the version is told before anything is loaded."""
    if sys.argv[1:] == ["--version"]:
        from ..version import __version__

        sys.stdout.write(f"logarithm {__version__}\n")
        return
    from .app import run

    run()
