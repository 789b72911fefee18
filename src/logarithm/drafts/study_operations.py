"""A study of one object with several operations, by themselves and mixed.

Run it with:  logarithm measure {name}
A picture:    logarithm plot --view mix --out mix.png
"""

from bisect import bisect_left, insort

from logarithm import Study

study = Study("ships", question="Which list of ships serves a harbour best?", sizes="16..2048 *2")


@study.family
def harbour(n, rng):
    """What the object holds, and what each operation is asked, one after another."""
    ships = [rng.randrange(10 * n) for _ in range(n)]
    return {"holds": ships, "add": [rng.randrange(10 * n) for _ in range(500)], "find": rng.choices(ships, k=500)}


@study.contender(grow="add")
class AsTheyCome:
    """Ships in the order in which they came. grow="add": how an empty list gets its ships, one by one."""

    def build(self, ships):
        self.ships = list(ships)

    @study.operation
    def add(self, ship):
        self.ships.append(ship)

    @study.operation
    def find(self, ship):
        return self.ships.count(ship) > 0


@study.contender(grow="add", claim={"find": "log n"})
class InOrder:
    """Ships by their numbers."""

    def build(self, ships):
        self.ships = sorted(ships)

    @study.operation
    def add(self, ship):
        insort(self.ships, ship)

    @study.operation
    def find(self, ship):
        at = bisect_left(self.ships, ship)
        return at < len(self.ships) and self.ships[at] == ship


# So many of each beside each other: priced from the operations, and measured too.
study.mix("mostly reads", find=9, add=1)
study.mix("mostly writes", find=1, add=9)
