"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "third-deepest",
    question="What is the third deepest draught, counting equal ones once; -1 where there are fewer?",
    sizes="8..512 *2",
)


@study.family
def arrivals(n, rng):
    """Draughts in decimetres."""
    return [rng.randrange(20, 200) for _ in range(n)]


@study.family
def deeper_and_deeper(n, rng):
    """Draughts that rise."""
    return sorted(rng.randrange(20, 20 + 2 * n) for _ in range(n))


@study.contender(baseline=True)
def reference(draughts):
    top = []
    for each in draughts:
        if each not in top:
            top.append(each)
            top.sort(reverse=True)
            del top[3:]
    return top[2] if len(top) == 3 else -1


study.case("no ship", [], answer=-1, marks=1, shown=True)
study.case("equal ones count once", [5, 5, 4, 3], answer=3, marks=1, shown=True)
study.case("two of them", [5, 4, 5], answer=-1, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="third_deepest", require="n", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
