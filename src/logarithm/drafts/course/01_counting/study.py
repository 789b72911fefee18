"""How many pairs of ships meet in the channel? Three ways to look at all pairs, counted to the last comparison."""

from logarithm import Study

study = Study("meetings", question="How many pairs of ships are in the channel at one time?", sizes="4..256 *2")


@study.family
def a_day(n, rng):
    """When each ship enters the channel, in minutes; it stays for ten."""
    return [rng.randrange(1440) for _ in range(n)]


@study.contender(claim={"comparisons": "n^2"})
def everyone_with_everyone(times):
    """Each ship with each, itself among them."""
    found = 0
    for one in range(len(times)):
        for other in range(len(times)):
            if one != other and -10 < times[one] - times[other] < 10:
                found += 1
    return found // 2


@study.contender(claim={"comparisons": "n^2"}, baseline=True)
def each_pair_once(times):
    """Each ship with those after it."""
    found = 0
    for one in range(len(times)):
        for other in range(one + 1, len(times)):
            if -10 < times[one] - times[other] < 10:
                found += 1
    return found


@study.contender(claim="n log n")
def in_order(times):
    """In the order of time, only neighbours can meet."""
    found, first = 0, 0
    ordered = sorted(times)
    for at, time in enumerate(ordered):
        while time - ordered[first] >= 10:
            first += 1
        found += at - first
    return found


study.count("steps")
