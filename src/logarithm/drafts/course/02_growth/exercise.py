"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "largest-fall",
    question="How much did the water fall at most, from one hour to a later one?",
    sizes="8..512 *2",
)


@study.family
def a_gauge(n, rng):
    """Levels in centimetres, hour by hour."""
    return [rng.randrange(900) for _ in range(n)]


@study.family
def ebb(n, rng):
    """Levels that fall."""
    return sorted((rng.randrange(900) for _ in range(n)), reverse=True)


@study.contender(baseline=True)
def reference(levels):
    best = high = 0
    for at, level in enumerate(levels):
        high = level if at == 0 else max(high, level)
        best = max(best, high - level)
    return best


study.case("no hour", [], answer=0, marks=1, shown=True)
study.case("only rising", [1, 2, 9], answer=0, marks=1, shown=True)
study.case("a fall after a rise", [5, 9, 2, 8], answer=7, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="largest_fall", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
