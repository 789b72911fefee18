"""Sizes that nobody can know before: those of the study, moved a little."""

from __future__ import annotations

import random
from collections.abc import Sequence

from ...notation.sizes import Number, fixed
from ...study.study import Study

USUAL = (8, 16, 32, 64, 128, 256, 512, 1024)  # where a study has none
ASIDE = 0.2  # of the way to the next size, by which a size may be moved


def secret_sizes_of(study: Study, salt: int) -> list[Number]:
    """The sizes at which everyone of an assessment is looked at; the same salt gives the same ones."""
    sizes = fixed(study.sizes) or USUAL
    return moved(sizes, random.Random(f"{salt}/sizes")) if study.axis == "size" else list(sizes)


def moved(sizes: Sequence[Number], chance: random.Random) -> list[Number]:
    """Sizes, the whole ones moved a little, and none beyond its ends.

    >>> made = moved([8, 16, 32, 64], random.Random(1))
    >>> len(made), made[0], 57 <= made[-1] <= 64
    (4, 8, True)
    """
    made = [sizes[0]]
    for before, size, after in zip(sizes, sizes[1:], [*sizes[2:], sizes[-1]], strict=False):
        low, high = int(ASIDE * (size - before)), int(ASIDE * (after - size))
        made.append(size + chance.randint(-low, high) if isinstance(size, int) else size)
    return made
