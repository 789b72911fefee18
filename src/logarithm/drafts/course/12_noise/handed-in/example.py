"""An example of what is handed in; take it out when the first real one comes."""


def deepest_square(chart):
    places = range(len(chart) - 1)
    return max(
        (sum(chart[i + a][j + b] for a in (0, 1) for b in (0, 1)) for i in places for j in places),
        default=-1,
    )
