"""Best, typical and worst case: the order of one contender differs from family to family.

Run it with: logarithm measure {name}
"""

from logarithm import Study

study = Study("higher-water", question="After how many hours does the water stand higher?", sizes="8..2048")


# Each family is a case. The same contender may be quick on one and slow on another.
@study.family
def rising(n, rng):
    """The best case: the very next hour is higher."""
    return [hour + rng.random() for hour in range(n)]


@study.family
def choppy(n, rng):
    """A typical case: up and down at random."""
    return [rng.random() for _ in range(n)]


@study.family
def falling(n, rng):
    """The worst case: nobody ever finds higher water."""
    return [n - hour + rng.random() for hour in range(n)]


# claim= may say something else for each family.
@study.contender(claim={"rising": "n", "falling": "n^2"}, baseline=True)
def look_ahead(levels):
    """From each hour, look ahead until the water stands higher."""
    waits = []
    for hour, level in enumerate(levels):
        later = hour + 1
        while later < len(levels) and levels[later] <= level:
            later += 1
        waits.append(later - hour if later < len(levels) else 0)
    return waits


@study.contender(claim="n")
def keep_waiting(levels):
    """Keep the hours that still wait, the lowest last, and let each new level answer them."""
    waits, waiting = [0] * len(levels), []
    for hour, level in enumerate(levels):
        while waiting and levels[waiting[-1]] < level:
            earlier = waiting.pop()
            waits[earlier] = hour - earlier
        waiting.append(hour)
    return waits
