"""The bench of a worker, in this process: what stands between the two readings of the clock, and what does not."""

from __future__ import annotations

import asyncio
import gc
import random
import threading
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import Study
from logarithm.protocol import clock
from logarithm.protocol.calibration import INSTANCES_LEAST, PASS, freshened
from logarithm.protocol.replies import Timed
from logarithm.protocol.requests import Calibrate, Timing, WarmUp, seed_of
from logarithm.worker.timing import bench, pools
from logarithm.worker.timing.bench import Bench
from logarithm.worker.timing.lazy import driven, promise_of
from logarithm.worker.timing.pools import Pool, copied, is_changed
from logarithm.worker.traps import in_answers


@pytest.fixture(autouse=True)
def collection_as_it_was() -> Iterator[None]:
    yield
    gc.enable()
    gc.unfreeze()


def bench_of(code: Any, make: Any = None, **options: Any) -> Bench:
    study = Study("quay")
    study.family(make or (lambda n, rng: [rng.random() for _ in range(n)]), name="levels")
    study.contender(**options)(code)
    return Bench(study, study.contenders[0])


def at(n: int, calls: int, stage: str | None = None, **more: Any) -> Timing:
    return Timing("levels", n, 1, stage, calls, **more)


@pytest.fixture(autouse=True)
def all_calls_are_made(monkeypatch: pytest.MonkeyPatch) -> None:
    """However slow the machine is: a trial is not shortened for the objects and copies that it needs."""
    monkeypatch.setattr(bench, "UNTIMED_MOST", 10**12)


def calibrated(bench: Bench, n: int, target: int = 10_000, stage: str | None = None, most: int = 64) -> Any:
    return bench.calibrated(Calibrate("levels", n, 1, stage, target, most))


def test_instances_are_made_once_and_follow_from_their_seed() -> None:
    bench = bench_of(lambda x: sum(x), name="adds")
    pool = bench.pool("levels", 5, 1)
    assert bench.hold(pool, 3) == 3
    first = pool.instances[0]
    assert bench.pool("levels", 5, 1).instances[0] is first
    assert bench.pool("levels", 5, 2).instances[0] != first
    assert first[0] == random.Random("levels/5/1").random()
    assert pool.instances[2][0] == random.Random(f"levels/5/{seed_of(1, 2)}").random()


@given(st.integers(1, 40), st.integers(0, 100), st.integers(1, 13))
def test_a_pool_is_gone_round_in_turn(count: int, first: int, among: int) -> None:
    pool = Pool(lambda seed: seed, 7)
    assert pool.hold(among) == among
    order = [seed_of(7, number % among) for number in range(first, first + count)]
    assert pool.some(count, first, among) == order
    assert pool.copies(count, first, among) == order
    tens = [each for ten in pool.tens(10 * count, first, among) for each in ten]
    assert len(tens) == 10 * count
    assert tens == pool.some(10 * count, first // 10 * 10, among)


def test_a_pool_is_bounded_in_time_and_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pools, "POOL_BYTES", 10_000)
    assert 1 <= Pool(lambda seed: [0.5] * 1000, 1).hold(4096) < 10
    assert Pool(lambda seed: [seed], 1).hold(4096, within=0) == 1


def test_each_trial_takes_its_inputs_in_turn() -> None:
    seen: list[float] = []
    bench = bench_of(lambda x: seen.append(x[0]), name="notes")
    bench.hold(bench.pool("levels", 2, 1), 3)
    seen.clear()
    timed = bench.timed(at(2, 7, instances=3, first=2))
    firsts = [each[0] for each in bench.pools["levels", 2, 1].instances]
    assert timed.calls == 7
    assert seen == [firsts[(2 + each) % 3] for each in range(7)]


