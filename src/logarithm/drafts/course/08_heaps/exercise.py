"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "is-heap",
    question="Is a list a heap: is each number at most those at 2 i + 1 and 2 i + 2?",
    sizes="8..512 *2",
)


@study.family
def heaps(n, rng):
    """Lists that are heaps, in one of two cases but for one number."""
    made = sorted(rng.randrange(4 * n + 1) for _ in range(n))
    if n > 1 and rng.random() < 0.5:
        made[rng.randrange(1, n)] = -1
    return made


@study.contender(baseline=True)
def reference(times):
    for at in range(1, len(times)):
        if times[(at - 1) // 2] > times[at]:
            return False
    return True


study.case("no ship", [], answer=True, marks=1, shown=True)
study.case("one above two", [1, 4, 2], answer=True, marks=1, shown=True)
study.case("the last is out of place", [1, 2, 3, 4, 0], answer=False, marks=1, shown=False)
study.submissions("handed-in/*.py", function="is_heap", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)})
