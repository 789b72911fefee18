"""The logs of k piers, each in order, become one. Who leads depends on how long they are, and on how many."""

from heapq import merge

from logarithm import Study

study = Study(
    "one-log",
    question="How do the logs of all piers become one, in order?",
    sizes={"n": "64..4096 *4", "k": "2..64 *2"},
)


@study.family
def piers(n, k, rng):
    """The logs of k piers, with n entries together."""
    logs = [[] for _ in range(k)]
    for _ in range(n):
        logs[rng.randrange(k)].append(rng.randrange(100_000))
    return [sorted(log) for log in logs]


@study.contender(claim="n k", baseline=True)
def look_at_all_heads(logs):
    """Take the smallest head, again and again."""
    at, made = [0] * len(logs), []
    while True:
        best = None
        for pier, log in enumerate(logs):
            if at[pier] < len(log) and (best is None or log[at[pier]] < logs[best][at[best]]):
                best = pier
        if best is None:
            return made
        made.append(logs[best][at[best]])
        at[best] += 1


@study.contender(yardstick=True)
def all_at_once(logs):
    """Put all into one list, and let Python order that: shown beside the others, not ranked."""
    return sorted(entry for log in logs for entry in log)


@study.contender
def by_a_heap(logs):
    """A heap of the heads."""
    return list(merge(*logs))
