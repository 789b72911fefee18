"""Into which pieces should a rope be cut? A recursion that asks the same again and again, and one that remembers."""

from functools import lru_cache

from logarithm import Study

study = Study("ropes", question="What do the pieces of a rope bring at most?", sizes="2..18 +2")


@study.family
def prices(n, rng):
    """What a piece of each length brings, from one metre on."""
    return [length + rng.randrange(1, 4) for length in range(1, n + 1)]


@study.contender(claim="2^n", baseline=True)
def try_all(prices):
    """Cut off each length, and try all for the rest."""

    def best(left):
        return max((prices[cut - 1] + best(left - cut) for cut in range(1, left + 1)), default=0)

    return best(len(prices))


@study.contender(claim="n^2")
def remember(prices):
    """The same, with the answers kept."""

    @lru_cache(None)
    def best(left):
        return max((prices[cut - 1] + best(left - cut) for cut in range(1, left + 1)), default=0)

    return best(len(prices))


@study.contender(claim="n^2")
def from_below(prices):
    """From the shortest rope on."""
    bring = [0]
    for left in range(1, len(prices) + 1):
        bring.append(max(prices[cut - 1] + bring[left - cut] for cut in range(1, left + 1)))
    return bring[-1]
