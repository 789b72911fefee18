"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "ways-to-load",
    question="In how many ways do crates of 1 and 3 tonnes, one after another, make up n tonnes?",
    sizes="8..512 *2",
)


@study.family
def barge(n, rng):
    """A barge of n tonnes."""
    return n


@study.contender(baseline=True)
def reference(tonnes):
    ways = [1, 1, 1]
    for at in range(3, tonnes + 1):
        ways.append((ways[at - 1] + ways[at - 3]) % 1_000_003)
    return ways[tonnes]


study.case("an empty barge", 0, answer=1, marks=1, shown=True)
study.case("four tonnes", 4, answer=3, marks=1, shown=True)
study.case("seven tonnes", 7, answer=9, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="ways_to_load", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
