"""Counting: what is counted has no noise, so that its formula can be found exactly.

Run it with:       logarithm measure {name}
See it at work:    logarithm walk {name} one_by_one --size 6
"""

from logarithm import Study, tally

study = Study("moorings", question="Which is the longest ship that still fits?", sizes="4..1024")


# Where instances are counted, their elements tally comparisons, and their lists reads, writes and swaps.
@study.family
def quay(n, rng):
    """Moorings by rising length, and a ship for one of them."""
    lengths = [10 * place + rng.randrange(10) for place in range(n)]
    return lengths, lengths[-1]


# A claim on a count may be exact.
@study.contender(claim={"comparisons": "n"}, baseline=True)
def one_by_one(asked):
    """Go along the quay until the ship fits."""
    lengths, ship = asked
    for place in range(len(lengths)):
        if lengths[place] >= ship:
            return place
    return None


@study.contender(claim={"comparisons": "<= floor(log2(n)) + 1"})
def by_halves(asked):
    """Look at the middle, and leave out the half in which it cannot be."""
    lengths, ship = asked
    low, high = 0, len(lengths)
    while low < high:
        middle = (low + high) // 2
        tally("looks")  # code under study may count whatever it likes
        if lengths[middle] < ship:
            low = middle + 1
        else:
            high = middle
    return low


study.count("comparisons", "reads", "looks", "steps")