def test_the_pool_takes_as_long_as_no_processor_learns_by_heart() -> None:
    def timed(nanoseconds: int) -> Any:
        return lambda calls, among: Timed(calls=calls, elapsed=calls * nanoseconds * (2 if among > 1 else 1))

    def needed(nanoseconds: int, most: int = 4096, room: int = 4096) -> tuple[int, float, float | None]:
        time = timed(nanoseconds)
        instances, found, repeated = freshened(time, time(100, 1), most, lambda count: min(count, room))
        return instances, found.call, repeated

    assert needed(1000) == (PASS // 1000, 2000.0, 1000.0)
    assert needed(10)[0] == 4096 and needed(1000, room=50)[0] == 50
    assert needed(1000, most=1) == (1, 1000.0, None)
    assert needed(PASS) == (INSTANCES_LEAST, float(PASS), None)


def test_as_many_calls_are_made_as_are_said() -> None:
    made: list[int] = []
    bench = bench_of(lambda x: made.append(1), name="counts")
    for calls in (1, 7, 40, 2000):
        made.clear()
        assert bench.timed(at(3, calls)).calls == calls == len(made)


@pytest.mark.parametrize("away", [0, 50_000_000])
def test_a_trial_has_a_piece_at_least_and_ends_where_objects_take_longer_than_calls(
    monkeypatch: pytest.MonkeyPatch, away: int
) -> None:
    class Moored:
        def build(self, levels: list[float]) -> None:
            self.levels = levels

        def use(self) -> float:
            return self.levels[0]

    bench = bench_of(Moored)
    bench.timed(at(4, 1, "build"))
    assert bench.timed(at(4, 3000, "build")).calls == 3000
    real, seen = clock.now, 0

    def now() -> int:
        nonlocal seen
        seen += 1
        return real() + seen * away  # at each reading, others have had the processor for so long

    monkeypatch.setattr("logarithm.worker.timing.bench.clock.now", now)
    if away:
        monkeypatch.setattr("logarithm.worker.timing.bench.UNTIMED_MOST", 10_000_000)
    assert bench.timed(at(4, 3000, "build")).calls == (1000 if away else 3000)


def test_a_changing_contender_is_found_and_gets_a_fresh_copy_each_time() -> None:
    lengths: list[int] = []

    def eats(levels: list[float]) -> None:
        lengths.append(len(levels))
        levels.clear()

    bench = bench_of(eats)
    found = calibrated(bench, 6, target=50_000)
    assert found.changes
    assert found.calls >= 1
    bench.timed(at(6, 20, copies=True, instances=4))
    assert set(lengths) == {6}
    assert {len(each) for each in bench.pools["levels", 6, 1].instances} == {6}


class Locked:
    """An instance that cannot be pickled."""

    def __init__(self, n: int) -> None:
        self.lock, self.levels = threading.Lock(), list(range(n))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Locked) and self.levels == other.levels

    def __hash__(self) -> int:
        return 0


class Opaque:
    """One whose parts nobody can compare."""

    def __init__(self, n: int) -> None:
        self.levels = (each for each in range(n))


def test_a_change_of_what_cannot_be_pickled_is_seen_or_told() -> None:
    sizes: list[int] = []

    def eats(locked: Locked) -> None:
        sizes.append(len(locked.levels))
        locked.levels.clear()

    bench = bench_of(eats, make=lambda n, rng: Locked(n))
    assert calibrated(bench, 6).changes
    sizes.clear()
    bench.timed(at(6, 12, copies=True))
    assert sizes == [6] * 12
    untold = in_answers(bench_of(lambda x: 1, make=lambda n, rng: Opaque(n), name="looks"), "levels", 3, 1)
    assert "untold" in untold
    assert is_changed([1, 2], None, [1, 2]) is False
    assert is_changed([1], None, [1, 2]) is True


def test_an_honest_contender_is_not_said_to_change_its_input() -> None:
    assert not calibrated(bench_of(lambda x: sorted(x), name="looks"), 50).changes


def test_copies_are_bounded_in_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pools, "COPIES_BYTES", 50_000)
    pool = Pool(lambda seed: [0.5] * 1000, 1)
    pool.hold(2)
    assert 1 <= len(pool.copies(500, 0, 2)) < 10
    assert bench_of(lambda x: x.clear(), name="clears").timed(at(1000, 500, copies=True)).calls == 500


@pytest.mark.parametrize(
    "instance", [[1, 2.5, "a"], [(1, 2), (3, 4)], {"a": [1]}, [[1], [2]], {1, 2}, "text", 7, bytearray(b"x")]
)
def test_a_copy_is_equal_and_shares_nothing_that_can_change(instance: Any) -> None:
    spare, _ = copied(instance)
    assert spare == instance
    if isinstance(instance, list) and isinstance(instance[0], list):
        spare[0].append(9)
        assert instance[0] == [1]


BUILT: list[int] = []


class Stages:
    used = restored = 0

    def build(self, levels: list[float]) -> None:
        BUILT.append(len(levels))
        self.levels = list(levels)

    def use(self) -> int:
        Stages.used += 1
        self.levels.append(0.0)
        return len(self.levels)

    def restore(self) -> None:
        Stages.restored += 1
        self.levels.pop()


def test_stages_are_built_for_each_call_and_every_object_is_restored_after_its_turn() -> None:
    bench = bench_of(Stages)
    assert bench.timed(at(4, 3, "build")).calls == 3
    assert BUILT == [4, 4, 4]
    assert bench.timed(at(4, 25, "use", instances=3)).calls == 25
    assert Stages.used == Stages.restored == 25
    objects = bench.objects["levels", 4, 1]
    assert len(objects) >= 3
    assert {len(each.levels) for each in objects} == {4}
    for calls in (1, 9, 17, 240):
        bench.timed(at(4, calls, "use", instances=17, first=5))
        assert {len(each.levels) for each in bench.objects["levels", 4, 1]} == {4}
    assert Stages.used == Stages.restored


class Freed:
    alive = most = 0

    def __init__(self) -> None:
        Freed.alive += 1
        Freed.most = max(Freed.most, Freed.alive)

    def __del__(self) -> None:
        Freed.alive -= 1


