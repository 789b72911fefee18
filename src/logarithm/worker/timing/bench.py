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
from ...study.parts import HOLDS, Contender
from ...study.study import Study
from ..remembering import REPEATS, remembered
from ..unfinished import is_alone, unfinished
from .lazy import driven, promise_of
from .operations import answers, dearest_step
from .pieces import GARBAGE_MOST, PIECE, Pieces
from .pools import Pool, copied, is_changed
from .speed import LONG

FEW_CALLS = 2
COMPARED_MOST = 2000  # parts of an answer that is compared at each size
REPEATED = 5
UNTIMED_MOST = 10_000_000  # nanoseconds of a trial that may go to objects and copies, where its calls take less
TRYING_MOST, REPEATING_MOST = (
    100_000_000,
    5_000_000,
)  # nanoseconds of a call, or of making an instance, to look for traps


class Bench(Pieces):
    """One contender and the instances made for it in this process. `room`: bytes the process may hold."""

    def __init__(self, study: Study, contender: Contender, room: float = math.inf) -> None:
        super().__init__(contender)
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
