"""A log that grows entry by entry, and now and then moves to a larger book: what does an entry cost on average?"""

from logarithm import Study

study = Study("log-books", question="How should a log that is full move to a larger book?", sizes="16..2048 *2")


@study.family
def watch(n, rng):
    """What stands in the log, and what is asked of it."""
    held = [rng.randrange(1000) for _ in range(n)]
    return {"holds": held, "add": held[:200] or [1], "read": [rng.randrange(max(n, 1)) for _ in range(200)]}


class Book:
    """A book with room for some entries; a full one is copied into a larger one."""

    def build(self, entries):
        self.pages, self.many = [None] * 8, 0
        for entry in entries:
            self.add(entry)

    def larger(self):
        raise NotImplementedError

    @study.operation
    def add(self, entry):
        if self.many == len(self.pages):
            pages = [None] * self.larger()
            for at in range(self.many):
                pages[at] = self.pages[at]
            self.pages = pages
        self.pages[self.many] = entry
        self.many += 1

    @study.operation
    def read(self, at):
        return self.pages[at]


@study.contender(operations=["add", "read"], grow="add", claim={"grow": "n"})
class Doubling(Book):
    """Twice the room."""

    def larger(self):
        return 2 * len(self.pages)


@study.contender(operations=["add", "read"], grow="add", claim={"grow": "n^2"})
class EightMore(Book):
    """Room for eight more."""

    def larger(self):
        return len(self.pages) + 8
