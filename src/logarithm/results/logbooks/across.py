"""What holds on several machines, or under several interpreters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Self

import msgspec

from ..base import Frames, Part, Result
from ..findings import Findings
from ..tasks.gates import Breach


class Overtaking(Part):
    """Where `after` overtakes `before` on a family and stage.

    `places` are groups of machines that agree: each the typical size and the names of its machines, the largest group
    first. `without` are those on which it does not happen within the sizes measured.
    """

    family: str
    stage: str | None
    before: str
    after: str
    places: list[tuple[float, list[str]]]
    without: list[str]


class LeadsEverywhere(Part):
    """From size `start` to `end` the same contender leads on all machines."""

    family: str
    stage: str | None
    leader: str
    start: float
    end: float


class Across(Result):
    """Findings of several machines side by side: those of each by its name, and what holds on all.

    What is `broken` fails on one of them, or is gone there.
    """

    _frames: ClassVar[Frames] = {"overtaking": Overtaking, "leading": LeadsEverywhere, "broken": Breach}

    study: str
    findings: dict[str, Findings]
    overtaking: list[Overtaking]
    leading: list[LeadsEverywhere]
    broken: list[Breach] = []

    def only(self, contenders: Sequence[str]) -> Self:
        """What is about some contenders, compared with all; about all where none is named."""
        if not contenders:
            return self
        chosen = {*contenders}
        return msgspec.structs.replace(
            self,
            overtaking=[each for each in self.overtaking if {each.before, each.after} & chosen],
            leading=[each for each in self.leading if each.leader in chosen],
            broken=[each for each in self.broken if each.contender in chosen],
        )
