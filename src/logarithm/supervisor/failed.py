"""A request to a contender that came to nothing."""

from __future__ import annotations

import signal

from ..errors import harmless


class Failed(Exception):
    """Why a request came to nothing: `reason` in a word or two, `detail` in a line.

    `is_late` where we ended it for taking too long; an exception of the contender may be named "timeout" too.
    """

    def __init__(self, reason: str, detail: str = "", is_late: bool = False) -> None:
        # Both may be a contender's own words.
        self.reason, self.detail = harmless(reason), harmless(detail)
        super().__init__(f"{self.reason}: {self.detail}")
        self.is_late = is_late


def exit_of(code: int, said: str = "") -> Failed:
    """A process that left, by its exit code; `said` is the last line of its standard error."""
    if code >= 0:
        return Failed("exit", f"exit code {code}" + (f": {said}" if said else ""))
    try:
        return Failed("crash", f"its process was ended by {signal.Signals(-code).name}")
    except ValueError:
        return Failed("crash", f"its process was ended by signal {-code}")
