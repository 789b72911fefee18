"""Which ship is due next? A list that is looked through, one that is kept in order, and a heap."""

from bisect import insort
from heapq import heapify, heappop, heappush

from logarithm import Study

study = Study("due-next", question="Which ship is due next, while others are announced?", sizes="16..4096 *2")


@study.family
def announced(n, rng):
    """When ships are due; some are announced, and the next one is asked for."""
    return {"holds": [rng.randrange(10 * n) for _ in range(n)], "announce": [rng.randrange(10 * n) for _ in range(300)]}


@study.contender(operations=["announce", "next"])
class AsTheyCome:
    """Look through all."""

    def build(self, times):
        self.times = list(times)

    def announce(self, time):
        self.times.append(time)

    def next(self):
        return self.times.pop(self.times.index(min(self.times)))


@study.contender(operations=["announce", "next"])
class InOrder:
    """The next one at the end."""

    def build(self, times):
        self.times = sorted(-time for time in times)

    def announce(self, time):
        insort(self.times, -time)

    def next(self):
        return -self.times.pop()


@study.contender(operations=["announce", "next"], claim={"next": "log n"})
class Heap:
    """The next one on top."""

    def build(self, times):
        self.times = list(times)
        heapify(self.times)

    def announce(self, time):
        heappush(self.times, time)

    def next(self):
        return heappop(self.times)


study.mix("half and half", announce=1, next=1)
study.mix("mostly announced", announce=9, next=1)
