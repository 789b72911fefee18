"""Is the berth free at an hour? Whether to scan the bookings, or to build something that is asked more quickly.

Run it with:  logarithm demo berths
"""

from bisect import bisect_right

from logarithm import Study

study = Study("berths", question="Is the berth free at an hour?", sizes="8..8192")

HOURS = 24 * 366


@study.family
def busy_year(n, rng):
    """So many bookings spread over a year of hours, in the order in which they came in, and an hour to ask for."""
    share = HOURS / n
    bookings = []
    for number in range(n):
        start = number * share
        bookings.append((start, start + share * rng.uniform(0.3, 0.9)))
    rng.shuffle(bookings)
    return bookings, rng.uniform(0, HOURS)


@study.contender(claim={"build": "1", "use": "n"}, baseline=True)
class Scan:
    """Keep the bookings as they came, and look through all of them."""

    def build(self, asked):
        self.bookings = asked[0]

    def use(self, asked):
        hour = asked[1]
        for start, end in self.bookings:
            if start <= hour < end:
                return False
        return True


@study.contender(claim={"build": "n log n", "use": "log n"})
class SortedTable:
    """Sort the bookings once, and halve the table until the hour is found."""

    def build(self, asked):
        table = sorted(asked[0])
        self.starts = [start for start, _ in table]
        self.ends = [end for _, end in table]

    def use(self, asked):
        at = bisect_right(self.starts, asked[1]) - 1
        return at < 0 or asked[1] >= self.ends[at]


@study.contender(claim={"build": "n", "use": "1"})
class TableOfHours:
    """For each hour of the year, keep the bookings that touch it."""

    def build(self, asked):
        self.hours = [()] * (HOURS + 1)
        for start, end in asked[0]:
            for hour in range(int(start), min(int(end), HOURS) + 1):
                self.hours[hour] = (*self.hours[hour], (start, end))

    def use(self, asked):
        hour = asked[1]
        return not any(start <= hour < end for start, end in self.hours[int(hour)])
