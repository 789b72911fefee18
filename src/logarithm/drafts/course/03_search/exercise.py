"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "first-not-below",
    question="At which place does the first light stand that is not below a number?",
    sizes="8..512 *2",
)


@study.family
def lights(n, rng):
    """Rising numbers, and one to look for."""
    return sorted(rng.randrange(4 * n + 1) for _ in range(n)), rng.randrange(4 * n + 1)


@study.contender(baseline=True)
def reference(asked):
    numbers, wanted = asked
    low, high = 0, len(numbers)
    while low < high:
        middle = (low + high) // 2
        if numbers[middle] < wanted:
            low = middle + 1
        else:
            high = middle
    return low


study.case("no light", ([], 3), answer=0, marks=1, shown=True)
study.case("all are below", ([1, 2], 3), answer=2, marks=1, shown=True)
study.case("several of one number", ([1, 3, 3, 3], 3), answer=1, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="first_not_below", require="log n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
