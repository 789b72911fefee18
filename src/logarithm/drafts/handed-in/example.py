"""An example of what is handed in; take it out when the first real one comes."""


def highest(rises):
    best = 0
    for start in range(len(rises)):
        total = 0
        for rise in rises[start:]:
            total += rise
            best = max(best, total)
    return best
