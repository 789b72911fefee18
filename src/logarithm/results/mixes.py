"""Mixes of operations: what they cost by the prices of their operations, and as they were measured."""

from __future__ import annotations

from ..notation.sizes import Number
from .base import Interval, Part


class MixFinding(Part):
    """A mix of operations of one contender at one size, for one operation on average.

    `priced` follows from what its operations cost each by itself, with 95 %; `measured` is what the mix took.
    """

    contender: str
    family: str
    mix: str
    size: Number
    priced: Interval
    measured: float

    @property
    def off(self) -> float:
        """By which share the measured cost differs from the priced one."""
        return self.measured / self.priced.value - 1
