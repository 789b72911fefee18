"""Instances that a search has found, read from the file where they were kept, as families."""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from ...errors import StudyError, one_line, there
from ...notation.encoding import decoded
from ...notation.places import Who
from ...worst_case.stretch import stretched

FORMAT, VERSION = "logarithm-instances", 1
Make = Callable[[int, random.Random], Any]


def kept_instances(file: Path, of: str | None, kind: str) -> Iterator[tuple[str, Make]]:
    """A name and a maker of instances for each contender, and each family it was searched on.

    Raises:
        StudyError: where the file cannot be read, or holds no such instances.
    """
    try:
        read = json.loads(file.read_text(encoding="utf-8"))
    except FileNotFoundError:
        raise StudyError(
            f"{file}: there is no such file; logarithm worst STUDY --keep {file.name} writes one"
        ) from None
    except (OSError, ValueError, RecursionError) as error:
        raise StudyError(f"{file} cannot be read as JSON: {one_line(error, 80)}") from None
    try:
        yield from _named(file, read, of, kind)
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError, RecursionError) as error:
        raise StudyError(f"{file} is damaged: write it again with logarithm worst ({one_line(error, 80)})") from None


def _named(file: Path, read: Any, of: str | None, kind: str) -> Iterator[tuple[str, Make]]:
    """What a file holds; anything may be raised where it is damaged."""
    if not isinstance(read, dict) or read.get("format") != FORMAT or read.get("version", 0) > VERSION:
        raise StudyError(f"{file} is not a file of instances: logarithm worst STUDY --keep FILE writes one")
    rows = [row for row in read.get("instances", []) if row.get("kind") == kind and row.get("instance") is not None]
    if of is not None:
        known = list(dict.fromkeys(row["contender"] for row in rows))
        rows = [row for row in rows if row["contender"] == of]
        if not rows:
            raise StudyError(f"{file} has no instances of '{of}': {there(known)}")
    if not rows:
        raise StudyError(f"{file} has no instances of kind '{kind}': there are worst and best")
    groups: dict[Who, dict[int, Any]] = {}
    for row in rows:
        where = row["contender"], row["family"], row.get("stage")
        groups.setdefault(where, {})[int(row["size"])] = decoded(row["instance"])
    families = {family for _, family, _ in groups}
    for (contender, family, stage), by_size in groups.items():
        parts = [
            f"{kind} of {contender}",
            *([f"on {family}"] if len(families) > 1 else []),
            *([stage] if stage else []),
        ]
        yield " ".join(parts), _maker(by_size)


def _maker(by_size: dict[int, Any]) -> Make:
    """Makes the instance of a size: the one that was found, or the pattern of the nearest one stretched to it."""

    def make(n: int, _rng: random.Random) -> Any:
        if n in by_size:
            return by_size[n]
        nearest = min(by_size, key=lambda size: (abs(size - n), -size)) if n < max(by_size) else max(by_size)
        return next(stretched(by_size[nearest], shape_of(by_size[nearest], nearest, n)), by_size[nearest])

    return make


def shape_of(instance: Any, size: int, wanted: int) -> Any:
    """An instance of the wanted size, as like a given one as can be: its sequences as long as their share says.

    >>> shape_of([2, 1, 0], 3, 5)
    [0, 1, 2, 3, 4]
    """
    if isinstance(instance, list):
        many = round(len(instance) * wanted / size)
        if instance and all(type(each) is int for each in instance) and len(set(instance)) == len(instance):
            step = max(1, (max(instance) - min(instance)) // max(len(instance) - 1, 1))
            return [min(instance) + step * at for at in range(many)]
        return [instance[at * len(instance) // many] for at in range(many)] if instance else []
    if isinstance(instance, str | bytes | bytearray):
        many = round(len(instance) * wanted / size)
        return (instance * (many // max(len(instance), 1) + 1))[:many]
    if isinstance(instance, tuple):
        return tuple(
            shape_of(each, size, wanted) if isinstance(each, list | str | bytes) and len(each) >= size // 2 else each
            for each in instance
        )
    return instance
