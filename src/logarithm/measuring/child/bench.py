"""The bench in a worker: makes instances ready for one contender, and times its calls.

Whatever is not the job stands outside the two readings of the clock: making the instance, copying it for a
contender that changes it, restoring, freeing the answer, collecting garbage.
"""

from __future__ import annotations

import copy
import inspect
import math
import pickle
import sys
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from functools import partial
from pathlib import Path
from typing import Any

from ...notation.sizes import Number
from ...study.parts import Contender
from ...study.study import Study
from ..shared import clock
from ..shared.messages import Timed

COPIES_BYTES = 64 * 2**20
CALLS_MOST = 10_000_000
GARBAGE_MOST = 5_000
REPEATED = 5
_ATOMS = (int, float, str, bytes, bool, type(None))


class Bench:
    """One contender and the instances made for it in this process. `room`: bytes the process may hold."""

    def __init__(self, study: Study, contender: Contender, room: float = math.inf) -> None:
        self.study = study
        self.contender = contender
        self.room = room
        self.instances: dict[tuple[str, Number, int], Any] = {}
        self.objects: dict[tuple[str, Number, int], Any] = {}
        self.is_async = inspect.iscoroutinefunction(contender.code)
        self.gives_future = False
        self.use_asks = _takes_instance(contender.code)
        self.loop: Any = None
        self.reading = clock.reading_cost()
        self.turn = clock.loop_cost()

    def instance(self, family: str, size: Number, seed: int) -> Any:
        """The instance of this family, size and seed, made at its first use and then kept while there is room."""
        key = (family, size, seed)
        if key not in self.instances:
            if _resident() > self.room:
                self.instances.clear()
                self.objects.clear()
            self.instances[key] = self.study.the_family(family).instance(size, seed)
            # What lives as long as the process need not be looked through at every collection.
            clock.collect()
            clock.freeze()
        return self.instances[key]

    def answer(self, instance: Any) -> Any:
        """The contender's answer to an instance, waited for and drained as the timing does."""
        code = self.contender.code
        if inspect.isclass(code):
            built: Any = code(**self.contender.values)
            built.build(instance)
            return built.use(instance) if self.use_asks else built.use()
        answer = code(instance, **self.contender.values)
        if inspect.isawaitable(answer):
            self.is_async = True
            answer = self._run(answer)
        elif isinstance(answer, Future):
            self.gives_future = True
            answer = answer.result()
        if self.contender.options.finish is not None:
            finished = self.contender.options.finish(answer)
            answer = answer if finished is None else finished
        return list(answer) if self.contender.options.drain else answer

    def first(self, family: str, size: Number, seed: int, stage: str | None, target: int) -> tuple[Timed, bool]:
        """Find how many calls last `target` nanoseconds. Returns the last timing, and whether input is changed.

        The very first call is made on a copy, and the copy compared with what it was before.
        """
        instance = self.instance(family, size, seed)
        spare, before = copied(instance)
        subject = self._object(family, size, seed) if stage == "use" else None
        timing = self._paced(stage, spare, subject, 1, copies=False)
        changes = stage != "use" and before is not None and as_bytes(spare) != before
        del spare, before
        calls = 1
        while timing.elapsed < target and calls < CALLS_MOST:
            longer = calls * target / max(timing.elapsed, 1)
            calls = clock.round_calls(min(longer * 1.1, calls * 10))
            again = self.timed(family, size, seed, stage, calls, copies=changes)
            if again.calls < calls:  # as many copies as there is room for
                return again, changes
            timing = again
        if timing.elapsed < REPEATED * target:
            # What is decided on this reading, such as how far the ladder goes, should not hang on one bad moment.
            timing = min(
                timing,
                *(self.timed(family, size, seed, stage, calls, changes) for _ in range(2)),
                key=lambda t: t.call,
            )
        return timing, changes

    def timed(self, family: str, size: Number, seed: int, stage: str | None, calls: int, copies: bool) -> Timed:
        """Time `calls` calls on one instance, each on its own copy where `copies` are needed."""
        instance = self.instance(family, size, seed)
        subject = self._object(family, size, seed) if stage == "use" else None
        return self._paced(stage, instance, subject, calls, copies)

    def _paced(self, stage: str | None, instance: Any, subject: Any, calls: int, copies: bool) -> Timed:
        before = clock.pace()
        timing = self._timed(stage, instance, subject, calls, copies)
        timing.pace = (before, clock.pace())
        return timing

    def _object(self, family: str, size: Number, seed: int) -> Any:
        """The object that stage `use` is timed on: built once for each instance."""
        key = (family, size, seed)
        if key not in self.objects:
            built = self.contender.code(**self.contender.values)
            built.build(copied(self.instance(family, size, seed))[0])
            self.objects[key] = built
            clock.collect()
            clock.freeze()
        return self.objects[key]

    def _timed(self, stage: str | None, instance: Any, subject: Any, calls: int, copies: bool) -> Timed:
        if stage is None:
            if self.is_async:
                return self._timed_async(instance, calls, copies)
            return self._timed_calls(self._call(), instance, calls, copies)
        code = self.contender.code
        if stage == "build":
            calls = min(calls, 1000)
            inputs = _copies(instance, calls) if copies else [instance] * calls
            builds = [code(**self.contender.values).build for _ in inputs]
            return self._read(len(inputs), len(inputs) * self.turn, partial(clock.paired_calls, builds, inputs))
        restore = getattr(code, "restore", None)
        # A bound method takes the instance; without one, the plain method takes the object itself.
        use: clock.Call = subject.use if self.use_asks else code.use  # type: ignore[attr-defined]
        given = instance if self.use_asks else subject
        if restore is None:
            return self._timed_calls(use, given, calls, copies=False)
        timing = Timed(calls=0, elapsed=0, cpu=0)
        for _ in range(calls):
            once = self._read(1, 0.0, lambda: clock.one_call(use, given)[0])
            restore(subject)
            timing = Timed(
                calls=timing.calls + 1,
                elapsed=timing.elapsed + once.elapsed,
                cpu=(timing.cpu or 0) + (once.cpu or 0),
                overhead=timing.overhead + once.overhead,
            )
        return timing

    def _timed_calls(self, call: clock.Call, instance: Any, calls: int, copies: bool) -> Timed:
        if copies:
            own = _copies(instance, calls)
            return self._read(len(own), len(own) * self.turn, partial(clock.each_call, call, own))
        if calls == 1:
            return self._read(1, 0.0, lambda: clock.one_call(call, instance)[0])
        if calls < clock.UNROLLED:
            return self._read(calls, calls * self.turn, partial(clock.few_calls, call, instance, calls))
        rounds = calls // clock.UNROLLED
        calls = rounds * clock.UNROLLED
        return self._read(calls, rounds * self.turn, partial(clock.many_calls, call, instance, rounds))

    def _timed_async(self, instance: Any, calls: int, copies: bool) -> Timed:
        call, finish = self._call(plain=True), self.contender.options.finish

        async def awaited() -> int:
            inputs = _copies(instance, calls) if copies else [instance] * calls
            start = clock.now()
            for argument in inputs:
                answer = await call(argument)
                if finish is not None:
                    finish(answer)
            return clock.now() - start

        return self._read(calls, calls * self.turn, lambda: self._run(awaited()))

    def _read(self, calls: int, loop: float, timed: Callable[[], int]) -> Timed:
        """Run `timed` with garbage collection out of the way and read the processor's time around it."""
        if clock.pending()[0] > GARBAGE_MOST:
            clock.collect()
        if self.contender.options.keep_gc:
            clock.enable_gc()
        before = clock.busy()
        elapsed = timed()
        cpu = clock.busy() - before
        clock.disable_gc()
        return Timed(calls=calls, elapsed=elapsed, cpu=cpu, overhead=self.reading + loop)

    def _call(self, plain: bool = False) -> clock.Call:
        """The contender as a function of an instance alone, waiting for its work to end."""
        code: clock.Call = self.contender.code
        if self.contender.values:
            code = partial(code, **self.contender.values)
        finish = self.contender.options.finish
        if plain or not (self.gives_future or finish or self.contender.options.drain):
            return code
        if self.gives_future:
            return lambda instance: code(instance).result()
        if self.contender.options.drain:
            return lambda instance: deque(code(instance), maxlen=0)
        return lambda instance: finish(code(instance)) if finish else None

    def _run(self, awaitable: Any) -> Any:
        import asyncio

        if self.loop is None:
            self.loop = asyncio.new_event_loop()

        async def wait() -> Any:
            return await awaitable

        return self.loop.run_until_complete(wait())


