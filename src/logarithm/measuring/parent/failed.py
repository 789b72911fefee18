"""A request to a contender that came to nothing."""

from __future__ import annotations

import signal


class Failed(Exception):
    """Why a request came to nothing: `reason` in a word or two, `detail` in a line."""

    def __init__(self, reason: str, detail: str = "") -> None:
        super().__init__(f"{reason}: {detail}")
        self.reason = reason
        self.detail = detail


def exit_of(code: int, said: str = "") -> Failed:
    """A process that left, by its exit code; `said` is the last line of its standard error."""
    if code >= 0:
        return Failed("exit", f"exit code {code}" + (f": {said}" if said else ""))
    try:
        return Failed("crash", f"its process was ended by {signal.Signals(-code).name}")
    except ValueError:
        return Failed("crash", f"its process was ended by signal {-code}")
