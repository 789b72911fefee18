"""Pools of instances that a trial takes in turn, their copies, and whether an instance was changed."""

from __future__ import annotations

import copy
import pickle
import sys
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from ...protocol.clock import UNROLLED, Ten, now
from ...protocol.requests import MAKING_MOST, seed_of

COPIES_BYTES = 64 * 2**20
POOL_BYTES = 32 * 2**20
_ATOMS = (int, float, str, bytes, bool, type(None))

Make = Callable[[int], Any]
"""Makes the instance of a seed."""


@dataclass(slots=True)
class Pool:
    """Instances of one family and size, made where they are first needed.

    Attributes:
        make: makes the instance of a seed.
        seed: of the first one.
        instances: those made so far.
        making: nanoseconds that making them took.
    """

    make: Make
    seed: int
    instances: list[Any] = field(default_factory=list)
    making: int = 0
    _copiers: list[Callable[[], Any]] = field(default_factory=list)
    _tens: tuple[int, list[Ten]] = (0, [])
    _bytes: int | None = None

    def hold(self, count: int, within: float = MAKING_MOST) -> int:
        """Make as many instances as are asked for, or as time and memory allow. Returns how many there are.

        Args:
            count: how many.
            within: nanoseconds that making the pool may take in all.
        """
        while len(self.instances) < count:
            if self.instances and (self.making > within or len(self.instances) * self.size > POOL_BYTES):
                break
            start = now()
            self.instances.append(self.make(seed_of(self.seed, len(self.instances))))
            self.making += now() - start
        return min(count, len(self.instances))

    @property
    def size(self) -> int:
        """Bytes of one instance, about."""
        if self._bytes is None:
            first = self.instances[0]
            self._bytes = len(as_bytes(first) or b"") + sys.getsizeof(first)
        return self._bytes

    @property
    def is_single(self) -> bool:
        """Whether two seeds make the same instance: then there is one of this size only."""
        two = [as_bytes(each) for each in self.instances[:2]]
        return len(two) > 1 and two[0] is not None and two[0] == two[1]

    def some(self, count: int, first: int, among: int) -> list[Any]:
        """So many of the instances, in turn, beginning with one, going round `among` of them."""
        at = first % among
        if at + count <= among:
            return self.instances[at : at + count]
        whole = self.instances[:among]
        return [*whole[at:], *whole * (count // among), *whole][:count]

    def tens(self, count: int, first: int, among: int, view: Callable[[Any], Any] | None = None) -> list[Ten]:
        """The same, ten by ten; `count` is a multiple of ten. They begin at the ten that holds the first or before.

        Where there is a `view` of instances, always the same, that is in place of each.
        """
        if self._tens[0] != among:
            turns = among if among % UNROLLED else among // UNROLLED
            row = self.some(turns * UNROLLED, 0, among)
            row = row if view is None else [*map(view, row)]
            self._tens = among, [tuple(row[at : at + UNROLLED]) for at in range(0, len(row), UNROLLED)]
        tens = self._tens[1]
        wanted, at = count // UNROLLED, (first // UNROLLED) % len(tens)
        if at + wanted <= len(tens):
            return tens[at : at + wanted]
        return [*tens[at:], *tens * (wanted // len(tens)), *tens][:wanted]

    def copies(self, count: int, first: int, among: int) -> list[Any]:
        """Copies of the instances in turn, as many as are asked for or the bound on memory allows, at least one."""
        while len(self._copiers) < among:
            number = len(self._copiers)
            again = partial(self.make, seed_of(self.seed, number))
            self._copiers.append(copier(self.instances[number], again))
        count = max(1, min(count, COPIES_BYTES // max(self.size, 1)))
        return [self._copiers[(first + each) % among]() for each in range(count)]


def as_bytes(instance: Any) -> bytes | None:
    """The instance as bytes by which a change of it is seen; None where it has none."""
    try:
        return pickle.dumps(instance, protocol=pickle.HIGHEST_PROTOCOL)
    except Exception:  # whatever the pickling of foreign classes raises
        return None


def copier(instance: Any, again: Callable[[], Any]) -> Callable[[], Any]:
    """The cheapest way to a copy that shares nothing that can be changed.

    Args:
        instance: to copy.
        again: makes the instance anew, for one that cannot be copied.
    """
    if isinstance(instance, _ATOMS):
        return lambda: instance
    flat = type(instance) in (list, set, bytearray, deque) and all(type(item) in _ATOMS for item in instance)
    if flat or (type(instance) is list and all(_is_fixed(item) for item in instance)):
        return instance.copy  # type: ignore[no-any-return]
    own = as_bytes(instance)
    return again if own is None else partial(pickle.loads, own)


def _is_fixed(item: Any) -> bool:
    return type(item) in _ATOMS or (type(item) is tuple and all(type(part) in _ATOMS for part in item))


def is_changed(instance: Any, before: bytes | None, untouched: Any) -> bool | None:
    """Whether a call has changed its instance; None where that cannot be told.

    Args:
        instance: that the call was given.
        before: its bytes before the call; None where it has none.
        untouched: the same instance, made anew.
    """
    if before is not None:
        return as_bytes(instance) != before
    same = is_same(instance, untouched)
    return None if same is None else not same


def is_same(one: Any, other: Any, depth: int = 0) -> bool | None:
    """Whether two values are made of the same parts; None where that cannot be told.

    >>> is_same([1, {"pier": (2,)}], [1, {"pier": (2,)}]), is_same([1], [2]), is_same(iter([1]), iter([1]))
    (True, False, None)
    """
    if one is other:
        return True
    if type(one) is not type(other) or depth > 50:
        return False if depth <= 50 else None
    if isinstance(one, (*_ATOMS, bytearray, complex)):
        return bool(one == other)
    if isinstance(one, (list, tuple, deque)):
        return _all_same(list(one), list(other), depth)
    if isinstance(one, dict):
        return _all_same([*one, *one.values()], [*other, *other.values()], depth)
    if isinstance(one, (set, frozenset)):
        return _all_same(sorted(one, key=repr), sorted(other, key=repr), depth)
    held, beside = getattr(one, "__dict__", None), getattr(other, "__dict__", None)
    slots = [name for kind in type(one).__mro__ for name in getattr(kind, "__slots__", ())]
    if held is None and not slots:
        return True if type(one).__eq__ is not object.__eq__ and one == other else None  # type: ignore[comparison-overlap]
    own, its = ([getattr(each, name, None) for name in slots if not name.startswith("__")] for each in (one, other))
    return _all_same([held, *own], [beside, *its], depth)


def _all_same(one: list[Any], other: list[Any], depth: int) -> bool | None:
    if len(one) != len(other):
        return False
    found = [is_same(a, b, depth + 1) for a, b in zip(one, other, strict=True)]
    return False if False in found else None if None in found else True


def copied(instance: Any) -> tuple[Any, bytes | None]:
    """A copy of an instance, and the bytes by which a change of it is seen; itself and None where it has none."""
    own = as_bytes(instance)
    if own is None:
        try:
            return copy.deepcopy(instance), None
        except Exception:  # an instance that cannot be copied is shared
            return instance, None
    spare = copier(instance, lambda: instance)()
    return spare, as_bytes(spare)
