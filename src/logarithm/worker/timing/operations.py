"""Operations of one object: what is called on which object with which argument, so that its size does not drift.

An instance of such a contender is a dict: what the object `holds`, and under the name of each operation the arguments
that it is called with, in turn. An operation that changes its object gets a new one after a tenth of its size in calls.
"""

from __future__ import annotations

import inspect
import math
import pickle
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ...protocol import clock
from ...study.parts import HOLDS, Contender
from .pools import COPIES_BYTES, POOL_BYTES, as_bytes, copied

DRIFT = 0.1  # of its size, by which an object may change before it is replaced
PATTERN_MOST, TURNS_MOST = 1000, 20_000  # operations of a mix before it begins again, and before arguments do
MAKING_MOST = 100_000_000  # nanoseconds for making the objects of one piece

STEP_REPEATS, STEP_REPEATS_LEAST = 5, 2  # times that each step of growing is timed; interruptions do not fall on all
GROWING_MOST = 200_000_000  # nanoseconds for these

SEEN = 20  # calls by which it is seen whether an operation changes its object

Pair = tuple[clock.Call, Any]
Turn = tuple[str, Any]
"""An operation, and what it is called with."""


def built(contender: Contender, instance: Mapping[str, Any]) -> Any:
    """An object that holds what the instance says."""
    made: Any = contender.code(**contender.values)
    made.build(copied(instance[HOLDS])[0])
    return made


def answers(contender: Contender, instance: Mapping[str, Any]) -> dict[str, list[Any]]:
    """What each operation answers to its arguments, each on an object of its own."""
    found = {}
    for name in contender.options.operations:
        made = built(contender, instance)
        found[name] = [call(argument) for call, argument in pairs_on(made, turns_of(contender, name, instance))]
    return found


def growth_steps(contender: Contender, instance: Mapping[str, Any]) -> list[Pair]:
    """The calls by which an empty object comes to hold what an instance says, item after item."""
    holds, _ = copied(instance[HOLDS])
    made: Any = contender.code(**contender.values)
    made.build(type(holds)())
    items = holds.items() if isinstance(holds, Mapping) else holds
    return pairs_on(made, [(contender.options.grow, item) for item in items])


def dearest_step(contender: Contender, instance: Mapping[str, Any]) -> int:
    """Nanoseconds of the dearest step of growing, the clock's own included: of each step the shortest of some readings.

    What comes from outside, an interruption, falls on other steps each time; what is the step's own falls on it always.
    """
    least: list[int] = []
    begun = clock.now()
    for turn in range(STEP_REPEATS):
        took = [clock.one_call(call, argument)[0] for call, argument in growth_steps(contender, instance)]
        least = [*map(min, least, took)] if least else took
        if turn + 1 >= STEP_REPEATS_LEAST and clock.now() - begun > GROWING_MOST:
            break
    return max(least, default=0)


