"""Changes of an instance of kinds that matter: its order, values made equal, extreme or repeated, another's part.

An instance may be made of numbers, texts, bytes, lists, tuples, sets and dictionaries, nested. Its length stays.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from typing import Any

from .pieces import in_order, rebuilt

Change = Callable[[Any, random.Random], Any]
"""A changed copy of an instance."""

HERE = 0.8  # how often a list of things that can be changed themselves is changed as a whole
RECORDS = 0.4  # how often one value of a list of records is changed
LETTERS = "abz"


def changed(instance: Any, rng: random.Random, other: Any = None, order_only: bool = False) -> Any:
    """A changed copy.

    Args:
        instance: what is changed; it stays as it is.
        rng: the chance.
        other: another instance, of which a part may be taken.
        order_only: exchange, move, reverse and sort only, so that the items stay the same ones.

    >>> sorted(changed([3, 1, 2], random.Random(1), order_only=True))
    [1, 2, 3]
    """
    if isinstance(instance, list):
        return _list(instance, rng, other, order_only)
    if isinstance(instance, str | bytes | bytearray):
        beside = list(other) if isinstance(other, type(instance)) else None
        return rebuilt(instance, _items(list(instance), rng, beside, order_only))
    if isinstance(instance, tuple):
        return _tuple(instance, rng, other, order_only)
    if isinstance(instance, dict):
        return _dict(instance, rng, order_only)
    if isinstance(instance, set | frozenset):
        items = sorted(instance, key=repr)
        if items and not order_only:
            items[rng.randrange(len(items))] = value(items, rng)
        # A set that would lose an item stays as it is: its size is what is being looked at.
        return type(instance)(items) if len(set(items)) == len(instance) else instance
    if isinstance(instance, int | float) and not isinstance(instance, bool) and not order_only:
        return value([instance], rng)
    return instance


def _list(instance: list[Any], rng: random.Random, other: Any, order_only: bool) -> list[Any]:
    nested = [at for at, each in enumerate(instance) if isinstance(each, list | tuple | dict | set)]
    if nested and rng.random() > HERE:
        made = list(instance)
        at = rng.choice(nested)
        made[at] = changed(made[at], rng, instance[rng.randrange(len(instance))], order_only)
        return made
    return _items(instance, rng, other if isinstance(other, list) else None, order_only)


def _tuple(instance: tuple[Any, ...], rng: random.Random, other: Any, order_only: bool) -> tuple[Any, ...]:
    """A tuple is a record: its parts are changed, never exchanged; long parts before short ones."""
    if not instance:
        return instance
    weights = [len(each) + 1 if isinstance(each, list | str | bytes | dict | set | tuple) else 1 for each in instance]
    at = rng.choices(range(len(instance)), weights)[0]
    beside = other[at] if isinstance(other, tuple) and len(other) == len(instance) else None
    made = list(instance)
    if beside is not None and not order_only and not isinstance(made[at], list | tuple) and rng.random() < 0.3:
        made[at] = beside
    else:
        made[at] = changed(made[at], rng, beside, order_only)
    return tuple(made)


def _dict(instance: dict[Any, Any], rng: random.Random, order_only: bool) -> dict[Any, Any]:
    keys, values = list(instance), list(instance.values())
    kind = rng.random()
    if kind < 0.4 or order_only:
        keys = _items(keys, rng, None, True)
        return {key: instance[key] for key in keys}
    if kind < 0.8 or not keys:
        return dict(zip(keys, _items(values, rng, None, False), strict=True))
    keys[rng.randrange(len(keys))] = value(keys, rng)
    return dict(zip(keys, values, strict=True)) if len(set(keys)) == len(keys) else instance


def _items(items: Sequence[Any], rng: random.Random, other: Sequence[Any] | None, order_only: bool) -> list[Any]:
    """The items of a sequence with one change."""
    made = list(items)
    if len(made) < 2:
        return made
    first, last = sorted((rng.randrange(len(made)), rng.randrange(len(made))))
    is_records = isinstance(made[0], tuple) and not order_only
    kind = rng.random() * (0.65 if order_only else 1.0)
    if is_records and rng.random() < RECORDS:
        made[first] = _record(made, rng, first)
        return made
    if kind < 0.25:
        made[first], made[last] = made[last], made[first]
    elif kind < 0.40:
        made[first : last + 1] = reversed(made[first : last + 1])
    elif kind < 0.45:
        made[first : last + 1] = in_order(made[first : last + 1])
    elif kind < 0.65:
        made.insert(rng.choice((first, last, 0, len(made) - 1)), made.pop(rng.choice((first, last))))
    elif kind < 0.75:
        made[first] = made[last]
    elif kind < 0.80:
        made[first : last + 1] = [made[first]] * (last + 1 - first)
    elif kind < 0.85:
        many = min(last - first, len(made) - last)
        made[last : last + many] = made[first : first + many]
    elif kind < 0.90 and other is not None and len(other) == len(made):
        made[first : last + 1] = other[first : last + 1]
    else:
        made[first] = value(made, rng, first)
    return made


def _record(among: Sequence[Any], rng: random.Random, at: int) -> Any:
    """A record with another value in one of its places, chosen by what others have there."""
    own = among[at]
    if not isinstance(own, tuple) or not own:
        return value(among, rng, at)
    place = rng.randrange(len(own))
    column = [each[place] if isinstance(each, tuple) and place < len(each) else own[place] for each in among]
    return (*own[:place], value(column, rng, at), *own[place + 1 :])


def value(among: Sequence[Any], rng: random.Random, at: int = 0) -> Any:
    """Another value for one of some: near to or far from the others, or an extreme."""
    own, beside = among[at], among[rng.randrange(len(among))]
    if isinstance(own, bool):
        return not own
    if isinstance(own, int):
        base = beside if isinstance(beside, int) else own
        spread = max((abs(each) for each in among if isinstance(each, int)), default=1) + 1
        choices = (base + 1, base - 1, base * 2, base << rng.randrange(1, 20), 0, spread, -spread)
        return rng.choice((*choices, rng.randrange(spread * 2 + 1)))
    if isinstance(own, float):
        near = beside if isinstance(beside, float) else own
        return rng.choice((near, near * 2, near / 2, (own + near) / 2, 0.0, 1.0, -near, near + 1e-9, rng.random()))
    if isinstance(own, str):
        text = beside if isinstance(beside, str) else own
        if len(own) == 1:
            return rng.choice((text, rng.choice(LETTERS)))
        return rng.choice((text, text + LETTERS[0], text[:-1] + rng.choice(LETTERS), own))
    if isinstance(own, list | tuple | dict | set | frozenset | bytes):
        return changed(own, rng, beside)
    return beside
