"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "first-seen-twice",
    question="Which call sign is the first that comes a second time; -1 where none does?",
    sizes="8..512 *2",
)


@study.family
def log(n, rng):
    """Call signs, few of them twice."""
    return [rng.randrange(3 * n + 1) for _ in range(n)]


@study.family
def all_different(n, rng):
    """Call signs that are all different."""
    return rng.sample(range(4 * n), n)


@study.contender(baseline=True)
def reference(signs):
    seen = set()
    for sign in signs:
        if sign in seen:
            return sign
        seen.add(sign)
    return -1


study.case("no sign", [], answer=-1, marks=1, shown=True)
study.case("two are twice", [4, 7, 7, 4], answer=7, marks=1, shown=True)
study.case("three times", [1, 2, 1, 1], answer=1, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="first_seen_twice", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
