"""An example of what is handed in; take it out when the first real one comes."""


def largest_fall(levels):
    return max([0] + [a - b for at, a in enumerate(levels) for b in levels[at:]])
