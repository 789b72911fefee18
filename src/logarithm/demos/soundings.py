"""Which depth is the middle one? Three ways to find it, of which random soundings hide the worst.

Run it with:  logarithm demo soundings
"""

from logarithm import Study

study = Study("soundings", question="Which of the soundings is the middle one?", sizes="8..512 *2")


@study.family
def as_sounded(n, rng):
    """Depths in decimetres, in the order in which they were sounded."""
    return [rng.randrange(40, 900) for _ in range(n)]


@study.contender(claim={"worst": "n log n"})
def in_order(depths):
    """Put all in order, and take the middle one."""
    return sorted(depths)[len(depths) // 2]


@study.contender(claim={"worst": "n"})
def by_the_first(depths):
    """Part them at the first depth, and look only where the middle one is."""
    wanted = len(depths) // 2
    while True:
        pivot = depths[0]
        shallower = [depth for depth in depths if depth < pivot]
        deeper = [depth for depth in depths if depth > pivot]
        same = len(depths) - len(shallower) - len(deeper)
        if wanted < len(shallower):
            depths = shallower
        elif wanted < len(shallower) + same:
            return pivot
        else:
            depths, wanted = deeper, wanted - len(shallower) - same


@study.contender(claim={"worst": "n"})
def by_medians(depths):
    """The same, parted at the median of the medians of fives."""
    wanted = len(depths) // 2
    return middle(depths, wanted)


def middle(depths, wanted):
    """The depth at a place, were they in order."""
    if len(depths) <= 10:
        return sorted(depths)[wanted]
    fives = [sorted(depths[at : at + 5]) for at in range(0, len(depths), 5)]
    pivot = middle([five[len(five) // 2] for five in fives], len(fives) // 2)
    shallower = [depth for depth in depths if depth < pivot]
    deeper = [depth for depth in depths if depth > pivot]
    same = len(depths) - len(shallower) - len(deeper)
    if wanted < len(shallower):
        return middle(shallower, wanted)
    if wanted < len(shallower) + same:
        return pivot
    return middle(deeper, wanted - len(shallower) - same)
