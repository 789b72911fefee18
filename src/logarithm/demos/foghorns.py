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


@study.contender(claim="n^1.58", levels={"cutoff": [2, 32, 128]})
def in_three(signals, cutoff):
    """Split both in halves and combine three times instead of four; below the cutoff, by the book."""
    one, other = signals
    return split(one, other, cutoff)


def split(one, other, cutoff):
    """Combine two signals of the same length."""
    if len(one) <= cutoff:
        return book(one, other)
    half = (len(one) + 1) // 2
    low, high = split(one[:half], other[:half], cutoff), split(one[half:], other[half:], cutoff)
    mixed = split(added(one, half), added(other, half), cutoff)
    total = [*low, 0, *high]
    for at, value in enumerate(mixed):
        total[half + at] += value - low[at] - (high[at] if at < len(high) else 0)
    return total


def added(levels, half):
    """The two halves of a signal on top of each other; the first may be longer by one."""
    both = levels[:half]
    for at, level in enumerate(levels[half:]):
        both[at] += level
    return both


@study.contender(claim="n log n")
def by_transform(signals):
    """Turn both into waves, multiply wave by wave, and turn back."""
    one, other = signals
    needed = len(one) + len(other) - 1
    # A few times a power of two, not far above what is needed.
    doublings = max(0, needed.bit_length() - 3)
    length = -(-needed >> doublings) << doublings
    first, second = (waves(each + [0] * (length - len(each)), 1) for each in (one, other))
    mixed = waves([a * b for a, b in zip(first, second, strict=True)], -1)
    return [round(value.real / length) for value in mixed[:needed]]


def waves(levels, sign):
    """The transform of a signal: by halves while its length is even, then by the definition."""
    length = len(levels)
    turn = cmath.exp(2j * cmath.pi * sign / length)
    if length % 2:
        return [sum(level * turn ** (k * at) for at, level in enumerate(levels)) for k in range(length)]
    factor, turned = 1 + 0j, []
    for value in waves(levels[1::2], sign):
        turned.append(factor * value)
        factor *= turn
    even = waves(levels[::2], sign)
    return [a + b for a, b in zip(even, turned, strict=True)] + [a - b for a, b in zip(even, turned, strict=True)]
