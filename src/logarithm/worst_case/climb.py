"""The climb: from the usual suspects, by small changes, to an instance on which as much is done as can be found.

A count has no noise, so each change can be judged by itself. A small pool of the best is kept, so that one way that
ends does not end the search; it goes on while it gains (steady-state evolution: Whitley, The GENITOR algorithm,
Proceedings of the Third International Conference on Genetic Algorithms, 1989, 116-121). The same chance gives the same
result.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

from .change import Change, changed
from .keeps import ORDERED, Check
from .suspects import suspects

POOL = 8
PATIENCE = 0.4  # of all tries without a gain, and the climb is over
PATIENCE_LEAST = 60

Cost = Callable[[Any], float | None]
"""How much is done on an instance; None where it is not one that is allowed."""


@dataclass(slots=True)
class Found:
    """What a climb found.

    Attributes:
        worst, best: the instances with the most and the least that was done, with how much.
        tries: how many instances were tried.
        refused: how many were not allowed.
        suspects: how much was done on each of the usual suspects.
    """

    worst: tuple[float, Any] | None = None
    best: tuple[float, Any] | None = None
    tries: int = 0
    refused: int = 0
    suspects: dict[str, float] = field(default_factory=dict)


def climb(
    typical: Any,
    cost: Cost,
    rng: random.Random,
    tries: int,
    starts: Iterable[Any] = (),
    keeps: Check | None = None,
    change: Change | None = None,
) -> Found:
    """Search for the instance on which most is done.

    Args:
        typical: an instance of the size.
        cost: how much is done on an instance.
        rng: the chance.
        tries: how many changes at most.
        starts: further instances to begin with, such as a pattern found at another size.
        keeps: whether an instance is allowed; all are where this is not said.
        change: makes a changed instance, for a kind that this module does not know.
    """
    found = Found()
    pool: list[tuple[float, int, Any]] = []
    order_only = keeps in ORDERED

    def judge(instance: Any) -> float | None:
        found.tries += 1
        count = cost(instance) if keeps is None or _is_allowed(keeps, instance) else None
        if count is None:
            found.refused += 1
            return None
        if found.worst is None or count > found.worst[0]:
            found.worst = count, instance
        if found.best is None or count < found.best[0]:
            found.best = count, instance
        pool.append((count, found.tries, instance))
        pool.sort(key=lambda each: (-each[0], -each[1]))
        del pool[POOL:]
        return count

    judge(typical)
    for name, instance in () if change is not None else suspects(typical, order_only):
        count = judge(instance)
        if count is not None:
            found.suspects[name] = count
    for instance in starts:
        judge(instance)
    gained = 0
    for number in range(tries):
        if not pool or number - gained > max(PATIENCE_LEAST, PATIENCE * tries):
            break
        before = found.worst[0] if found.worst else 0.0
        parent, other = rng.choice(pool)[2], rng.choice(pool)[2]
        made = change(parent, rng) if change is not None else changed(parent, rng, other, order_only)
        count = judge(made)
        if count is not None and count > before:
            gained = number
    return found


def _is_allowed(keeps: Check, instance: Any) -> bool:
    try:
        return bool(keeps(instance))
    except Exception:  # a check is the user's, and may stumble over what no family makes
        return False
