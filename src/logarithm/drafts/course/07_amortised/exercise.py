"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "moves",
    question="How many entries are copied in all, where a book of 1 doubles when it is full and n entries come?",
    sizes="8..512 *2",
)


@study.family
def entries(n, rng):
    """How many entries come."""
    return n


@study.contender(baseline=True)
def reference(entries):
    room, copied = 1, 0
    while room < entries:
        copied += room
        room *= 2
    return copied


study.case("no entry", 0, answer=0, marks=1, shown=True)
study.case("two entries", 2, answer=1, marks=1, shown=True)
study.case("nine entries", 9, answer=15, marks=1, shown=False)
study.submissions("handed-in/*.py", function="moves", require="log n", marks={"right": 5, "order": 3, "time": (2, 5.0)})
