"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "how-many-coasts",
    question="Into how many coasts do harbours fall, where those that a passage joins are on one?",
    sizes="8..256 *2",
)


@study.family
def passages(n, rng):
    """For each of n harbours, those that it is joined to."""
    joined = [set() for _ in range(n)]
    for _ in range(n * 3 // 4):
        one, other = rng.randrange(n), rng.randrange(n)
        if one != other:
            joined[one].add(other)
            joined[other].add(one)
    return [sorted(each) for each in joined]


@study.contender(baseline=True)
def reference(joined):
    seen, coasts = [False] * len(joined), 0
    for start in range(len(joined)):
        if seen[start]:
            continue
        coasts += 1
        seen[start] = True
        waiting = [start]
        while waiting:
            for other in joined[waiting.pop()]:
                if not seen[other]:
                    seen[other] = True
                    waiting.append(other)
    return coasts


study.case("no harbour", [], answer=0, marks=1, shown=True)
study.case("two apart", [[], []], answer=2, marks=1, shown=True)
study.case("three in a row", [[1], [0, 2], [1]], answer=1, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="how_many_coasts", require="n log n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
