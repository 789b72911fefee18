"""Ready-made families, for studies that need no instances of their own.

Each is a function of a size and a seeded `random.Random`, and can be added to a study:

    from logarithm import Study, families
    study = Study("tide-tables")
    study.family(families.shuffled)
"""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

from ..errors import StudyError, there


def shuffled(n: int, rng: random.Random) -> list[int]:
    """Whole numbers 0 to n-1 in random order."""
    numbers = list(range(n))
    rng.shuffle(numbers)
    return numbers


def ascending(n: int, rng: random.Random) -> list[int]:
    """Whole numbers 0 to n-1, rising."""
    return list(range(n))


def descending(n: int, rng: random.Random) -> list[int]:
    """Whole numbers n-1 to 0, falling."""
    return list(range(n - 1, -1, -1))


def nearly_ascending(n: int, rng: random.Random) -> list[int]:
    """Rising whole numbers of which one in a hundred has changed places, at least two."""
    numbers = list(range(n))
    for _ in range(max(1, n // 200)):
        i, j = rng.randrange(n), rng.randrange(n)
        numbers[i], numbers[j] = numbers[j], numbers[i]
    return numbers


def few_distinct(n: int, rng: random.Random) -> list[int]:
    """Whole numbers from 0 to 7 at random, so that most are repeated."""
    return [rng.randrange(8) for _ in range(n)]


def all_equal(n: int, rng: random.Random) -> list[int]:
    """The same whole number n times."""
    return [7] * n


def decimals(n: int, rng: random.Random) -> list[float]:
    """Numbers between 0 and 1 at random."""
    return [rng.random() for _ in range(n)]


def text(n: int, rng: random.Random) -> str:
    """A text of n characters: made-up words with blanks between."""
    words: list[str] = []
    length = -1
    while length < n:
        words.append("".join(rng.choices("aeiournstl", k=rng.randint(2, 9))))
        length += len(words[-1]) + 1
    return " ".join(words)[:n]


def points(n: int, rng: random.Random) -> list[tuple[float, float]]:
    """Points (x, y) at random in the unit square."""
    return [(rng.random(), rng.random()) for _ in range(n)]


def sparse_graph(n: int, rng: random.Random) -> list[list[int]]:
    """A connected graph of n nodes and about 2 n edges: for each node, the nodes it is joined to."""
    joined: list[set[int]] = [set() for _ in range(n)]
    edges = [(node, rng.randrange(node)) for node in range(1, n)]
    edges += [(rng.randrange(n), rng.randrange(n)) for _ in range(n)]
    for one, other in edges:
        if one != other:
            joined[one].add(other)
            joined[other].add(one)
    return [sorted(nodes) for nodes in joined]


def rising_and_key(n: int, rng: random.Random) -> tuple[list[int], int]:
    """Rising whole numbers with gaps, and one to look for, which is there in one of two cases."""
    numbers = sorted(rng.sample(range(4 * n + 1), n))
    return numbers, rng.choice(numbers) if n and rng.random() < 0.5 else rng.randrange(4 * n + 1)


def weighted_graph(n: int, rng: random.Random) -> list[dict[int, int]]:
    """A connected graph of n nodes and about 2 n edges: for each node, those it is joined to, each with a length."""
    lengths: list[dict[int, int]] = [{} for _ in range(n)]
    for node, others in enumerate(sparse_graph(n, rng)):
        for other in others:
            if other not in lengths[node]:
                lengths[node][other] = lengths[other][node] = rng.randint(1, 99)
    return lengths


def tree(n: int, rng: random.Random) -> list[int | None]:
    """A tree of n nodes: for each node, the one above it; None for the first."""
    return [None if node == 0 else rng.randrange(node) for node in range(n)]


def pattern_and_text(n: int, rng: random.Random) -> tuple[str, str]:
    """A text of n letters of two kinds, and a pattern of a tenth of that, which is in it in one of two cases."""
    whole = "".join(rng.choices("ab", weights=(9, 1), k=n))
    many = max(n // 10, 1) if n else 0
    begin = rng.randrange(max(n - many, 1))
    pattern = whole[begin : begin + many] if rng.random() < 0.5 else "a" * max(many - 1, 0) + "b" * min(many, 1)
    return pattern, whole


def colliding(n: int, rng: random.Random) -> list[int]:
    """Whole numbers that all fall on one place of a table whose room is a power of two, up to 65,536."""
    numbers = [65_536 * each for each in range(n)]
    rng.shuffle(numbers)
    return numbers


def just_n(n: int, rng: random.Random) -> int:
    """The size itself, for a job whose input is a number."""
    return n


ALL: tuple[Callable[[int, random.Random], Any], ...] = (
    shuffled,
    ascending,
    descending,
    nearly_ascending,
    few_distinct,
    all_equal,
    decimals,
    text,
    points,
    sparse_graph,
    rising_and_key,
    weighted_graph,
    tree,
    pattern_and_text,
    colliding,
    just_n,
)
"""Every ready-made family, in the order in which they are listed."""


def ready(name: str) -> Callable[[int, random.Random], Any]:
    """The ready-made family of a name.

    Raises:
        StudyError: where there is none.
    """
    known = {make.__name__: make for make in ALL}
    if name not in known:
        raise StudyError(f"there is no ready-made family '{name}': {there(list(known), 20)}")
    return known[name]
