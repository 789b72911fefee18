"""The bench of a worker, in this process: what stands between the two readings of the clock, and what does not."""

from __future__ import annotations

import gc
import random
import threading
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import pytest

from logarithm import Study
from logarithm.measuring.child import bench as benches
from logarithm.measuring.child.bench import Bench, copied
from logarithm.measuring.child.traps import in_answers
from logarithm.measuring.shared import clock


@pytest.fixture(autouse=True)
def collection_as_it_was() -> Iterator[None]:
    yield
    gc.enable()
    gc.unfreeze()


def bench_of(code: Any, **options: Any) -> Bench:
    study = Study("quay")
    study.family(lambda n, rng: [rng.random() for _ in range(n)], name="levels")
    study.contender(**options)(code)
    return Bench(study, study.contenders[0])


def test_instances_are_made_once_and_follow_from_their_seed() -> None:
    bench = bench_of(lambda x: sum(x), name="adds")
    one = bench.instance("levels", 5, 1)
    assert bench.instance("levels", 5, 1) is one
    assert bench.instance("levels", 5, 2) != one
    assert one[0] == random.Random("levels/5/1").random()


def test_as_many_calls_are_made_as_are_said() -> None:
    made: list[int] = []
    bench = bench_of(lambda x: made.append(1), name="counts")
    for asked, calls in ((1, 1), (7, 7), (40, 40)):
        made.clear()
        assert bench.timed("levels", 3, 1, None, asked, copies=False).calls == calls == len(made)


def test_a_changing_contender_is_found_and_gets_a_fresh_copy_each_time() -> None:
    lengths: list[int] = []

    def eats(levels: list[float]) -> None:
        lengths.append(len(levels))
        levels.clear()

    bench = bench_of(eats)
    timing, changes = bench.first("levels", 6, 1, None, target=50_000)
    assert changes
    assert timing.calls >= 1
    bench.timed("levels", 6, 1, None, 20, copies=True)
    assert set(lengths) == {6}
    assert len(bench.instance("levels", 6, 1)) == 6


def test_an_honest_contender_is_not_said_to_change_its_input() -> None:
    assert not bench_of(lambda x: sorted(x), name="looks").first("levels", 50, 1, None, target=10_000)[1]


def test_copies_are_bounded_in_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(benches, "COPIES_BYTES", 50_000)
    bench = bench_of(lambda x: x.clear(), name="clears")
    assert 1 <= bench.timed("levels", 1000, 1, None, 500, copies=True).calls < 10


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


def test_stages_are_built_for_each_call_and_restored_after_each_use() -> None:
    bench = bench_of(Stages)
    assert bench.timed("levels", 4, 1, "build", 3, copies=False).calls == 3
    assert BUILT == [4, 4, 4]
    assert bench.timed("levels", 4, 1, "use", 5, copies=False).calls == 5
    assert Stages.used == Stages.restored == 5
    assert BUILT == [4, 4, 4, 4]  # once more, for the object that is used again and again
    assert len(bench.objects["levels", 4, 1].levels) == 4


def test_work_is_timed_to_its_end() -> None:
    nap = 0.01
    pool = ThreadPoolExecutor(1)

    async def awaited(levels: list[float]) -> int:
        import asyncio

        await asyncio.sleep(nap)
        return 1

    def ashore(levels: list[float]) -> Future[None]:
        return pool.submit(threading.Event().wait, nap)  # type: ignore[return-value]

    def drained(levels: list[float]) -> Iterator[int]:
        threading.Event().wait(nap)
        yield 1

    def finished(levels: list[float]) -> threading.Thread:
        thread = threading.Thread(target=threading.Event().wait, args=(nap,))
        thread.start()
        return thread

    for code, options in (
        (awaited, {}),
        (ashore, {}),
        (drained, {"drain": True}),
        (finished, {"finish": threading.Thread.join}),
    ):
        bench = bench_of(code, **options)
        bench.answer(bench.instance("levels", 2, 1))
        timing = bench.timed("levels", 2, 1, None, 2, copies=False)
        assert timing.call >= 0.9 * nap * 1e9, code
    pool.shutdown()


def test_garbage_collection_is_out_of_the_way_unless_it_is_kept() -> None:
    states: list[bool] = []
    clock.disable_gc()
    for keep, expected in ((False, False), (True, True)):
        states.clear()
        bench = bench_of(lambda x: states.append(gc.isenabled()), name="asks", keep_gc=keep)
        bench.timed("levels", 2, 1, None, 1, copies=False)
        assert states == [expected]
        assert not gc.isenabled()


def test_the_pace_is_read_around_every_trial() -> None:
    timing = bench_of(lambda x: None, name="idle").timed("levels", 2, 1, None, 10, copies=False)
    assert min(timing.pace) > 0
    assert timing.overhead > 0


def test_traps_of_an_honest_contender_are_none() -> None:
    assert in_answers(bench_of(lambda x: sum(x), name="adds"), "levels", 500, 1) == {}
