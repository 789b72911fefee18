"""A dozen jobs of which it is known which line makes them grow; four hide the work in a single operation."""

from logarithm import Study

study = Study("culprits", question="Which line makes it grow?", sizes="16..2048 *2")
study.count("steps")


@study.family
def depths(n, rng):
    """Depths of buoys, in centimetres, all different."""
    return rng.sample(range(10 * n), n)


@study.contender
def pairs(depths):
    close = 0
    for at in range(len(depths)):
        for other in range(at):
            close += depths[at] - depths[other] == 1  # culprit
    return close


@study.contender
def triples(depths):
    found = 0
    few = depths[:24]
    for one in few:
        found += one
    for one in depths:
        for other in depths:
            found ^= one & other  # culprit
    return found


@study.contender
def once(depths):
    total = 0
    for depth in depths:
        total += depth * 3 // 2 - 1  # culprit
    return total


@study.contender
def halved(depths):
    left, right = 0, len(depths)
    while right - left > 1:
        middle = (left + right) // 2
        left, right = (middle, right) if depths[middle] > 40 else (left, middle)  # culprit
    return left


@study.contender
def halves(depths):
    if len(depths) < 2:
        return sum(depths)
    middle = len(depths) // 2
    total = 0
    for depth in depths:
        total += depth & 1  # culprit
    return total + halves(depths[:middle]) + halves(depths[middle:])


@study.contender
def shifted(depths):
    ordered = list(depths)
    for at in range(1, len(ordered)):
        depth, to = ordered[at], at
        while to > 0 and ordered[to - 1] > depth:  # culprit
            ordered[to] = ordered[to - 1]
            to -= 1
        ordered[to] = depth
    return ordered


@study.contender
def helped(depths):
    return [deeper(depths, depth) for depth in depths]


def deeper(depths, depth):
    count = 0
    for each in depths:
        count += each > depth  # culprit
    return count


@study.contender
def in_front(depths):
    out = []
    for depth in depths:
        out = [depth] + out  # culprit
    return out


@study.contender
def seen(depths):
    known = []
    for depth in depths:
        if depth not in known:  # culprit
            known.append(depth)
    return known


@study.contender
def deepest_left(depths):
    most = []
    for at in range(len(depths)):
        most.append(max(depths[: at + 1]))  # culprit
    return most


@study.contender
def dropped(depths):
    total = 0
    while depths:
        total += depths[0]
        depths = depths[1:]  # culprit
    return total


@study.contender
def written(depths):
    text = ""
    for depth in depths:
        text = f"{depth},{text}"  # culprit
    return text
