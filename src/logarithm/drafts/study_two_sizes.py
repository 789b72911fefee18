"""A study of two sizes: who leads depends on both, and the map shows where.

logarithm measure {name} --budget 20s
logarithm plot --view map
logarithm report --at k=1           one value of k, as a study of one size
logarithm crossover A B             the boundary between two contenders, point by point
"""

from logarithm import Study

study = Study(
    "ships-asked-for",
    question="Where does each of k ships lie, among n berths?",
    sizes={"n": "16..4096 *2", "k": "1..1024 *2"},
)


# Only points that make sense are measured; take it out where all of them do.
@study.where
def possible(n, k):
    return k <= n


# An instance has both: a list of n berths with the ships in them, and the k ships that are asked for.
@study.family
def harbour(n, k, rng):
    """A ship at each of n berths, k of them asked for."""
    berths = rng.sample(range(10 * n), n)
    return berths, rng.sample(berths, k)


# A claim may name both sizes.
@study.contender(claim="n k", baseline=True)
def walk_along(asked):
    berths, ships = asked
    return [berths.index(ship) for ship in ships]


@study.contender(claim="n")
def write_down_first(asked):
    berths, ships = asked
    berth_of = {ship: berth for berth, ship in enumerate(berths)}
    return [berth_of[ship] for ship in ships]
