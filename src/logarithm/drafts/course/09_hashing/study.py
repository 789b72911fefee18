"""Call signs of ships in a table made by hand: fast, until many fall on one place."""

from logarithm import Study, families

study = Study("call-signs", question="How many different call signs are in the log?", sizes="8..1024 *2")
study.family(families.shuffled)
study.family(families.colliding)


@study.contender(claim={"shuffled": "n", "colliding": "n^2"}, baseline=True)
def by_remainder(signs):
    """A table of places; a sign falls on its remainder."""
    places = [[] for _ in range(2 * len(signs))]
    many = 0
    for sign in signs:
        place = places[sign & (2 ** (len(places) - 1).bit_length() - 1) & 0xFFFF if len(places) else 0]
        if sign not in place:
            place.append(sign)
            many += 1
    return many


@study.contender(claim="n")
def stirred(signs):
    """The same, with all bits of the sign stirred first."""
    places = [[] for _ in range(2 * len(signs))]
    many = 0
    for sign in signs:
        place = places[(sign * 2_654_435_769 >> 12) % len(places)]
        if sign not in place:
            place.append(sign)
            many += 1
    return many


@study.contender(claim="n log n", yardstick=True)
def in_order(signs):
    """No table: let Python put all in order, and count the steps up. Shown beside the others, not ranked."""
    ordered = sorted(signs)
    return sum(at == 0 or ordered[at - 1] != sign for at, sign in enumerate(ordered))
