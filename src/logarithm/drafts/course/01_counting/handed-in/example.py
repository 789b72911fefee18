"""An example of what is handed in; take it out when the first real one comes."""


def meetings_at_noon(times):
    found = 0
    for one in range(len(times)):
        for other in range(one):
            found += -10 < times[one] - times[other] < 10
    return found
