"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "meetings-at-noon",
    question="How many pairs of ships are less than ten minutes apart?",
    sizes="8..512 *2",
)


@study.family
def a_day(n, rng):
    """When each ship enters, in minutes."""
    return [rng.randrange(1440) for _ in range(n)]


@study.family
def a_rush(n, rng):
    """All within an hour."""
    return [rng.randrange(60) for _ in range(n)]


@study.contender(baseline=True)
def reference(times):
    found, first = 0, 0
    ordered = sorted(times)
    for at, time in enumerate(ordered):
        while time - ordered[first] >= 10:
            first += 1
        found += at - first
    return found


study.case("no ship", [], answer=0, marks=1, shown=True)
study.case("two that meet", [5, 14], answer=1, marks=1, shown=True)
study.case("two that just miss each other", [5, 15], answer=0, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="meetings_at_noon", require="n log n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
