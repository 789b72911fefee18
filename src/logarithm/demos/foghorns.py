"""What do two foghorns sound like together? Three ways to combine two signals, and where to change from one to another.

Run it with:  logarithm demo foghorns
"""

import cmath

from logarithm import Study

study = Study("foghorns", question="What do two foghorns sound like together?", sizes="8..2048")


@study.family
def blasts(n, rng):
    """Two signals of n loudness steps each, whole numbers from 0 to 99."""
    return [rng.randrange(100) for _ in range(n)], [rng.randrange(100) for _ in range(n)]


@study.contender(claim="n^2", baseline=True)
def by_the_book(signals):
    """Every step of one against every step of the other."""
    one, other = signals
    return book(one, other)


def book(one, other):
    """Combine two signals by the definition."""
    total = [0] * (len(one) + len(other) - 1)
    for at, loud in enumerate(one):
        for later, echo in enumerate(other, start=at):
            total[later] += loud * echo
    return total


@study.contender(claim="n^1.58", levels={"cutoff": [1, 32, 128]})
def in_three(signals, cutoff):
    """Split both in halves and combine three times; below the cutoff, by the book."""
    one, other = signals
    longest = 1 << max(0, (len(one) - 1).bit_length())
    total = split(one + [0] * (longest - len(one)), other + [0] * (longest - len(other)), cutoff)
    return total[: len(one) + len(other) - 1]


def split(one, other, cutoff):
    """Combine two signals of a length that is a power of two."""
    if len(one) <= max(cutoff, 1):
        return book(one, other)
    half = len(one) // 2
    low, high = split(one[:half], other[:half], cutoff), split(one[half:], other[half:], cutoff)
    mixed = split([a + b for a, b in zip(one, one[half:])], [a + b for a, b in zip(other, other[half:])], cutoff)
    total = low + [0] + high
    for at, value in enumerate(mixed):
        total[half + at] += value - low[at] - high[at]
    return total


@study.contender(claim="n log n")
def by_transform(signals):
    """Turn both into waves, multiply wave by wave, and turn back."""
    one, other = signals
    length = 1 << (len(one) + len(other) - 2).bit_length()
    first, second = (waves(each + [0] * (length - len(each)), 1) for each in (one, other))
    mixed = waves([a * b for a, b in zip(first, second)], -1)
    return [round(value.real / length) for value in mixed[: len(one) + len(other) - 1]]


def waves(levels, sign):
    """The transform of a signal whose length is a power of two."""
    if len(levels) == 1:
        return levels
    even, odd = waves(levels[::2], sign), waves(levels[1::2], sign)
    turn = cmath.exp(2j * cmath.pi * sign / len(levels))
    factor, turned = 1, []
    for value in odd:
        turned.append(factor * value)
        factor *= turn
    return [a + b for a, b in zip(even, turned)] + [a - b for a, b in zip(even, turned)]
