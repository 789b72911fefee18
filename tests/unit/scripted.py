"""Workers that answer from a law and noise, and a clock that they move: runs are tested exactly, in milliseconds."""

from __future__ import annotations

import random
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest

from logarithm import Study
from logarithm.errors import DisagreementError
from logarithm.logbook.memory import Logbook
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.writing import LogbookWriter
from logarithm.protocol import clock, replies, requests
from logarithm.run import measure as measuring
from logarithm.run import processes
from logarithm.run.counters import parallel
from logarithm.run.plan.settings import Settings
from logarithm.run.record import preamble
from logarithm.supervisor.failed import Failed

PACE = (30_000, 30_000)  # nanoseconds of the reference loop before and after a trial
BESIDE_S = 0.002  # seconds that a request takes beside its timed calls
STARTING_S = 0.05  # seconds that the workers of a process take to start


@dataclass
class Clock:
    """A clock that moves only when a scripted worker works."""

    now: float = 100.0

    def seconds(self) -> float:
        """Return the reading in seconds."""
        return self.now


@dataclass
class Script:
    """What workers do.

    Attributes:
        laws: seconds of a call by contender, for a size.
        fails: the size from which on a contender fails, with the reason.
        answers: what a contender answers in place of the right answer.
        noise: relative spread of trials; `between`, of processes.
        asked: every request, with the contender that was asked.
    """

    laws: dict[str, Callable[[float], float]]
    fails: dict[str, tuple[float, str]] = field(default_factory=dict)
    answers: dict[str, Any] = field(default_factory=dict)
    noise: float = 0.005
    between: float = 0.005
    clock: Clock = field(default_factory=Clock)
    asked: list[tuple[str, Any]] = field(default_factory=list)

    def reply(self, name: str, request: Any, kind: type, seed: int) -> Any:
        """Return the reply to a request, and move the clock by what it takes."""
        self.asked.append((name, request))
        size = float(request.size)
        limit, reason = self.fails.get(name, (float("inf"), ""))
        if size >= limit and not isinstance(request, requests.Count):
            raise Failed(reason, "scripted")
        if kind is replies.Counted:
            raise Failed("uncounted", "scripted workers count nothing")
        call = self.laws[name](size)
        if kind is replies.Answered:
            self.clock.now += call
            return replies.Answered(answer=self.answers.get(name, ["float", 1.0]))
        if kind is replies.TrapsFound:
            return replies.TrapsFound()
        if kind is replies.Warmed:
            return replies.Warmed()
        if kind is replies.Done:
            return replies.Done()
        calls = getattr(request, "calls", 0) or max(1, round(request.target * 1e-9 / call))
        chance = random.Random(f"{seed} {name} {len(self.asked)}")
        shift = random.Random(f"{seed} {name}").gauss(0, self.between)
        took = calls * call * (1 + chance.gauss(0, self.noise) + shift)
        self.clock.now += took + BESIDE_S
        timed = {"calls": calls, "elapsed": round(took * 1e9), "cpu": round(took * 1e9), "queued": 0, "pace": PACE}
        if kind is replies.Calibrated:
            return replies.Calibrated(**timed, instances=10, inside=round(took * 1e9))
        return replies.Timed(**timed)


class ScriptedPool:
    """Workers of one process that follow a script."""

    script: Script

    def __init__(self, study: Study, file: Path, contenders: list[Any], seed: int, *_: Any) -> None:
        self.seed = seed
        self.script.clock.now += STARTING_S if contenders else 0.0

    def greet(self) -> None: ...

    def end(self) -> None: ...

    def ask(self, name: str, request: Any, kind: type, limit: float, calls: int | None = None) -> Any:
        return self.script.reply(name, request, kind, self.seed)


class NoTemplates:
    """Templates from which nothing is forked."""

    loading = (None, "")

    def __init__(self, *_: Any) -> None: ...

    def of(self, *_: Any) -> None: ...

    def prepare(self, *_: Any) -> None: ...

    def end(self) -> None: ...


class NoWatch:
    """A machine on which nothing else runs."""


def study_of(script: Script, sizes: str = "8..1024 *2", **options: Any) -> Study:
    """Return a study with a contender for each law of a script."""
    study = Study("tide-gauge", sizes=sizes)
    study.family(lambda n, rng: [rng.random() for _ in range(n)], name="rising")
    for at, name in enumerate(script.laws):
        study.contender(lambda levels: sum(levels), name=name, baseline=at == 0, **options)
    return study


def run(
    script: Script,
    folder: Path,
    monkeypatch: pytest.MonkeyPatch,
    study: Study | None = None,
    rule: Any = None,
    **settings: Any,
) -> Logbook:
    """Measure a study with scripted workers, and return its logbook."""
    monkeypatch.setattr(clock, "seconds", script.clock.seconds)
    pool = type("Scripted", (ScriptedPool,), {"script": script})
    monkeypatch.setattr(processes, "WorkerPool", pool)
    monkeypatch.setattr(parallel, "WorkerPool", pool)
    monkeypatch.setattr(processes, "Templates", NoTemplates)
    monkeypatch.setattr(processes, "Watch", NoWatch)
    monkeypatch.setattr(processes.ProcessorClaim, "take", lambda *_: None)
    monkeypatch.setattr(preamble, "state_of", lambda *_: None)
    monkeypatch.setattr(measuring, "count_work", lambda *_, **__: iter(()))
    path, made = folder / "run.jsonl", study or study_of(script)
    file = folder / "study.py"
    file.write_text("# scripted\n")
    with LogbookWriter(path) as writer, suppress(DisagreementError):
        measuring.measure(made, file, Settings(**{"budget": 20.0, **settings}), writer, rule=rule)
    return read_logbook(path)
