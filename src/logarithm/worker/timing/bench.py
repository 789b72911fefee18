"""The bench in a worker: makes inputs ready for one contender, and times its calls.

Whatever is not the job stands outside the two readings of the clock: making instances, copying them for a
contender that changes its input, restoring, freeing answers, collecting garbage.

A trial takes its inputs in turn from a pool, because a processor learns a short input that is repeated. It is timed
in pieces of about half a millisecond, or of one call where that takes longer: the answers of a piece are kept
until the clock has been read, and freed before the next one begins.
"""

from __future__ import annotations

import inspect
import math
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from ...notation import encoding
from ...notation.sizes import Number
from ...protocol import clock
from ...protocol.calibration import INSTANCES_LEAST, freshened, lengthen, warm_up
from ...protocol.replies import Answered, Calibrated, Timed, Warmed
from ...protocol.requests import MAKING_MOST, POOL_MOST, Calibrate, PoolKey, TimeDearestStep, Timing, WarmUp, seed_of
from ...protocol.scheduling import own_time
from ...study.expressions import Expression
from ...study.parts import GROW, HOLDS, Contender
from ...study.study import Study
from ..remembering import REPEATS, remembered
from ..unfinished import is_alone, unfinished
from .evaluated import Evaluated
from .lazy import driven, driving, promise_of
from .operations import Objects, answers, dearest_step, growth_steps
from .own_time import OwnTime
from .pools import POOL_BYTES, Pool, copied, is_changed
from .speed import LONG, SpeedReadings

PIECE = 500_000  # nanoseconds
GARBAGE_MOST = 5_000
PLAIN = (type(None), bool, int, float)  # answers that cost nothing to free
OBJECTS_MAKING = 25_000_000  # nanoseconds for building the objects that one design point uses

Piece = Callable[[int, int], tuple[int, int, float, Callable[[], None] | None]]
"""Times so many calls beginning with an input: calls made, nanoseconds, overhead of a call, what to do afterwards."""
FEW_CALLS = 2
COMPARED_MOST = 2000  # parts of an answer that is compared at each size
REPEATED = 5
UNTIMED_MOST = 10_000_000  # nanoseconds of a trial that may go to objects and copies, where its calls take less
TRYING_MOST, REPEATING_MOST = 100_000_000, 5_000_000  # nanoseconds of a call, or of making an input, for traps


