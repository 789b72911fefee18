"""Pieces of a trial: some calls of a contender, timed at once, each kind of contender in its own way.

Whatever is not the job stands outside the two readings of the clock. The answers of a piece are kept until the clock
has been read, and freed before the next one begins.
"""

from __future__ import annotations

import inspect
import math
from collections.abc import Callable
from functools import partial
from typing import Any

from ...protocol import clock
from ...protocol.requests import PoolKey, Timing
from ...study.expressions import Expression
from ...study.parts import GROW, HOLDS, Contender
from .evaluated import Evaluated
from .lazy import driving
from .operations import Objects, growth_steps
from .own_time import OwnTime
from .pools import POOL_BYTES, Pool, copied
from .speed import SpeedReadings

PIECE = 500_000  # nanoseconds
GARBAGE_MOST = 5_000
PLAIN = (type(None), bool, int, float)  # answers that cost nothing to free
OBJECTS_MAKING = 25_000_000  # nanoseconds for building the objects that one design point uses

Piece = Callable[[int, int], tuple[int, int, float, Callable[[], None] | None]]
"""Times so many calls beginning with an input: calls made, nanoseconds, overhead of a call, what to do afterwards."""


class Pieces:
    """How pieces of one contender's trials are timed."""

    def __init__(self, contender: Contender) -> None:
        self.contender = contender
        self.objects: dict[PoolKey, list[Any]] = {}
        self.building: dict[PoolKey, int] = {}
        self.calls: dict[tuple[PoolKey, str | None], float] = {}
        self.is_async = inspect.iscoroutinefunction(contender.code)
        self.use_asks = _takes_instance(contender.code)
        self.loop: Any = None
        self.cost = clock.overheads()
        self.pacing = SpeedReadings()
        self.own = OwnTime()
        self.is_plain_answer = False
        self.evaluated: dict[int, Evaluated] = {}
        self.operated: dict[PoolKey, Objects] = {}

    def piece(self, request: Timing, pool: Pool, among: int) -> Piece:
        """How a piece of a trial is timed."""
        if request.stage == "build":
            return self._building(request, pool, among)
        if request.stage == GROW and self.contender.options.grow:
            return self._growing(pool, among)
        if self.contender.options.operations:
            return self._operating(request, pool, among)
        if request.stage == "use":
            return self._using(request, pool, among)
        if self.contender.expression is not None:
            return self._evaluating(self.contender.expression, pool, among)
        if self.is_async or request.promise == "awaitable":
            return self._awaiting(request, pool, among)
        options = self.contender.options
        call = driving(self.plain, request.promise, self.run)
        if options.finish is not None:
            call = _finished(self.plain, options.finish)

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            if request.copies:
                inputs = pool.copies(calls, first, among)
                tens = (
                    list(zip(*[iter(inputs)] * clock.UNROLLED, strict=False)) if len(inputs) >= clock.UNROLLED else []
                )
            else:
                tens = pool.tens(calls, first, among) if calls >= clock.UNROLLED else []
                inputs = [] if tens else pool.some(calls, first, among)
            kept: list[Any] = []
            if tens and self.is_plain_answer:
                took = self._kept(clock.in_tens_dropped, call, tens, kept)
                return clock.UNROLLED * len(tens), took, 0.0, None
            if tens:
                return clock.UNROLLED * len(tens), self._kept(clock.in_tens, call, tens, kept), self.cost.ten, None
            loop, cost = (_once, 0.0) if len(inputs) == 1 else (clock.in_turn, self.cost.turn)
            took = self._kept(loop, call, inputs, kept)
            self.is_plain_answer = type(kept[-1]) in PLAIN
            return len(inputs), took, cost, None

        return one

    @property
    def is_function(self) -> bool:
        """Whether the contender is a function whose work is over when it returns, but for promises."""
        return not inspect.isclass(self.contender.code) and not self.is_async and self.contender.options.finish is None

    @property
    def plain(self) -> clock.Call:
        """The contender as a function of an instance alone."""
        code: clock.Call = self.contender.code
        return partial(code, **self.contender.values) if self.contender.values else code

    def _kept(self, loop: Callable[..., int], *arguments: Any) -> int:
        """Run a loop whose last argument is where answers are kept, with the collector on where it is wanted."""
        *given, kept = arguments
        if self.contender.options.keep_gc:
            clock.enable_gc()
        spent = self.pacing.spent
        self.own.before()
        try:
            took = loop(*given, kept.append)
        finally:
            clock.disable_gc()
        aside = self.pacing.spent - spent
        self.own.after(took, aside)
        return took - aside

    def _building(self, request: Timing, pool: Pool, among: int) -> Piece:
        code = self.contender.code

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            take = pool.copies if request.copies else pool.some
            inputs = take(min(calls, 1000), first, among)
            if self.contender.options.operations:
                inputs = [each[HOLDS] for each in inputs]
            pairs = [(code(**self.contender.values).build, each) for each in inputs]
            return len(pairs), self._kept(clock.in_pairs, pairs, []), self.cost.pair, None

        return one

    def _growing(self, pool: Pool, among: int) -> Piece:
        """Bring empty objects to their size, operation by operation: one call is the whole of it."""

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            some = pool.some(calls, first, among)
            pairs = [pair for each in some for pair in growth_steps(self.contender, each)]
            return len(some), self._kept(clock.in_pairs, pairs, []), self.cost.pair * len(pairs) / len(some), None

        return one

    def _operating(self, request: Timing, pool: Pool, among: int) -> Piece:
        """Call an operation, or a mix of them, on objects that are as large as they should be."""
        objects = self.operated.setdefault(request.pool, Objects(self.contender, float(request.size)))
        instances, stage = pool.instances[:among], request.stage or ""

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            pairs = objects.pairs(stage, calls, first, instances)
            return len(pairs), self._kept(clock.in_pairs, pairs, []), self.cost.pair, None

        return one

    def _using(self, request: Timing, pool: Pool, among: int) -> Piece:
        code: Any = self.contender.code
        restore = getattr(code, "restore", None)
        built = self.built(request, pool, among, restore is not None)
        inputs = [pool.instances[each % among] for each in range(len(built))]

        def one(calls: int, first: int) -> tuple[int, int, float, Callable[[], None] | None]:
            if restore is not None:
                calls = min(calls, len(built))
            if calls > clock.UNROLLED:
                calls -= calls % clock.UNROLLED
            at = [(first + each) % len(built) for each in range(calls)]
            afterwards = partial(_each, restore, [built[each] for each in at]) if restore is not None else None
            kept: list[Any] = []
            if self.use_asks:
                pairs = [(built[each].use, inputs[each]) for each in at]
                return calls, self._kept(clock.in_pairs, pairs, kept), self.cost.pair, afterwards
            objects = [built[each] for each in at]
            tens = _tens_of(objects)
            if not tens:
                return calls, self._kept(clock.in_turn, code.use, objects, kept), self.cost.turn, afterwards
            took = self._kept(clock.in_tens, code.use, tens, kept)
            return clock.UNROLLED * len(tens), took, self.cost.ten, afterwards

        return one

    def built(self, request: Timing, pool: Pool, among: int, is_restored: bool) -> list[Any]:
        """The objects that stage `use` is timed on: one for each instance, and more where each must be restored."""
        key = request.pool
        objects = self.objects.setdefault(key, [])
        call = self.calls.get((key, "use"), 0.0)
        wanted = max(among, min(request.calls, math.ceil(PIECE / call) if call else 1)) if is_restored else among
        begun = clock.now()
        while len(objects) < wanted:
            spent = self.building.get(key, 0) + clock.now() - begun
            if objects and (spent > OBJECTS_MAKING or len(objects) * pool.size > POOL_BYTES):
                break
            made = self.contender.code(**self.contender.values)
            made.build(copied(pool.instances[len(objects) % among])[0])
            objects.append(made)
        self.building[key] = self.building.get(key, 0) + clock.now() - begun
        self.settle()
        return objects[:wanted]

    def _evaluating(self, expression: Expression, pool: Pool, among: int) -> Piece:
        """Evaluate an expression on the instances in turn, in a loop that is compiled around it."""
        if not self.evaluated:
            self.evaluated = {many: Evaluated.of(expression, many) for many in (1, clock.UNROLLED)}
        made = self.evaluated

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            many, rows = clock.UNROLLED, list[Any]()
            if calls >= clock.UNROLLED:
                rows += pool.tens(calls, first, among, expression.values)
            else:
                many, rows = 1, [(expression.values(each),) for each in pool.some(calls, first, among)]
            took = self._kept(made[many].loop, rows, [])
            return many * len(rows), took, made[many].overhead(rows), None

        return one

    def _awaiting(self, request: Timing, pool: Pool, among: int) -> Piece:
        finish = self.contender.options.finish
        call = self.plain
        if finish is not None:
            plain = call

            async def call(instance: Any) -> Any:
                answer = await plain(instance)
                finish(answer)
                return answer

        def one(calls: int, first: int) -> tuple[int, int, float, None]:
            take = pool.copies if request.copies else pool.some
            inputs = take(calls, first, among)
            took = self._kept(lambda *given: int(self.run(clock.awaited(*given))), call, inputs, [])
            return len(inputs), took, self.cost.turn, None

        return one

    def run(self, awaitable: Any) -> Any:
        """Wait for an awaitable."""
        import asyncio

        if self.loop is None:
            self.loop = asyncio.new_event_loop()

        async def wait() -> Any:
            return await awaitable

        return self.loop.run_until_complete(wait())

    def settle(self) -> None:
        """Take what was made out of every later collection: it lives as long as the process."""
        if clock.pending()[0] > GARBAGE_MOST:
            clock.collect()
        clock.freeze()


def _tens_of(inputs: list[Any]) -> list[Any]:
    """Whole tens of some inputs; what is left over is left out."""
    return list(zip(*[iter(inputs)] * clock.UNROLLED, strict=False))


def _once(call: clock.Call, inputs: list[Any], keep: clock.Keep) -> int:
    took, answer = clock.one_call(call, inputs[0])
    keep(answer)
    return took


def _finished(code: clock.Call, finish: Callable[[Any], Any]) -> clock.Call:
    return lambda instance: finish(code(instance))


def _each(call: clock.Call, objects: list[Any]) -> None:
    for each in objects:
        call(each)


def _takes_instance(code: Any) -> bool:
    """Whether the method `use` of a class with stages is given the instance again."""
    return inspect.isclass(code) and hasattr(code, "use") and len(inspect.signature(code.use).parameters) > 1
