"""The exercise of this week; its page is written by logarithm assess exercise.py --hand-out for-students."""

from logarithm import Study

study = Study(
    "shared-sounds",
    question="How many sounds do two logs share at most, in the same order, with gaps allowed?",
    sizes="4..128 *2",
)


@study.family
def logs(n, rng):
    """Two logs of n sounds each."""
    return "".join(rng.choices("abc", k=n)), "".join(rng.choices("abc", k=n))


@study.contender(baseline=True)
def reference(logs):
    one, other = logs
    row = [0] * (len(other) + 1)
    for sound in one:
        before = 0
        for at, heard in enumerate(other):
            above = row[at + 1]
            row[at + 1] = before + 1 if sound == heard else max(above, row[at])
            before = above
    return row[-1]


study.case("both silent", ("", ""), answer=0, marks=1, shown=True)
study.case("one silent", ("ab", ""), answer=0, marks=1, shown=True)
study.case("with gaps", ("abcab", "acb"), answer=3, marks=1, shown=False)
study.submissions(
    "handed-in/*.py", function="shared_sounds", require="n^2", marks={"right": 5, "order": 3, "time": (2, 5.0)}
)
