"""What a number belongs to: a contender on a family, of a stage and metric; and what is compared with what."""

from __future__ import annotations

from typing import TYPE_CHECKING

Place = tuple[str, str | None, str]
"""A family, stage and metric: contenders are compared within one."""
Who = tuple[str, str, str | None]
"""A contender, family and stage: what is timed, and counted, as one thing."""
Key = tuple[str, str, str | None, str]
"""A contender, family, stage and metric: one series of numbers."""


def slice_name(family: str, second: str, value: float) -> str:
    """What a family is called at one value of the second size.

    >>> slice_name("gauges", "k", 64)
    'gauges[k=64]'
    """
    return f"{family}[{second}={value:.12g}]"


class Placed:
    """Something about one place."""

    __slots__ = ()
    if TYPE_CHECKING:
        family: str
        stage: str | None
        metric: str

    @property
    def place(self) -> Place:
        """The family, stage and metric."""
        return self.family, self.stage, self.metric


class Timed:
    """Something about one contender on one family and stage."""

    __slots__ = ()
    if TYPE_CHECKING:
        contender: str
        family: str
        stage: str | None

    @property
    def who(self) -> Who:
        """The contender, family and stage."""
        return self.contender, self.family, self.stage


class Keyed(Placed, Timed):
    """Something about one series of numbers."""

    __slots__ = ()

    @property
    def key(self) -> Key:
        """The contender, family, stage and metric."""
        return self.contender, self.family, self.stage, self.metric
