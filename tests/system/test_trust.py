"""What is handed in may lie or harm, what is read may be made to harm, and what breaks says so."""

from __future__ import annotations

import csv
import io
import json
import sys
from pathlib import Path

import pytest

from logarithm.errors import LogarithmError
from logarithm.supervisor.sandboxed import check_sandbox

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import hostile

LIES = [
    *("equals everything", "nested too deep", "reads the study", "copies a neighbour", "swaps the referee"),
    *("replaces the loop", "writes its own verdict", "wrong at large sizes", "fails as a timeout"),
    *("wrong while it is counted", "the counter is patched", "the count is forged", "work in compiled code"),
    "slow off the sizes",
]
HARM = [
    *("leaves processes behind", "ends all processes", "defaces the study", "floods the pipe"),
    *("escape codes in an error", "half a character in an error", "a reply without its parts", "fills the memory"),
    *("tells secrets", "crashes"),
]


@pytest.fixture(scope="module", autouse=True)
def _enclosed() -> None:
    try:
        check_sandbox(trusted=False)
    except LogarithmError as error:
        pytest.skip(f"nothing can be enclosed here: {error}")


def test_nobody_gets_through_and_nobody_is_harmed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(hostile, "STUDY", hostile.STUDY.replace("8..512 *2", "8..128 *2"))
    texts = {f"{name}.py": {**hostile.LIES, **hostile.HARM}[name] for name in (*LIES, *HARM)}
    texts["w" * 240 + ".py"] = texts["<b>.py"] = hostile.FAST + "best = fast\n"
    honest = {name: hostile.HONEST[name] for name in ("anna", "finn")}
    seen = hostile.assessed(texts, judged=False, honest=honest)
    assert (seen["code"], seen["harm"]) == (0, ""), seen["out"]
    rows = seen["rows"]
    assert len(rows) == len(texts) + len(honest), seen["out"]
    for name in honest:
        assert (rows[name][1], rows[name][4]) == ("correct", "meets"), rows[name]
    through = [name for name in LIES if hostile.got_through(rows[name], is_lie=True)]
    assert not through, [rows[name] for name in through]


def test_a_weak_referee_is_told_and_does_not_let_nonsense_through() -> None:
    seen = hostile.assessed({"nan.py": hostile.LIES["no number"]}, True, {"anna": hostile.HONEST["anna"]})
    assert "the referee accepts a number that is none (NaN)" in seen["out"]
    assert (seen["rows"]["nan"][1], seen["rows"]["anna"][1]) == ("incorrect", "correct")


def test_one_seed_draws_the_same_instances_and_another_draws_others(harbour) -> None:
    harbour.study(hostile.STUDY.replace("8..512 *2", "8..32 *2"))
    (harbour.folder / "handed-in").mkdir()
    (harbour.folder / "handed-in" / "anna.py").write_text(hostile.HONEST["anna"])

    def sizes(*more: str) -> list[float]:
        for old in (harbour.folder / "logbooks").glob("*.jsonl") if (harbour.folder / "logbooks").exists() else []:
            old.unlink()
        assert harbour.run("assess", "study.py", "--format", "csv", *more).code == 0
        (book,) = (harbour.folder / "logbooks").glob("*.jsonl")
        read = [json.loads(line) for line in book.read_text().splitlines()]
        return [each["size"] for each in read if each.get("metric") == "steps"]

    assert sizes("--seed", "5") == sizes("--seed", "5") != sizes()


def test_where_nothing_can_be_enclosed_trust_must_be_said(harbour, monkeypatch) -> None:
    harbour.study(hostile.STUDY)
    (harbour.folder / "handed-in").mkdir()
    (harbour.folder / "handed-in" / "anna.py").write_text(hostile.HONEST["anna"])
    (harbour.folder / "sitecustomize.py").write_text(
        "import ctypes\nclass Refused(ctypes.CDLL):\n    unshare = staticmethod(lambda _: 1)\nctypes.CDLL = Refused\n"
    )
    monkeypatch.setenv("PYTHONPATH", str(harbour.folder))
    told = harbour.run("assess", "study.py")
    assert (told.code, told.err.count("\n")) == (2, 1)
    assert "say --trusted" in told.err
    done = harbour.run("assess", "study.py", "--format", "csv", "--trusted")
    (row,) = csv.DictReader(io.StringIO(done.out))
    assert (row["verdict"], row["required order"]) == ("correct", "meets"), done.out + done.err