def test_answers_are_kept_until_the_clock_is_read_and_freed_piece_by_piece() -> None:
    bench = bench_of(lambda x: Freed(), name="makes")
    bench.timed(at(2, 20))
    Freed.most = 0
    bench.timed(at(2, 20_000))
    # More than one at a time: none is freed inside a piece. Not all: they are freed between pieces.
    assert 10 <= Freed.most < 20_000
    assert Freed.alive == 0


NAP = 0.01


async def awaited(levels: list[float]) -> int:
    await asyncio.sleep(NAP)
    return 1


def drained(levels: list[float]) -> Iterator[int]:
    threading.Event().wait(NAP)
    yield 1


def nested(levels: list[float]) -> tuple[Iterator[int], int]:
    return drained(levels), 2


def finished(levels: list[float]) -> threading.Thread:
    thread = threading.Thread(target=threading.Event().wait, args=(NAP,))
    thread.start()
    return thread


def test_work_is_timed_to_its_end_in_every_process() -> None:
    pool = ThreadPoolExecutor(1)

    def ashore(levels: list[float]) -> Future[None]:
        return pool.submit(threading.Event().wait, NAP)  # type: ignore[return-value]

    for code, promise, options in (
        (awaited, "awaitable", {}),
        (ashore, "future", {}),
        (drained, "iterator", {}),
        (nested, "nested", {}),
        (finished, "", {"finish": threading.Thread.join}),
    ):
        first = calibrated(bench_of(code, **options), 2, target=1)
        assert first.promise == promise, code
        # Another process, which has seen no answer: what the first one found is told to it.
        timed = bench_of(code, **options).timed(at(2, 2, promise=first.promise))
        assert timed.call >= 0.9 * NAP * 1e9, code
    promised = calibrated(bench_of(drained, drain=False), 2, target=1)
    assert promised.promise == ""
    assert promised.call < NAP * 1e9
    pool.shutdown()


def test_promises_are_answers_once_they_are_driven() -> None:
    def run(awaitable: Any) -> Any:
        return asyncio.new_event_loop().run_until_complete(awaitable)

    async def stream() -> Any:
        yield 1

    assert driven((iter([1]), [map(abs, [-2])], 3), run) == ([1], [[2]], 3)
    assert driven(awaited([]), run) == 1
    assert driven(stream(), run) == [1]
    assert [promise_of(each) for each in ([1], "text", {1: 2}, range(3))] == [""] * 4


def test_async_contenders_that_change_their_input_are_divided_by_the_calls_made() -> None:
    made: list[int] = []

    async def eats(levels: list[float]) -> None:
        made.append(len(levels))
        levels.clear()

    timed = bench_of(eats).timed(at(3, 30, copies=True, promise="awaitable"))
    assert timed.calls == 30 == len(made)
    assert set(made) == {3}


def test_warming_up_ends_when_readings_are_steady_or_the_time_is_over() -> None:
    naps = iter([0.02, 0.01, 0.004, 0.001, 0.001, 0.001, *[0.001] * 100])
    bench = bench_of(lambda x: threading.Event().wait(next(naps)), name="wakes")
    warmed = bench.warmed(WarmUp("levels", 2, 1, None, 1, most=10**9))
    assert warmed.steady
    assert len(warmed.readings) >= 4
    assert warmed.readings[0][1] > min(elapsed for _, elapsed in warmed.readings[1:])
    never = iter([0.001, 0.004] * 1000)
    restless = bench_of(lambda x: threading.Event().wait(next(never)), name="sleeps")
    assert not restless.warmed(WarmUp("levels", 2, 1, None, 1, most=30_000_000)).steady


def test_garbage_collection_is_out_of_the_way_unless_it_is_kept() -> None:
    states: list[bool] = []
    clock.disable_gc()
    for keep, expected in ((False, False), (True, True)):
        states.clear()
        bench = bench_of(lambda x: states.append(gc.isenabled()), name="asks", keep_gc=keep)
        bench.timed(at(2, 1))
        assert states == [expected]
        assert not gc.isenabled()


def test_the_pace_is_read_around_every_trial_and_the_loop_taken_off() -> None:
    timing = bench_of(lambda x: None, name="idle").timed(at(2, 10))
    assert min(timing.pace) > 0
    assert timing.overhead > 0
    assert timing.cpu is not None


def test_the_pace_is_read_during_a_long_trial_and_what_that_takes_is_no_cost_of_it() -> None:
    bench = bench_of(lambda x: sum(i for i in range(400_000)), name="long")
    bench.timed(at(2, 1))
    bench.calls = dict.fromkeys(bench.calls, 1000000000.0)  # as if it were known to be long
    timing = bench.timed(at(2, 40))
    # Where the machine lent the processor to others for most of the time, too little of it was seen.
    assert timing.during > 0 or (timing.cpu or 0) < 0.7 * timing.elapsed
    assert bench.pacing.spent > 0
    bench.calls = dict.fromkeys(bench.calls, 1.0)
    assert bench.timed(at(2, 1)).during == 0


def test_traps_of_an_honest_contender_are_none() -> None:
    assert in_answers(bench_of(lambda x: sum(x), name="adds"), "levels", 500, 1) == {}
