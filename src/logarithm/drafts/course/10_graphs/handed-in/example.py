"""An example of what is handed in; take it out when the first real one comes."""


def how_many_coasts(joined):
    coast = list(range(len(joined)))
    changed = True
    while changed:
        changed = False
        for one, others in enumerate(joined):
            for other in others:
                if coast[other] < coast[one]:
                    coast[one], changed = coast[other], True
    return len(set(coast))
