"""A pattern of another size: an instance stretched to the shape of a larger or smaller one."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from .pieces import rebuilt


def stretched(pattern: Any, shape: Any) -> Iterator[Any]:
    """Instances of the shape of another one that follow a pattern, each in its own way.

    Args:
        pattern: an instance.
        shape: another one, of the size that is wanted.

    >>> list(stretched([2, 1, 0], [0, 1, 2, 3, 4, 5]))[0]
    [5, 4, 3, 2, 1, 0]
    """
    seen: list[Any] = []
    for way in (_by_rank, _by_column, _by_place, _again):
        made = _stretched(pattern, shape, way)
        if made is not None and made not in seen:
            seen.append(made)
            yield made


def _stretched(pattern: Any, shape: Any, way: Any) -> Any:
    if type(pattern) is not type(shape):
        return pattern if not isinstance(shape, list | tuple | str | bytes | dict) else None
    if isinstance(pattern, str | bytes | bytearray):
        made = way(list(pattern), list(shape))
        return None if made is None else rebuilt(shape, made)
    if isinstance(pattern, list):
        return way(pattern, shape) if pattern and shape else list(shape)
    if isinstance(pattern, tuple) and len(pattern) == len(shape):
        parts = [_stretched(one, other, way) for one, other in zip(pattern, shape, strict=True)]
        return None if any(part is None for part in parts) else tuple(parts)
    if isinstance(pattern, dict | set | frozenset):
        return None
    return pattern


def _by_rank(pattern: list[Any], shape: list[Any]) -> list[Any] | None:
    """Order kept, values those of the shape: what is said by the order of distinct values."""
    if any(isinstance(each, list | dict) for each in pattern):
        return None
    try:
        order = sorted(range(len(pattern)), key=lambda at: pattern[at])
        values = sorted(shape)
    except TypeError:
        return None
    rank = [0] * len(pattern)
    for place, at in enumerate(order):
        rank[at] = place
    ends = len(pattern) / len(shape)
    # Within a stretch of one item the direction goes on as it is around it.
    keys = []
    for at in range(len(shape)):
        place = min(int(at * ends), len(pattern) - 1)
        after = rank[min(place + 1, len(pattern) - 1)] - rank[max(place - 1, 0)]
        keys.append(rank[place] + (at * ends - place) * (1 if after >= 0 else -1))
    placed = sorted(range(len(shape)), key=lambda at: keys[at])
    made = list(shape)
    for value, at in zip(values, placed, strict=True):
        made[at] = value
    return made


def _by_column(pattern: list[Any], shape: list[Any]) -> list[Any] | None:
    """Records column by column: a column of one value keeps it, one of many values gets as many more of them."""
    width = len(pattern[0]) if isinstance(pattern[0], tuple) else 0
    records = [*pattern, *shape]
    if not width or not all(isinstance(each, tuple) and len(each) == width for each in records):
        return None
    columns = []
    for place in range(width):
        own, other = [each[place] for each in pattern], [each[place] for each in shape]
        if not all(type(each) in (int, float) for each in (*own, *other)) or len(set(own)) <= max(2, len(own) // 4):
            columns.append(_by_place(own, other))
        else:
            # As many different values as the shape is long, over the same range as its own.
            low, high = min(other), max(max(other), len(other) - 1)
            spread = [low + (high - low) * at / max(len(other) - 1, 1) for at in range(len(other))]
            is_whole = all(type(each) is int for each in other)
            columns.append(_by_rank(own, [round(each) if is_whole else each for each in spread]) or other)
    return list(zip(*columns, strict=True))


def _by_place(pattern: list[Any], shape: list[Any]) -> list[Any]:
    """Each item as long as its share: what is said by equal values and by blocks."""
    return [pattern[min(at * len(pattern) // len(shape), len(pattern) - 1)] for at in range(len(shape))]


def _again(pattern: list[Any], shape: list[Any]) -> list[Any]:
    """The pattern again and again: what is said by a schedule."""
    return [pattern[at % len(pattern)] for at in range(len(shape))]