def turns_of(contender: Contender, name: str, instance: Mapping[str, Any]) -> list[Turn]:
    """What is called in turn: an operation with each of its arguments, or those of a mix as often as they weigh."""
    if name not in contender.mixes:
        return [(name, argument) for argument in instance.get(name) or [None]]
    once = pattern(contender.mixes[name])
    # So often that each operation comes to all of its arguments.
    again = max(math.ceil(len(instance.get(each) or [None]) / many) for each, many in Counter(once).items())
    seen: Counter[str] = Counter()
    turns = []
    for each in once * max(1, min(again, TURNS_MOST // len(once))):
        arguments = instance.get(each) or [None]
        turns.append((each, arguments[seen[each] % len(arguments)]))
        seen[each] += 1
    return turns


def pairs_on(made: Any, turns: Sequence[Turn]) -> list[Pair]:
    """Turns as calls of one argument: of a bound method, or, where that takes none, of the method with its object."""
    kind = type(made)
    calls = {
        name: (getattr(made, name), True) if takes_argument(kind, name) else (getattr(kind, name), False)
        for name in {name for name, _ in turns}
    }
    return [(calls[name][0], argument if calls[name][1] else made) for name, argument in turns]


_takes: dict[tuple[Any, str], bool] = {}


def takes_argument(kind: Any, name: str) -> bool:
    """Whether a method takes more than its object; looked at once, as that takes longer than most calls."""
    if (kind, name) not in _takes:
        _takes[kind, name] = len(inspect.signature(getattr(kind, name)).parameters) > 1
    return _takes[kind, name]


def pattern(weights: Mapping[str, float]) -> list[str]:
    """The operations of a mix in turn, each as often as it weighs, spread evenly.

    >>> pattern({"find": 3, "add": 1})
    ['find', 'find', 'add', 'find']
    """
    least = min(weights.values())
    many = {name: max(1, round(weight / least)) for name, weight in weights.items()}
    if sum(many.values()) > PATTERN_MOST:
        many = {name: max(1, round(weight * PATTERN_MOST / sum(weights.values()))) for name, weight in weights.items()}
    turns = [((each + 0.5) / count, name) for name, count in many.items() for each in range(count)]
    return [name for _, name in sorted(turns, key=lambda turn: turn[0])]


@dataclass(slots=True)
class Objects:
    """The objects that operations are timed on: one for each instance, with what makes it anew.

    Attributes:
        contender: whose objects.
        size: of the instances.
        kept: those that nothing has changed.
        written: each as bytes, None where it has none.
        changing: whether an operation changes its object, by name.
        asked: what is called in turn, by operation and number of the instance.
    """

    contender: Contender
    size: float
    kept: list[Any] = field(default_factory=list)
    written: list[bytes | None] = field(default_factory=list)
    changing: dict[str, bool] = field(default_factory=dict)
    asked: dict[tuple[str, int], list[Turn]] = field(default_factory=dict)

    def hold(self, instances: Sequence[Any]) -> None:
        """Build what is not there yet, as far as memory and time allow."""
        begun, held = clock.now(), 0
        for instance in instances[len(self.kept) :]:
            made = built(self.contender, instance)
            self.kept.append(made)
            self.written.append(as_bytes(made))
            held += len(self.written[-1] or b"")
            if clock.now() - begun > MAKING_MOST or held > POOL_BYTES:
                break

    def changes(self, name: str, instances: Sequence[Any]) -> bool:
        """Whether an operation changes its object; one of which that cannot be told is taken to."""
        if name not in self.changing:
            made = self.fresh(0, instances)
            before = as_bytes(made)
            for call, argument in pairs_on(made, self.turns(name, 0, instances)[:SEEN]):
                call(argument)
            mixed = self.contender.mixes.get(name, ())
            after = before is None or as_bytes(made) != before
            self.changing[name] = after or any(self.changes(each, instances) for each in mixed)
        return self.changing[name]

    def turns(self, name: str, at: int, instances: Sequence[Any]) -> list[Turn]:
        """What is called in turn on the object of an instance."""
        if (name, at) not in self.asked:
            self.asked[name, at] = turns_of(self.contender, name, instances[at])
        return self.asked[name, at]

    def fresh(self, at: int, instances: Sequence[Any]) -> Any:
        """A new object like one of those."""
        written = self.written[at]
        if written is not None:
            try:
                return pickle.loads(written)
            except Exception:  # whatever the reading of foreign classes raises
                self.written[at] = None
        return built(self.contender, instances[at])

    def pairs(self, name: str, calls: int, first: int, instances: Sequence[Any]) -> list[Pair]:
        """At most so many calls of an operation, on objects in turn that are as large as they should be."""
        self.hold(instances)
        many = min(len(self.kept), len(instances))
        made: list[Pair] = []
        is_changing, begun, room = self.changes(name, instances), clock.now(), COPIES_BYTES
        share = max(1, int(DRIFT * self.size))
        while len(made) < calls:
            at = (first + len(made)) % many
            turns = self.turns(name, at, instances)
            start, most = (first + len(made)) % len(turns), calls - len(made)
            own = turns[start : start + (min(share, most) if is_changing else most)]
            target = self.fresh(at, instances) if is_changing else self.kept[at]
            made += pairs_on(target, own)
            room -= len(self.written[at] or b"") if is_changing else 0
            if is_changing and (room < 0 or clock.now() - begun > MAKING_MOST):
                break
        return made
