"""Whose time it was: what others had the processor for is taken off, waiting and work of one's own are not."""

from __future__ import annotations

import os
import queue
import threading
import time
from itertools import chain, repeat
from pathlib import Path
from types import SimpleNamespace

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as some
from made_up import LAWS_OF_TWO, SIZES, STUDY_OF_TWO, written

from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import Close, ContenderRecord, Header, Note, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.protocol.replies import Timed
from logarithm.protocol.scheduling import ThreadQueue, of_process, own_time, waits_of
from logarithm.report.present import rendered
from logarithm.results.base import Interval
from logarithm.results.findings import ClaimFinding, RunFinding, WorkFinding
from logarithm.results.logbooks.contrast import SAME, SLOWER, Contrast
from logarithm.results.tasks.machine import LengthBias, RepeatedBias, noise_word
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.claims import doubted
from logarithm.statistics.logbooks.contrast import contrast
from logarithm.supervisor.listening import next_line
from logarithm.supervisor.machine import idle
from logarithm.worker.limits import watch_helpers
from logarithm.worker.timing import own_time as own_time_module
from logarithm.worker.timing.own_time import OwnTime

spans = some.integers(0, 10**9)


@given(spans, spans, spans)
def test_own_time_is_within_what_passed_and_no_less_than_what_ran(wall: int, ran: int, queued: int) -> None:
    own = own_time(wall, ran, queued)
    assert 0 <= own <= wall
    assert own >= min(ran, wall)
    assert own >= wall - queued
    assert own_time(wall, ran, None) == wall


