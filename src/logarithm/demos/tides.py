"""Which stretch of days brought the most water? Four ways, with every step of the work counted.

Run it with:  logarithm demo tides
"""

from logarithm import Study, tally

study = Study("tides", question="Which stretch of days brought the most water?", sizes="4..2048")


@study.family
def gauge(n, rng):
    """By how many centimetres the water rose or fell, day by day."""
    return [rng.randrange(-50, 51) for _ in range(n)]


@study.contender(claim={"gauge": "n^3", "additions": "n*(n+1)*(n+2)/6"}, sizes="4..256")
def three_loops(rises):
    """Add up every stretch from its beginning."""
    best = 0
    for start in range(len(rises)):
        for end in range(start, len(rises)):
            total = 0
            for day in range(start, end + 1):
                total += rises[day]
                tally("additions")
            if total > best:
                best = total
    return best


@study.contender(claim={"gauge": "n^2", "additions": "n*(n+1)/2"}, baseline=True)
def running_sums(rises):
    """From each day on, keep a running sum."""
    best = 0
    for start in range(len(rises)):
        total = 0
        for day in range(start, len(rises)):
            total += rises[day]
            tally("additions")
            if total > best:
                best = total
    return best


@study.contender(claim={"gauge": "n log n"})
def halving(rises):
    """The best lies in the first half, in the second, or across the middle."""
    return best_between(rises, 0, len(rises))


def best_between(rises, start, end):
    """The best stretch from one day to before another."""
    if end - start == 1:
        return max(rises[start], 0)
    middle = (start + end) // 2
    best_left = best_right = total = 0
    for day in range(middle - 1, start - 1, -1):
        total += rises[day]
        tally("additions")
        if total > best_left:
            best_left = total
    total = 0
    for day in range(middle, end):
        total += rises[day]
        tally("additions")
        if total > best_right:
            best_right = total
    return max(best_between(rises, start, middle), best_between(rises, middle, end), best_left + best_right)


@study.contender(claim={"gauge": "n", "additions": "n"})
def one_pass(rises):
    """Keep the best stretch that ends today, and begin again when it sinks below nothing."""
    best = total = 0
    for rise in rises:
        total += rise
        tally("additions")
        if total < 0:
            total = 0
        elif total > best:
            best = total
    return best


study.count("additions", "steps")
