"""The studies that ship, one file each."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Demo:
    """A study that ships, with a budget and a ceiling (in seconds) that show it well; of some the worst is sought."""

    name: str
    about: str
    budget: float
    ceiling: float
    is_worst: bool = False

    @property
    def file(self) -> Path:
        """The study's file."""
        return Path(__file__).with_name(self.name.replace("-", "_") + ".py")


DEMOS = (
    Demo("closest-buoys", "which two buoys have drifted closest: every pair, a sweep, a grid", 10.0, 0.2),
    Demo(
        "berths", "is a berth free at an hour: scan, sorted table, table of hours; when does building pay?", 20.0, 0.1
    ),
    Demo("tides", "which stretch of days brought the most water: four ways, additions and steps counted", 20.0, 0.1),
    Demo("foghorns", "two signals combined: by the book, in three, by transform; which cutoff?", 20.0, 0.1),
    Demo(
        "soundings",
        "which sounding is the middle one: random inputs hide a worst case, which is searched for",
        40.0,
        0.1,
        True,
    ),
    Demo("lowest-tides", "which k of n tides are the lowest: a heap, a sort, k looks; a map of both sizes", 11.0, 0.1),
    Demo("polyglot", "the closest buoys in Python, C and JavaScript, started each time and kept running", 20.0, 0.5),
)
