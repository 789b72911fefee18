"""The same work in another order, and the same work twice: what a measurement can say, and what it cannot."""

from logarithm import Study

study = Study("sea-chart", question="How deep is the sea chart in all?", sizes="8..512 *2")


@study.family
def chart(n, rng):
    """A chart of n by n depths."""
    return [[rng.randrange(200) for _ in range(n)] for _ in range(n)]


@study.contender(claim="n^2", baseline=True)
def row_by_row(chart):
    """Along the rows, as they lie in memory."""
    total = 0
    for row in chart:
        for depth in row:
            total += depth
    return total


@study.contender(claim="n^2")
def row_by_row_again(chart):
    """The same, letter by letter."""
    total = 0
    for row in chart:
        for depth in row:
            total += depth
    return total


@study.contender(claim="n^2")
def column_by_column(chart):
    """Down the columns: the same steps, farther apart."""
    total = 0
    for at in range(len(chart)):
        for row in chart:
            total += row[at]
    return total
