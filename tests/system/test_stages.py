"""Stages by the installed command."""

from __future__ import annotations

import json


def test_a_staged_study_is_measured_and_repaid(harbour) -> None:
    done = harbour.stored("stages")
    assert "Table against Scan" in " ".join(done.out.split())
    found = json.loads(harbour.run("report", "--format", "json").out)
    assert {(row["dearer"], row["cheaper"]) for row in found["breakeven"]} == {("Table", "Scan")}
    assert {row["verdict"] for row in found["breakeven"] if row["size"] == 4096} == {"pays"}
