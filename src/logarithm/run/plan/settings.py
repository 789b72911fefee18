"""The settings of a run."""

from __future__ import annotations

from dataclasses import dataclass

from ...logbook.exchange.calls import Calls
from ...notation.sizes import Number


@dataclass(frozen=True, slots=True)
class Settings:
    """The settings of a run; spans of time in seconds, memory (of one contender) in bytes. Empty tuples mean all.

    `seconds` are the values of the second size, where there are two.
    `same` repeats one instance in a trial, on purpose. `whole` uses all of the budget, though everything is settled.
    `wait` is how long to wait for an idle processor before the budget begins. `workload` are calls to weigh costs by.
    """

    budget: float = 60.0
    ceiling: float = 1.0
    seed: int = 1
    trial: float = 0.008
    sizes: tuple[Number, ...] | None = None
    seconds: tuple[Number, ...] | None = None
    families: tuple[str, ...] = ()
    contenders: tuple[str, ...] = ()
    metrics: tuple[str, ...] = ()
    anyway: bool = False
    memory: float | None = None
    same: bool = False
    whole: bool = False
    wait: float = 0.0
    workload: Calls | None = None
