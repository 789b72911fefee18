from __future__ import annotations

import json
import tempfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.errors import LogbookError
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import Close, Failure, Header, Note, StudyRecord, Trial
from logarithm.logbook.writing import LogbookWriter, write_logbook
from profiles import examples

RECORDS = [
    Header(software="test"),
    StudyRecord(name="boßün"),
    *(Trial(contender="a", family="f", size=n, heat=h, elapsed=n * 10.0, calls=2) for n in (8, 16) for h in (1, 2)),
    Note(topic="trap", text="a foghorn\nsounds"),
    Failure(contender="b", family="f", size=8, reason="exit"),
    Close(reason="finished", elapsed=1.0, heats=2, processes=1),
]


def written(folder: str) -> bytes:
    path = Path(folder) / "whole.jsonl"
    write_logbook(path, RECORDS)
    return path.read_bytes()


@given(st.data())
@examples(150)
def test_a_logbook_cut_off_anywhere_reads_back_all_whole_records(data: st.DataObject) -> None:
    with tempfile.TemporaryDirectory() as folder:
        whole = written(folder)
        at = data.draw(st.integers(0, len(whole)))
        path = Path(folder) / "cut.jsonl"
        path.write_bytes(whole[:at])
        lines = whole.split(b"\n")[:-1]
        ends = [sum(len(line) + 1 for line in lines[: count + 1]) - 1 for count in range(len(lines))]
        kept = sum(end <= at for end in ends)
        if kept == 0:
            with pytest.raises(LogbookError):
                read_logbook(path)
            return
        read = read_logbook(path)
        of_kind = RECORDS[:kept]
        assert len(read.trials) == sum(isinstance(record, Trial) for record in of_kind)
        assert len(read.notes) == sum(isinstance(record, Note) for record in of_kind)
        assert len(read.failures) == sum(isinstance(record, Failure) for record in of_kind)
        assert (read.close is not None) == any(isinstance(record, Close) for record in of_kind)
        assert bool(read.warnings) == (at not in ends and at not in [end + 1 for end in ends])


def test_what_is_unknown_is_passed_over_and_what_is_damaged_is_told(tmp_path: Path) -> None:
    path = tmp_path / "mixed.jsonl"
    lines = written(str(tmp_path)).split(b"\n")
    lines[2:2] = [b'{"kind":"weather","wind":7}', b'{"kind":"trial","contender":', b'{"kind":"note","topic":"x"}']
    lines[1] = lines[1].replace(b'"name"', b'"keel":1,"name"')
    path.write_bytes(b"\n".join(lines))
    read = read_logbook(path)
    assert len(read.trials) == 4
    assert [warning.split(": ")[0] for warning in read.warnings] == [f"{path}:4", f"{path}:5"]


def test_costs_are_for_one_call_in_seconds(tmp_path: Path) -> None:
    path = tmp_path / "costs.jsonl"
    trial = Trial(contender="a", family="f", size=8, heat=1, elapsed=1100, overhead=100, calls=4)
    count = Trial(contender="a", family="f", size=8, heat=1, metric="comparisons", value=28)
    write_logbook(path, [Header(), trial, count])
    assert read_logbook(path).trials.cost == pytest.approx([250e-9, 28.0])


def test_no_logbook_is_overwritten_or_written_twice(tmp_path: Path) -> None:
    path = tmp_path / "one.jsonl"
    with LogbookWriter(path) as writer:
        writer.write(Header())
        with pytest.raises(LogbookError, match="exists"):
            LogbookWriter(path)


def test_other_files_are_refused_in_one_line(harbour) -> None:
    for name, text in (("a.jsonl", ""), ("b.jsonl", "fog\n"), ("c.jsonl", '{"kind":"logbook","format":"other"}\n')):
        (harbour.folder / name).write_text(text)
        done = harbour.run("report", name)
        assert (done.code, len(done.err.splitlines())) == (2, 1)
    (harbour.folder / "d.jsonl").write_text('{"kind":"logbook","format":"logarithm-logbook","version":3}\n')
    assert "newer" in harbour.run("report", "d.jsonl").err
    assert "no logbook in logbooks/" in harbour.run("report").err
    assert "no such logbook" in harbour.run("report", "nowhere.jsonl").err


@given(st.text(max_size=12), st.text(max_size=12))
def test_no_text_of_a_logbook_is_obeyed_by_a_terminal(tmp_path_factory, name: str, detail: str) -> None:
    book = tmp_path_factory.mktemp("harmless") / "run.jsonl"
    wild = f"{name}\x1b[31m\u202e{detail}\x9b"
    records = [
        {"kind": "logbook", "format": "logarithm-logbook", "version": 2},
        {"kind": "study", "name": wild, "question": wild},
        {"kind": "contender", "name": wild, "claims": [{"order": "n", "where": wild}], "levels": {wild: wild}},
        {"kind": "failure", "contender": wild, "family": "bay", "size": 8, "reason": wild, "detail": wild},
    ]
    book.write_text("".join(json.dumps(each) + "\n" for each in records))
    read = read_logbook(book)
    texts = [read.study.name, read.study.question, read.contenders[0].name, read.failures[0].reason]
    texts += [read.contenders[0].claims[0].where or "", *read.contenders[0].levels, *read.contenders[0].levels.values()]
    assert len(texts) == 7
    assert all("\x1b" not in each and "\u202e" not in each and "\x9b" not in each for each in texts)


@given(st.integers(1, 4000), st.booleans())
def test_what_is_nested_too_deep_is_damaged_and_no_fault(tmp_path_factory, depth: int, closed: bool) -> None:
    book = tmp_path_factory.mktemp("deep") / "run.jsonl"
    deep = '{"kind":"note","topic":' + "[" * depth + ("]" * depth if closed else "") + "}"
    book.write_text('{"kind":"logbook","format":"logarithm-logbook","version":2}\n' + deep + "\n")
    assert len(read_logbook(book).warnings) == 1


def test_half_a_character_is_written_as_a_sign_for_one(tmp_path: Path) -> None:
    write_logbook(tmp_path / "run.jsonl", [Header(), Note(topic="broken", text="half \udc80 a character")])
    (note,) = read_logbook(tmp_path / "run.jsonl").notes
    assert note.text == "half \ufffd a character"