def test_threads_that_work_beside_are_seen_and_those_that_only_wait_are_not(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(threading.Thread, "start", threading.Thread.start)  # it is put back afterwards
    asked = threading.Event()

    def as_a_library_does() -> None:
        asked.wait()
        while time.thread_time() < 0.05:
            pass

    thread = threading.Thread(target=as_a_library_does)
    thread.start()
    helped = watch_helpers()
    assert not helped()
    asked.set()
    thread.join()
    assert helped()
    again = watch_helpers()
    assert not again()
    threading.Thread(target=time.sleep, args=(0,)).start()
    assert again()


def test_threads_that_take_turns_are_as_one_and_those_that_run_at_once_are_not() -> None:
    # Two threads stood in the queue, one after the other and for a part together: only 20 of 60 were worked.
    assert own_time(60, ran=20, queued=55) == 20
    assert own_time(60, ran=63, queued=55) == 60  # about one at a time
    assert own_time(60, ran=100, queued=10) == 60


@given(some.lists(some.tuples(spans, spans, spans), min_size=1, max_size=20))
def test_a_logbook_has_the_own_time_of_each_trial(rows: list[tuple[int, int, int]]) -> None:
    from logarithm.logbook.memory import _own

    columns = [np.array(column, dtype=float) for column in zip(*rows, strict=True)]
    assert _own(*columns).tolist() == [float(own_time(*row)) for row in rows]


def busy_logbook(
    path: Path, shares: dict[str, float], threads: dict[str, float] | None = None, more: tuple[Note, ...] = ()
) -> Path:
    """Trials of which others had a share of the time, by contender; their own cost is 100 ns for each n.

    So many `threads` of some ran on average.
    """
    trials = [
        Trial(
            contender=who,
            family="bay",
            size=n,
            heat=heat,
            process=(heat + 1) // 2,
            calls=100,
            elapsed=100 * 100 * n / (1 - share),
            cpu=100 * 100 * n * (threads or {}).get(who, 1.0),
            queued=100 * 100 * n * (1 / (1 - share) - 1),
        )
        for heat in range(1, 9)
        for who, share in shares.items()
        for n in SIZES
    ]
    write_logbook(path, [Header(), StudyRecord(name="tide", budget=60.0), *trials, *more])
    return path


def test_a_reply_tells_own_time() -> None:
    assert Timed(calls=2, elapsed=100, cpu=40, queued=50).call == 25
    assert not Timed(calls=1, elapsed=9_000_000, cpu=4_000_000, queued=5_000_000).is_away
    assert Timed(calls=1, elapsed=9_000_000, cpu=4_000_000, queued=0).is_away
    assert ThreadQueue().read() is None or of_process(os.getpid()) is not None


def test_what_a_thread_did_not_run_is_the_queue_unless_it_waited(monkeypatch: pytest.MonkeyPatch) -> None:
    """The host of a virtual machine takes a processor away, and no queue tells of it."""
    count, ran = iter([5, 5, 5, 6]), iter([0, 1_000_000] * 2)
    monkeypatch.setattr(own_time_module, "waits", lambda: next(count))
    own = OwnTime()
    monkeypatch.setattr(own, "_processor", lambda: next(ran))
    monkeypatch.setattr(own.queue, "read", lambda: 0)
    for queued in (39_000_000, 0):
        own.begin()
        own.before()
        own.after(40_000_000)
        assert (own.ran, own.queued) == (1_000_000, queued)
    assert waits_of(os.getpid()) is None  # it is at work


def test_threads_that_stand_in_each_others_way_are_no_other_programs(tmp_path: Path) -> None:
    found = Analysis(
        read_logbook(busy_logbook(tmp_path / "run.jsonl", {"java": 0.3}, threads={"java": 1.8}))
    ).findings()
    assert found.run.others is None
    text = " ".join(rendered(found, "text").split())
    assert "other programs had" not in text


@pytest.mark.parametrize("starts", [True, False])
def test_what_starts_threads_is_not_called_slower_because_the_machine_was_busier(tmp_path: Path, starts: bool) -> None:
    note = Note(topic="occupation", text="starts threads", contender="pool")
    quiet = read_logbook(busy_logbook(tmp_path / "quiet.jsonl", {"pool": 0.0, "alone": 0.0}))
    busy = read_logbook(
        busy_logbook(tmp_path / "busy.jsonl", {"pool": 0.5, "alone": 0.5}, {"pool": 1.3}, (note,) * starts)
    )
    found = contrast([quiet, busy])
    assert isinstance(found, Contrast)
    change = next(each for each in found.changes if each.contender == "pool")
    assert change.overall.value == pytest.approx(1.3, rel=0.01)
    assert change.verdict == (SAME if starts else SLOWER)
    assert any("less sure" in each for each in found.warnings) == starts


def test_a_busy_machine_is_called_busy_and_what_was_taken_off_is_told(tmp_path: Path) -> None:
    found = Analysis(read_logbook(busy_logbook(tmp_path / "run.jsonl", {"near": 0.5, "far": 0.0}))).findings()
    assert found.run.noise == "busy"
    assert found.run.others == pytest.approx(1 / 3)
    costs = {each.contender: each.points[-1] for each in found.costs}
    assert costs["near"].typical == pytest.approx(costs["far"].typical)
    assert costs["near"].wall == pytest.approx(2 * costs["near"].typical)
    assert costs["far"].wall is None
    text = rendered(found, "text")
    assert "machine busy: other programs had 33 % of the time" in " ".join(text.split())
    assert "by the clock, calls took up to 2.0 times as long" in " ".join(text.split())
    assert "waiting" not in text
    assert not found.run.too_busy


def test_what_the_host_takes_is_told(tmp_path: Path) -> None:
    trials = [
        Trial(contender="nap", family="bay", size=n, heat=heat, elapsed=1000 * n, pace=(100, 100))
        for heat in range(1, 7)
        for n in SIZES
    ]
    close = Close(reason="finished", elapsed=1.0, heats=6, processes=1, stolen=0.2)
    write_logbook(tmp_path / "run.jsonl", [Header(), StudyRecord(name="tide"), *trials, close])
    found = Analysis(read_logbook(tmp_path / "run.jsonl")).findings()
    assert (found.run.noise, found.run.stolen) == ("busy", 0.2)
    assert "machine busy: its host took 20 % of the time" in " ".join(rendered(found, "text").split())
    busy, stolen = idle.wanted_time()
    assert busy > stolen >= 0 and idle.stolen_share((busy - 1, stolen)) == pytest.approx(0, abs=0.5)


def test_waiting_of_its_own_is_told_as_waiting(tmp_path: Path) -> None:
    trials = [
        Trial(contender="nap", family="bay", size=n, heat=heat, elapsed=1e6 * n, cpu=4e5 * n, queued=1e5 * n)
        for heat in range(1, 7)
        for n in SIZES
    ]
    write_logbook(tmp_path / "run.jsonl", [Header(), StudyRecord(name="tide"), *trials])
    found = Analysis(read_logbook(tmp_path / "run.jsonl")).findings()
    (note,) = [each for each in found.notes if each.topic == "occupation"]
    assert note.text == "uses the processor for 44 % of its time; the rest is waiting"
    assert found.costs[0].points[0].typical == pytest.approx(0.9e-3 * SIZES[0])


def test_where_own_time_spreads_no_claim_is_contradicted(tmp_path: Path) -> None:
    chance = np.random.default_rng(1)
    trials = [
        Trial(
            contender="near",
            family="bay",
            size=n,
            heat=heat,
            process=heat,
            elapsed=2 * cost,
            cpu=cost,
            queued=cost,
        )
        for heat in range(1, 9)
        for n in SIZES
        for cost in [1000.0 * n * n * float(np.exp(chance.normal(0, 0.5)))]
    ]
    asked = StudyRecord(name="tide"), STUDY_OF_TWO[1]
    write_logbook(tmp_path / "run.jsonl", [Header(), *asked, *trials])
    found = Analysis(read_logbook(tmp_path / "run.jsonl")).findings()
    assert found.run.too_busy
    assert [each.verdict for each in found.claims] == ["undecided"]
    assert "no moment for verdicts" in rendered(found, "text")


def test_machines_in_a_word() -> None:
    assert noise_word(1.5, None) == "noisy"
    assert noise_word(1.05, 0.05) == "noisy"
    assert noise_word(None, 0.5) == "busy"


def test_one_length_alone_tells_nothing_of_what_a_processor_learns() -> None:
    spike = RepeatedBias(lengths=[LengthBias(16, 1.0), LengthBias(32, 8.2), LengthBias(64, 1.02)])
    assert spike.until is None
    real = RepeatedBias(lengths=[LengthBias(16, 1.3), LengthBias(32, 2.0), LengthBias(64, 1.02)])
    assert (real.until, real.most.length) == (32, 16)


def test_a_contrast_is_corrected_by_what_did_not_change(tmp_path: Path) -> None:
    asked = (
        StudyRecord(name="tide"),
        ContenderRecord(name="near", baseline=True, code="a"),
        ContenderRecord(name="far", code="c"),
    )
    slower = {key: (lambda n, law=law: 1.3 * law(n)) for key, law in LAWS_OF_TWO.items()}
    before = written(tmp_path / "before.jsonl", LAWS_OF_TWO, more=asked, noise=0.005)
    after = written(tmp_path / "after.jsonl", slower, more=asked, noise=0.005, seed=2)
    found = contrast([before, after])
    assert {each.verdict for each in found.changes} == {"no difference seen"}
    assert any("times are corrected by -23 %, by what near took" in each for each in found.warnings)
    other = (*asked[:1], ContenderRecord(name="near", baseline=True, code="new"), *asked[2:])
    after = written(tmp_path / "other.jsonl", slower, more=other, noise=0.005, seed=3)
    assert {each.verdict for each in contrast([before, after]).changes} == {"slower"}


def test_a_limit_is_of_own_time(monkeypatch: pytest.MonkeyPatch) -> None:
    lines: queue.Queue[bytes] = queue.Queue()
    assert next_line(lines, os.getpid(), 0.05) is None
    readings = chain([(0, 0)], repeat((0, 40_000_000)))
    monkeypatch.setattr("logarithm.supervisor.listening.of_process", lambda _: next(readings))
    begun = time.monotonic()
    assert next_line(lines, os.getpid(), 0.05) is None
    assert time.monotonic() - begun >= 0.085
    lines.put(b"ebb\n")
    assert next_line(lines, os.getpid(), 5.0) == b"ebb\n"


def test_two_runs_take_two_processors(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(idle.tempfile, "gettempdir", lambda: str(tmp_path))
    monkeypatch.setattr(idle, "by_idleness", lambda _: [3, 5])
    one, two, three = idle.ProcessorClaim(), idle.ProcessorClaim(), idle.ProcessorClaim()
    assert (one.take(), two.take(), three.take()) == (3, 5, 3)
    one.release()
    assert three.take() == 3
    for each in (two, three):
        each.release()


def test_the_idlest_processor_is_chosen(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(idle.os, "sched_getaffinity", lambda _: {0, 1, 2}, raising=False)
    readings = iter([dict.fromkeys(range(3), (0.0, 0.0)), {0: (0.9, 1.0), 1: (0.0, 1.0), 2: (0.1, 1.0)}])
    monkeypatch.setattr(idle, "_times", lambda: next(readings))
    monkeypatch.setattr(idle, "_siblings", lambda each: {each})
    monkeypatch.setattr(idle, "_own_processor", lambda: 2)
    assert idle.by_idleness() == [1, 2, 0]
    monkeypatch.setattr(idle.os, "sched_getaffinity", lambda _: {0}, raising=False)
    assert idle.idlest_processor() is None


def test_what_this_process_does_itself_makes_no_processor_busy(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(idle, "_times", lambda: dict.fromkeys(range(2), (0.0, 0.0)))
    monkeypatch.setattr(idle, "_share", lambda *_: 0.9)
    monkeypatch.setattr(idle, "_own_processor", lambda: 1)
    monkeypatch.setattr(idle.time, "process_time", lambda: 3.0)
    watch = idle.Watch(seconds=0.01, begun=time.monotonic() - 2.0, own=2.0)
    assert watch.busy([0, 1]) == {0: 0.9, 1: pytest.approx(0.4, abs=0.01)}


def test_a_choice_of_a_processor_stands_for_a_moment(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(idle.tempfile, "gettempdir", lambda: str(tmp_path))
    ranked = iter([[3, 5], [5, 3]])
    monkeypatch.setattr(idle, "by_idleness", lambda _: next(ranked))
    claim = idle.ProcessorClaim()
    assert (claim.take(), claim.take()) == (3, 3)
    claim.chosen -= idle.CHOICE_S
    assert claim.take() == 5
    claim.release()


def test_waiting_for_a_calmer_moment_ends(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(idle, "WATCHED_S", 0.01)
    monkeypatch.setattr(idle, "_times", lambda: dict.fromkeys(range(64), (0.0, 0.0)))
    monkeypatch.setattr(idle, "_own_processor", lambda: None)
    told: list[str] = []
    monkeypatch.setattr(idle, "_share", lambda *_: 0.8)
    assert not idle.wait_for_calm(0.3, told.append)
    assert "80 % of the time at least" in told[0]
    monkeypatch.setattr(idle, "_share", lambda *_: 0.0)
    assert idle.wait_for_calm(0.03, told.append)


def test_on_a_machine_that_others_use_time_alone_contradicts_no_claim_that_work_bears_out() -> None:
    run = msgspec.convert(
        {
            "logbook": "",
            "created": "",
            "sizes": [],
            "rounds": 1,
            "processes": 1,
            "trials": 1,
            "elapsed": None,
            "reason": None,
        }
        | {"noise": "noisy", "spread": 1.0, "disturbed": 0.0, "others": 0.05},
        RunFinding,
    )
    claim = ClaimFinding("near", "bay", None, "n", "contradicted", 64, "time")
    slope = Interval(value=0.0, low=0.0, high=0.0)
    work = WorkFinding(order="n", plausible=[], exact=None, price=[], slope=slope, says="work")
    found = SimpleNamespace(work=work)
    assert [each.verdict for each in doubted([claim], found, run)] == ["undecided"]  # type: ignore[arg-type]
    found.work.order = "n^2"
    assert [each.verdict for each in doubted([claim], found, run)] == ["contradicted"]  # type: ignore[arg-type]
    found.work = None
    assert [each.verdict for each in doubted([claim], found, run)] == ["undecided"]  # type: ignore[arg-type]
    run.others = 0.0
    assert [each.verdict for each in doubted([claim], found, run)] == ["contradicted"]  # type: ignore[arg-type]
