"""Which draught is the middle one? Random ships hide a worst case, which a search finds."""

from logarithm import Study

study = Study("middle-draught", question="Which draught is the middle one of all ships?", sizes="8..512 *2")


@study.family
def arrivals(n, rng):
    """Draughts in decimetres, as the ships come in."""
    return [rng.randrange(20, 200) for _ in range(n)]


@study.contender(claim={"arrivals": "n", "worst": "n^2"})
def by_the_last(draughts):
    """Part all at the last draught, and look only where the middle one is."""
    wanted = len(draughts) // 2
    while True:
        part = draughts[-1]
        below = [each for each in draughts if each < part]
        above = [each for each in draughts if each > part]
        same = len(draughts) - len(below) - len(above)
        if wanted < len(below):
            draughts = below
        elif wanted < len(below) + same:
            return part
        else:
            draughts, wanted = above, wanted - len(below) - same


@study.contender(claim={"arrivals": "n log n", "worst": "n log n"})
def in_order(draughts):
    """Put all in order, and take the middle one."""
    return sorted(draughts)[len(draughts) // 2]
