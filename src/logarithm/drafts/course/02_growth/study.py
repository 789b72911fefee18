"""How much did the water rise at most? Four ways that grow differently, on one picture."""

from logarithm import Study, families

study = Study("rise", question="How much did the water rise at most, from one hour to a later one?", sizes="4..2048 *2")
study.family(families.decimals)


@study.contender(claim="n^2", baseline=True)
def all_pairs(levels):
    """Each hour with each later one."""
    best = 0.0
    for at, level in enumerate(levels):
        for later in levels[at + 1 :]:
            if later - level > best:
                best = later - level
    return best


@study.contender(claim="n log n")
def by_halves(levels):
    """In the first half, in the second, or from the one into the other."""
    if len(levels) < 2:
        return 0.0
    half = len(levels) // 2
    left, right = levels[:half], levels[half:]
    return max(by_halves(left), by_halves(right), max(right) - min(left), 0.0)


@study.contender(claim="n")
def lowest_so_far(levels):
    """Keep the lowest level until now."""
    best, low = 0.0, levels[0]
    for level in levels:
        low = min(low, level)
        best = max(best, level - low)
    return best
