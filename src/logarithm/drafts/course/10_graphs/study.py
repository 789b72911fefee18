"""The quickest passage between two of n harbours with some passages each: who leads depends on both numbers."""

from heapq import heappop, heappush

from logarithm import Study

study = Study(
    "passages",
    question="How long is the quickest passage to the farthest harbour?",
    sizes={"n": "16..256 *2", "d": "2..32 *2"},
)


@study.family
def coast(n, d, rng):
    """For each of n harbours, about d passages with their hours; all can be reached."""
    joined = [{} for _ in range(n)]
    for one in range(n):
        for other in [max(one - 1, 0), *(rng.randrange(n) for _ in range(d // 2))]:
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
    """Take it from a heap."""
    hours = [0.0] + [float("inf")] * (len(joined) - 1)
    heap = [(0.0, 0)]
    while heap:
        far, one = heappop(heap)
        if far > hours[one]:
            continue
        for other, more in joined[one].items():
            if far + more < hours[other]:
                hours[other] = far + more
                heappush(heap, (far + more, other))
    return max(hours)


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