def _takes_instance(code: Any) -> bool:
    """Whether the method `use` of a class with stages is given the instance again."""
    return inspect.isclass(code) and len(inspect.signature(code.use).parameters) > 1  # type: ignore[attr-defined]


def as_bytes(instance: Any) -> bytes | None:
    """The instance as bytes by which a change of it is seen; None where it has none."""
    try:
        return pickle.dumps(instance, protocol=pickle.HIGHEST_PROTOCOL)
    except Exception:  # whatever the pickling of foreign classes raises
        return None


def copied(instance: Any) -> tuple[Any, bytes | None]:
    """A copy of an instance, and the bytes by which a change of it is seen; None where it has no such bytes."""
    own = as_bytes(instance)
    if own is None:
        try:
            return copy.deepcopy(instance), None
        except Exception:  # an instance that cannot be copied is shared
            return instance, None
    spare = _copier(instance)()
    return spare, as_bytes(spare)


def _copies(instance: Any, calls: int) -> list[Any]:
    """Up to `calls` copies of an instance, as many as the bound on their memory allows, at least one."""
    make = _copier(instance)
    one = len(as_bytes(instance) or b"") + sys.getsizeof(instance)
    return [make() for _ in range(max(1, min(calls, COPIES_BYTES // max(one, 1))))]


def _copier(instance: Any) -> Callable[[], Any]:
    """The cheapest way to a copy that shares nothing that can be changed."""
    if isinstance(instance, _ATOMS):
        return lambda: instance
    flat = type(instance) in (list, set, bytearray, deque) and all(type(item) in _ATOMS for item in instance)
    if flat or (type(instance) is list and all(_is_fixed(item) for item in instance)):
        return instance.copy  # type: ignore[no-any-return]
    own = as_bytes(instance)
    if own is None:
        return partial(copy.deepcopy, instance)
    return partial(pickle.loads, own)


def _is_fixed(item: Any) -> bool:
    return type(item) in _ATOMS or (type(item) is tuple and all(type(part) in _ATOMS for part in item))


def _resident() -> float:
    """Bytes of memory that this process holds, or 0 where the system does not tell."""
    try:
        return int(Path("/proc/self/statm").read_text().split()[1]) * 4096.0
    except (OSError, ValueError, IndexError):
        return 0.0
