"""Which light of the list is that? Three ways to look a number up in a list of lights that rises."""

from logarithm import Study, families

study = Study("list-of-lights", question="Where in the list is this light, if it is there?", sizes="16..16384 *2")
study.family(families.rising_and_key)


@study.contender(claim="n", baseline=True)
def one_by_one(asked):
    """From the first on."""
    lights, wanted = asked
    for at, light in enumerate(lights):
        if light == wanted:
            return at
    return -1


@study.contender(claim="sqrt n")
def by_leaps(asked):
    """Leap, and look through the last leap."""
    lights, wanted = asked
    leap = max(int(len(lights) ** 0.5), 1)
    at = 0
    while at + leap < len(lights) and lights[at + leap] <= wanted:
        at += leap
    for near in range(at, min(at + leap, len(lights))):
        if lights[near] == wanted:
            return near
    return -1


@study.contender(claim="log n")
def by_halves(asked):
    """Halve what is left."""
    lights, wanted = asked
    low, high = 0, len(lights)
    while low < high:
        middle = (low + high) // 2
        if lights[middle] < wanted:
            low = middle + 1
        else:
            high = middle
    return low if low < len(lights) and lights[low] == wanted else -1
