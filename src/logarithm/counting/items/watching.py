"""Watching: each event on counted values and containers, told to whoever follows a walk."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

Watcher = Callable[[str, Any, tuple[Any, ...]], None]
"""Told of each event: what it was, the container (None for a comparison), and its places and values."""


class _Told:
    """Who is told: a place that all counted kinds share."""

    __slots__ = ("watcher",)

    def __init__(self) -> None:
        self.watcher: Watcher | None = None


TOLD = _Told()


@contextmanager
def watching(watcher: Watcher) -> Iterator[None]:
    """Hand every event to a watcher."""
    before, TOLD.watcher = TOLD.watcher, watcher
    try:
        yield
    finally:
        TOLD.watcher = before


@contextmanager
def unwatched() -> Iterator[None]:
    """Nobody is told meanwhile."""
    before, TOLD.watcher = TOLD.watcher, None
    try:
        yield
    finally:
        TOLD.watcher = before
