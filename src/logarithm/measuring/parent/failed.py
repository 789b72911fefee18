"""A request to a contender that came to nothing."""

from __future__ import annotations


class Failed(Exception):
    """Why a request came to nothing: `reason` in a word or two, `detail` in a line."""

    def __init__(self, reason: str, detail: str = "") -> None:
        super().__init__(f"{reason}: {detail}")
        self.reason = reason
        self.detail = detail
