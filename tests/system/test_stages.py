"""Stages by the installed command."""

from __future__ import annotations

import json


def test_a_staged_study_is_measured_and_repaid(harbour) -> None:
    harbour.study(
        """
from bisect import bisect
from logarithm import Study
study = Study("berths", sizes="512..4096 *2")
@study.family
def bookings(n, rng): return [rng.random() for _ in range(n)], 2.0
@study.contender
class Scan:
    def build(self, asked): self.hours = asked[0]
    def use(self, asked): return sum(hour <= asked[1] for hour in self.hours)
@study.contender
class Table:
    def build(self, asked): self.hours = sorted(asked[0])
    def use(self, asked): return bisect(self.hours, asked[1])
"""
    )
    done = harbour.run("measure", "study.py", "--budget", "6s")
    assert done.code == 0, done.err
    assert "Table against Scan" in " ".join(done.out.split())
    found = json.loads(harbour.run("report", "--format", "json").out)
    assert {(row["dearer"], row["cheaper"]) for row in found["breakeven"]} == {("Table", "Scan")}
    assert {row["verdict"] for row in found["breakeven"] if row["size"] == 4096} == {"pays"}
