"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "two-logs",
    question="Make one log in order of two that are in order.",
    sizes="8..512 *2",
)


@study.family
def two(n, rng):
    """Two logs that rise, with n entries together."""
    cut = rng.randrange(n + 1)
    entries = [rng.randrange(4 * n + 1) for _ in range(n)]
    return sorted(entries[:cut]), sorted(entries[cut:])


@study.contender(baseline=True)
def reference(logs):
    one, other = logs
    made, left, right = [], 0, 0
    while left < len(one) and right < len(other):
        if one[left] <= other[right]:
            made.append(one[left])
            left += 1
        else:
            made.append(other[right])
            right += 1
    return made + one[left:] + other[right:]


study.case("both empty", ([], []), answer=[], marks=1, shown=True)
study.case("one is empty", ([], [4, 5]), answer=[4, 5], marks=1, shown=True)
study.case("entries that are equal", ([1, 4], [1, 4]), answer=[1, 1, 4, 4], marks=1, shown=False)
study.submissions("handed-in/*.py", function="two_logs", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)})
