"""Two ways to find the highest tides of the day.

Run it with: logarithm measure {name}
"""

from logarithm import Study

study = Study("high-tides", question="Which hours are higher than both their neighbours?", sizes="8..4096")


# A family makes an input of any size. rng is a random.Random, seeded, so that everyone gets the same input.
@study.family
def choppy(n, rng):
    """Up and down at random."""
    return [rng.random() for _ in range(n)]


# A contender does the job. claim= is the order of growth that you expect of it, and is checked.
@study.contender(claim="n", baseline=True)
def hour_by_hour(levels):
    """Look at each hour and its neighbours."""
    peaks = []
    for hour in range(1, len(levels) - 1):
        if levels[hour - 1] < levels[hour] > levels[hour + 1]:
            peaks.append(hour)
    return peaks


@study.contender(claim="n")
def side_by_side(levels):
    """Look at three shifted copies at once."""
    triples = enumerate(zip(levels, levels[1:], levels[2:], strict=False), start=1)
    return [hour for hour, (before, level, after) in triples if before < level > after]
