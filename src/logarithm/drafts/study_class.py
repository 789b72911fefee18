"""A class: everything that was handed in, held against a reference.

logarithm assess {name} --pages handed-back
"""

from logarithm import Study

study = Study(
    "highest-swell",
    question="How high is the highest swell that follows from rises in a row?",
    sizes="8..256 *2",
)


@study.family
def calm(n, rng):
    """Small rises and falls, as whole numbers."""
    return [rng.randrange(-50, 51) for _ in range(n)]


@study.family
def rough(n, rng):
    """Few large rises among many small falls."""
    return [rng.choice((900, -1, -2, -3)) for _ in range(n)]


@study.contender(baseline=True)
def reference(rises):
    """The solution that is right. No submission can see it."""
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best


# Fixed cases are asked of everyone; those that are shown stand in the hand-out: logarithm assess {name} --hand-out out
study.case("nothing at all", [], answer=0, marks=1, shown=True)
study.case("a fall between two rises", [3, -5, 4, 2], answer=6, marks=1, shown=True)
study.case("one fall", [-3], answer=0, marks=1)

# Each file in handed-in/ must define highest(rises). Marks are yours to set.
study.submissions(
    "handed-in/*.py",
    function="highest",
    require="n log n",
    marks={"right": 5, "order": 3, "time": (2, 3.0)},
)
