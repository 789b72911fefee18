"""Messages between parent and worker: what is sent arrives, and what is nonsense is told as such, never believed."""

from __future__ import annotations

import json
import time
from dataclasses import fields

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.walk.event import Event
from logarithm.protocol import requests
from logarithm.protocol.message import line_of
from logarithm.protocol.replies import Answered, Began, Counted, Failure, Ready, Timed, Walked
from logarithm.supervisor.failed import Failed
from logarithm.supervisor.validate import DEPTH_MOST, expected, reply_of
from logarithm.supervisor.worker import Worker

TIMED = {"kind": "Timed", **{each.name: getattr(Timed(calls=10, elapsed=900), each.name) for each in fields(Timed)}}


def test_every_reply_arrives_as_it_was_sent() -> None:
    changed = {"levels": ["cells", ["3", "1"]], "at": None}
    event = Event("write", "write levels[0] = 3", 4, "settle", 0, 1, {"levels": [0]}, changed, {"writes": 1})
    for reply in (
        Timed(calls=10, elapsed=900, cpu=800, overhead=1.5, pace=(1, 2), threads=3, helped=True),
        Answered(answer=["list", [1, 2.5, None, "tide"]], right=False),
        Counted(values={"steps": 12}),
        Walked(events=[event], answer="[1, 2]", source=["def settle(levels):"]),
        Failure(reason="ValueError", detail="aground"),
    ):
        assert reply_of(line_of(reply)) == reply


@pytest.mark.parametrize(
    "line",
    [
        b"\n",
        b"fog\n",
        b"[]\n",
        b'{"kind":"Fog"}\n',
        b'{"kind":["Timed"]}\n',
        b"[" * 100_000 + b"\n",
        json.dumps({**TIMED, "elapsed": float("nan")}).encode(),
        json.dumps({**TIMED, "overhead": float("inf")}).encode(),
        json.dumps({**TIMED, "more": 1}).encode(),
        json.dumps({key: value for key, value in TIMED.items() if key != "pace"}).encode(),
        json.dumps({**TIMED, "pace": [1]}).encode(),
        json.dumps({**TIMED, "calls": "10"}).encode(),
        line_of(Counted()).replace(b"{}", b'{"steps":' + b"9" * 1000 + b"}").replace(b"9" * 1000, b"9" * 4000),
        line_of(Answered()).replace(b"null", b"[" * (DEPTH_MOST + 1) + b"]" * (DEPTH_MOST + 1), 1),
        b"\xff\xfe\n",
    ],
)
def test_what_is_nonsense_is_a_failure(line: bytes) -> None:
    with pytest.raises(Failed) as told:
        reply_of(line)
    assert told.value.reason == "nonsense"


@given(
    st.binary(max_size=300)
    | st.recursive(st.none() | st.integers() | st.text(), st.lists).map(json.dumps).map(str.encode)
)
def test_no_line_is_an_error_of_the_parent(line: bytes) -> None:
    with pytest.raises(Failed):
        reply_of(line)


@given(st.sampled_from(sorted(TIMED)), st.none() | st.integers() | st.floats() | st.text() | st.lists(st.integers()))
def test_a_trial_with_one_field_changed_is_told_or_possible(field: str, value: object) -> None:
    line = json.dumps({**TIMED, field: value}).encode()
    try:
        timed = expected(reply_of(line), Timed, seconds=1.0, calls=10)
    except Failed as failed:
        assert failed.reason == "nonsense"
    else:
        assert 1 <= timed.calls <= 10
        assert 0 <= timed.elapsed <= 1.1e9


def test_a_reply_is_about_what_was_asked() -> None:
    with pytest.raises(Failed, match="not with a Timed"):
        expected(Ready(), Timed)
    with pytest.raises(Failed, match="aground"):
        expected(Failure(reason="ValueError", detail="aground"), Timed)
    for lie in (
        Timed(calls=11, elapsed=1),
        Timed(calls=0, elapsed=1),
        Timed(calls=1, elapsed=3 * 10**9),
        Timed(calls=1, elapsed=-1),
        Timed(calls=1, elapsed=1, pace=(-1, 0)),
    ):
        with pytest.raises(Failed, match="is impossible"):
            expected(lie, Timed, seconds=1.0, calls=10)


def test_every_request_is_read_back() -> None:
    for kind in requests.REQUESTS:
        values = {"family": "calm", "size": 8, "seed": 1, "instance": ["list", [1]], "stage": None, "copies": False}
        request = kind(**{each.name: values.get(each.name, 1) for each in fields(kind)})
        assert requests.request_of(line_of(request)) == request


def test_a_supervisor_that_was_held_up_believes_the_trial(monkeypatch: pytest.MonkeyPatch) -> None:
    replies = iter([Began(), Timed(calls=1, elapsed=100_000_000)])
    worker = Worker.__new__(Worker)
    worker.greeting, worker.halted = Ready(), False

    def late(*_: object) -> object:
        # The processor was with others while the worker began and ended; then both replies are there at once.
        reply = next(replies)
        time.sleep(0.12 if isinstance(reply, Began) else 0)
        return reply

    for name, stub in (("_reply", late), ("_halt", lambda _: None), ("send", lambda _: None)):
        monkeypatch.setattr(worker, name, stub)
    assert worker.ask(requests.Answer("bay", 8, 1), Timed, limit=1.0).elapsed == 100_000_000
