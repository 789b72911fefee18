"""An example of what is handed in; take it out when the first real one comes."""


def third_deepest(draughts):
    kinds = sorted(set(draughts))
    return kinds[-3] if len(kinds) >= 3 else -1
