"""Questions: comparisons that are counted once, whatever is compared and whatever happens inside."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..tallies import COMPARISONS, HASHES, QUICK
from .watching import TOLD

_comparisons, _hashes = QUICK[COMPARISONS], QUICK[HASHES]


def one_question(compare: Callable[[Any, Any], Any], sign: str) -> Callable[[Any, Any], Any]:
    """A comparison that counts as one, with nothing counted inside it."""

    def compared(self: Any, other: Any) -> Any:
        before, watcher = _comparisons[0], TOLD.watcher
        TOLD.watcher = None
        try:
            answer = compare(self, other)
        finally:
            _comparisons[0], TOLD.watcher = before + 1, watcher
        if watcher is not None:
            watcher(sign, None, (self, other))
        return answer

    return compared


asked = one_question(lambda value, wanted: value is wanted or value == wanted, "==")
"""Whether a container's value is the one that is wanted."""
is_less = one_question(lambda one, other: one < other, "<")


class Question:
    """An item as `sorted`, `min` and `max` compare it, wherever it comes from: each comparison counts as one."""

    __slots__ = ("of",)

    def __init__(self, of: Any) -> None:
        self.of = of

    def __lt__(self, other: Question) -> Any:
        return is_less(self.of, other.of)

    def __gt__(self, other: Question) -> Any:
        return _is_more(self.of, other.of)

    def __eq__(self, other: object) -> Any:
        # Asked before "less" where pairs are compared: both together are one question.
        before = _comparisons[0]
        answer = isinstance(other, Question) and asked(self.of, other.of)
        if not answer:
            _comparisons[0] = before
        return answer

    __hash__ = None  # type: ignore[assignment]


_is_more = one_question(lambda one, other: one > other, ">")


Key = Callable[[Any], Any] | None


def questions_by(key: Key) -> Callable[[Any], Question]:
    """The key by which values, or what a key makes of them, are compared as questions."""
    return Question if key is None else lambda value: Question(key(value))


def arranged(values: list[Any], key: Key = None, reverse: Any = False) -> list[Any]:
    """Values in order, by the comparisons that `list.sort` makes."""
    return sorted(values, key=questions_by(key), reverse=reverse)


class one_hash:  # noqa: N801
    """Counts what happens within it as one hash, whatever a set or a dictionary asks its keys to find one."""

    __slots__ = ("comparisons", "hashes", "watcher")

    def __enter__(self) -> None:
        self.hashes, self.comparisons, self.watcher = _hashes[0], _comparisons[0], TOLD.watcher
        TOLD.watcher = None

    def __exit__(self, *_: object) -> None:
        _hashes[0], _comparisons[0], TOLD.watcher = self.hashes + 1, self.comparisons, self.watcher
