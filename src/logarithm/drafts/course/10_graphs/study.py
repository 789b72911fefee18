"""The quickest passage between two of n harbours with some passages each: who leads depends on both numbers."""

from heapq import heappop, heappush

from logarithm import Study

study = Study(
    "passages",
    question="How long is the quickest passage to the farthest harbour?",
    sizes={"n": "16..256 *2", "d": "2..128 *2"},
)


@study.where
def possible(n, d):
    """No more passages than other harbours."""
    return d < n


@study.family
def coast(n, d, rng):
    """For each of n harbours, about d passages with their hours; all can be reached."""
    joined = [{} for _ in range(n)]
    for one in range(n):
        # The next one, so that all can be reached, and some others.
        for other in [(one + 1) % n, *rng.sample(range(n), max(1, d // 2))]:
            if one != other:
                joined[one][other] = joined[other][one] = rng.randint(1, 99)
    return joined


@study.contender(baseline=True)
def nearest_by_looking(joined):
    """Take the nearest harbour that is left, looking through all."""
    hours = [0.0] + [float("inf")] * (len(joined) - 1)
    left = set(range(len(joined)))
    while left:
        one = min(left, key=hours.__getitem__)
        left.remove(one)
        for other, more in joined[one].items():
            hours[other] = min(hours[other], hours[one] + more)
    return max(hours)


@study.contender
def nearest_by_a_heap(joined):
    """Put every passage on a heap, and take the nearest harbour from it."""
    hours = {}
    heap = [(0.0, 0)]
    while heap:
        far, one = heappop(heap)
        if one in hours:
            continue
        hours[one] = far
        for other, more in joined[one].items():
            if other not in hours:
                heappush(heap, (far + more, other))
    return max(hours.values())


@study.contender
def until_nothing_changes(joined):
    """Go through all passages until no harbour is nearer than it was."""
    hours = [0.0] + [float("inf")] * (len(joined) - 1)
    changed = True
    while changed:
        changed = False
        for one, passages in enumerate(joined):
            for other, more in passages.items():
                if hours[one] + more < hours[other]:
                    hours[other] = hours[one] + more
                    changed = True
    return max(hours)