class Bench:
    """One contender and the instances made for it in this process. `room`: bytes the process may hold."""

    def __init__(self, study: Study, contender: Contender, room: float = math.inf) -> None:
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
        self.study = study
        self.room = room
        self.pools: dict[PoolKey, Pool] = {}
        self.taken: list[Any] = []
        self.hand_over: Callable[[Any], Any] | None = None  # gives an instance to code in another language beforehand
        self.repeated: set[str] = set()  # families of which it was looked at whether they repeat their instances
        self.is_plain: bool | None = None
        self.inside = 0
        self.trapped = False

    def pool(self, family: str, size: Number, seed: int) -> Pool:
        """The instances of this family and size from this seed on; kept while there is room, the first one made."""
        key = family, size, seed
        if key not in self.pools:
            if _resident() > self.room:
                self.pools.clear()
                self.objects.clear()
                self.building.clear()
            self.pools[key] = Pool(partial(self.study.the_family(family).instance, size), seed)
            self.hold(self.pools[key], 1)
        return self.pools[key]

    def hold(self, pool: Pool, count: int, within: float = MAKING_MOST) -> int:
        """Let a pool have so many instances, as far as time and memory allow. Returns how many there are."""
        there = len(pool.instances)
        held = pool.hold(count, within)
        if len(pool.instances) > there:
            self.settle()
        return held

    def answer(self, instance: Any) -> Any:
        """The contender's answer to an instance, waited for and exhausted as the timing does."""
        code, options = self.contender.code, self.contender.options
        if self.contender.options.operations:
            return answers(self.contender, instance)
        if inspect.isclass(code):
            built: Any = code(**self.contender.values)
            built.build(instance)
            answer = built.use(instance) if self.use_asks else built.use()
        else:
            answer = code(instance, **self.contender.values)
        if inspect.isawaitable(answer):
            answer = self.run(answer)
        if options.finish is not None:
            finished = options.finish(answer)
            answer = answer if finished is None else finished
        return answer if options.drain is False else driven(answer, self.run)

    def calibrated(self, request: Calibrate) -> Calibrated:
        """Find how many calls last long enough, on how many instances in turn, and what a repeated one would cost."""
        pool, before = self.pool(*request.pool), self.inside
        changes, promise, first, given = self.first(request)
        plan = Timing(*request.pool, request.stage, calls=1, copies=changes, promise=promise)

        def time(calls: int, among: int) -> Timed:
            return self.timed(replace(plan, calls=calls, instances=among))

        timed = lengthen(time, request.target, first)
        # Operations take their arguments in turn: a few objects will do.
        most = request.most if not self.contender.options.operations else min(request.most, INSTANCES_LEAST)
        instances, timed, repeated = freshened(time, timed, most, lambda count: self.hold(pool, count, request.making))
        if repeated is not None and pool.is_single:
            repeated = None  # the family has one instance of a size: each call repeats it, and nothing else can be had
        if timed.elapsed < REPEATED * request.target and timed.calls == 1:
            # What is decided on this reading, such as how far the sizes go, should not hang on one bad moment.
            again = [self.timed(replace(plan, calls=1, instances=instances, first=each)) for each in (1, 2)]
            timed = min(timed, *again, key=lambda each: each.call)
        return Calibrated.of(
            timed,
            changes=changes,
            promise=promise,
            instances=instances,
            repeated=repeated,
            making=pool.making // max(len(pool.instances), 1),
            inside=self.inside - before,
            answered=given,
            traps=self.traps(pool, request.stage, timed.call, changes),
        )

    def traps(self, pool: Pool, stage: str | None, call: float, changes: bool) -> dict[str, str]:
        """What shows at this size, where trying it is quick: earlier calls remembered, work that goes on afterwards."""
        told: dict[str, str] = {}
        making = pool.making / max(len(pool.instances), 1)
        if stage is not None or max(call, making) > TRYING_MOST or self.trapped:
            return told
        if self.own.has_threads or not is_alone():
            instance, _ = copied(pool.instances[0])
            told |= unfinished(lambda: self.answer(instance))
        if max(call, making) < REPEATING_MOST and not pool.is_single:
            new = (seed_of(pool.seed, POOL_MOST + number) for number in range(REPEATS))
            told |= remembered(self.plain if self.is_function else self.answer, pool.make, new, changes, call)
        self.trapped = bool(told)
        return told

    def first(self, request: Calibrate) -> tuple[bool, str, Timed, Answered | None]:
        """The very first call, on a copy: whether its input is changed, what is returned, how long it took.

        The answer is there where it is one of a whole call, and small.
        """
        pool = self.pool(*request.pool)
        options, code = self.contender.options, self.contender.code
        instance, before = copied(pool.instances[0])
        if request.stage not in (None, "build"):
            return False, "", self.timed(Timing(*request.pool, request.stage, 1)), None
        if request.stage == "build":
            if options.operations:
                instance = instance[HOLDS]
            call: clock.Call = code(**self.contender.values).build
        else:
            call = self.plain
        pace = clock.pace()
        self.own.begin()
        self.own.before()
        elapsed, answer = clock.one_call(call, instance)
        promise = promise_of(answer)
        if promise and options.drain is not False:
            more, answer = clock.one_call(lambda promised: driven(promised, self.run), answer)
            elapsed += more
        self.own.after(elapsed)
        if options.drain is False or options.finish is not None:
            promise = ""
        if options.drain and not promise:
            promise = "iterator"
        paces = (pace, clock.pace())
        timed = Timed(
            calls=1, elapsed=elapsed, cpu=self.own.ran, queued=self.own.queued, overhead=self.cost.reading, pace=paces
        )
        untouched = pool.make(request.seed)
        changed = is_changed(instance, before, untouched)
        whole = request.stage is None and options.finish is None and options.drain is not False
        return changed is not False, promise, timed, self.shown(answer, untouched) if whole else None

    def shown(self, answer: Any, instance: Any) -> Answered | None:
        """A small answer, with what the referee says of it; None where it has many parts."""
        try:
            reply = Answered(answer=encoding.described(answer, COMPARED_MOST))
        except encoding.TooLargeError:
            return None
        if self.study.judge is not None:
            reply.right = bool(self.study.judge(instance, answer))
        return reply

    def warmed(self, request: WarmUp) -> Warmed:
        """Trial after trial until they are steady."""
        return warm_up(lambda first: self.timed(replace(request, first=first)), request.first, request.most)

    def timed(self, request: Timing) -> Timed:
        """One trial: so many calls on the instances in turn, in pieces, with the pace before and after."""
        begun = clock.now()
        pool = self.pool(*request.pool)
        among = self.hold(pool, request.instances)
        made_ns = clock.now() - begun
        piece = self.piece(request, pool, among)
        key = request.pool, request.stage
        if clock.pending()[0] > GARBAGE_MOST:
            clock.collect()
        before = clock.pace()
        made, elapsed, overhead = 0, 0, 0.0
        estimate = self.calls.get(key, 0.0)
        # Of a first trial in this process nobody knows; one of few calls may be long.
        is_long = estimate * request.calls > LONG if estimate else request.calls <= FEW_CALLS
        self.own.begin()
        with self.pacing if is_long else nullcontext():
            since = clock.now()
            # One piece at least, however long others had the processor before it.
            while not made or (made < request.calls and clock.now() - since - elapsed < max(UNTIMED_MOST, elapsed)):
                wanted = _piece_of(request.calls - made, estimate)
                calls, took, loop, afterwards = piece(wanted, request.first + made)
                made, elapsed = made + calls, elapsed + took
                overhead += self.cost.reading + calls * loop
                estimate = max(took - self.cost.reading, 1.0) / calls
                if afterwards is not None:
                    afterwards()
        self.calls[key] = estimate
        self.inside += elapsed
        paces = before, clock.pace()
        self.own.end()
        during = self.pacing.over(own_time(elapsed, self.own.ran, self.own.queued)) if is_long else 0
        return Timed(
            calls=made,
            elapsed=elapsed,
            cpu=self.own.ran,
            queued=self.own.queued,
            overhead=overhead,
            pace=paces,
            during=during,
            made=made_ns,
        )

    def dearest(self, request: TimeDearestStep) -> Timed:
        """The dearest step of growing from nothing."""
        instance = self.pool(*request.pool).instances[0]
        pace = clock.pace()
        took = dearest_step(self.contender, instance)
        return Timed(calls=1, elapsed=took, overhead=self.cost.reading, pace=(pace, clock.pace()))

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


def _piece_of(calls: int, estimate: float) -> int:
    """How many of the calls to time at once: for about half a millisecond, one or a multiple of ten."""
    fits = PIECE / estimate if estimate else 1
    if fits < clock.UNROLLED or calls < clock.UNROLLED:
        return max(1, min(calls, int(fits)))
    return min(calls, int(fits) // clock.UNROLLED * clock.UNROLLED)


def _resident() -> float:
    """Bytes of memory that this process holds, or 0 where the system does not tell."""
    try:
        return int(Path("/proc/self/statm").read_text().split()[1]) * 4096.0
    except (OSError, ValueError, IndexError):
        return 0.0
