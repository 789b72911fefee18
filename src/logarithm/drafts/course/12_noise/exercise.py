"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "deepest-square",
    question="How deep is the deepest square of two by two in a chart; -1 where there is none?",
    sizes="2..64 *2",
)


@study.family
def charts(n, rng):
    """A chart of n by n depths."""
    return [[rng.randrange(200) for _ in range(n)] for _ in range(n)]


@study.contender(baseline=True)
def reference(chart):
    best = -1
    for at in range(len(chart) - 1):
        upper, lower = chart[at], chart[at + 1]
        for to in range(len(chart) - 1):
            best = max(best, upper[to] + upper[to + 1] + lower[to] + lower[to + 1])
    return best


study.case("no chart", [], answer=-1, marks=1, shown=True)
study.case("one depth", [[5]], answer=-1, marks=1, shown=True)
study.case("two by two", [[1, 2], [3, 4]], answer=10, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="deepest_square", require="n^2", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
