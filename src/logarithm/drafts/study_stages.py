"""Build and use: a dearer build may be repaid by cheaper uses, and here you see after how many.

Run it with: logarithm measure {name}
"""

from bisect import bisect_left

from logarithm import Study

study = Study("lighthouses", question="How many lighthouses stand north of a ship?", sizes="8..8192")


# The instance is what build gets and use is asked with: here the lighthouses, and the ship's latitude.
@study.family
def coast(n, rng):
    """Lighthouses all along the coast."""
    return [rng.uniform(0, 90) for _ in range(n)], rng.uniform(0, 90)


# A class with build and use is timed in two stages. `restore`, if it is there, undoes what use did, untimed.
@study.contender(claim={"build": "1", "use": "n"}, baseline=True)
class Chart:
    """Keep the list as it is, and count along it."""

    def build(self, asked):
        self.lighthouses = asked[0]

    def use(self, asked):
        return sum(1 for latitude in self.lighthouses if latitude >= asked[1])


@study.contender(claim={"build": "n log n", "use": "log n"})
class Index:
    """Put them in order once, and halve the list until the ship's latitude is found."""

    def build(self, asked):
        self.latitudes = sorted(asked[0])

    def use(self, asked):
        return len(self.latitudes) - bisect_left(self.latitudes, asked[1])
