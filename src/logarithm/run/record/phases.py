"""Where the time of a run went: its phases in a line, and what took long without being a trial, with its cause."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...errors import counted
from ...logbook.records import Note
from .budget import CALIBRATING, COUNTING, LOOKING, MAKING, OTHER, REHEARSING, STARTING, TRIALS

LONG, LONG_S = 0.2, 1.0  # of a run, and seconds: what takes more and is no trial is told
SHOWN = 0.005


@dataclass(frozen=True, slots=True)
class Causes:
    """What phases take their time for: processes begun, the seconds that loading the study took, and what of it most.

    `loading` is None where processes are started anew, and `dearest` empty where no import stands out.
    """

    processes: int
    loading: float | None
    dearest: str
    sizes: int


def line(phases: Mapping[str, float], inside: float) -> str:
    """The phases of a run with their shares, the longest first.

    >>> line({"trials": 6.0, "first look": 2.0, "looking": 2.0}, 5.0)
    '50 % of the time was inside timed calls: trials 60 %, first look 20 %, looking 20 %'
    """
    whole = sum(phases.values()) or 1.0
    longest = sorted(phases.items(), key=lambda each: -each[1])
    shares = [f"{phase} {100 * seconds / whole:.0f} %" for phase, seconds in longest if seconds >= SHOWN * whole]
    return f"{100 * inside / whole:.0f} % of the time was inside timed calls: {', '.join(shares)}"


def notes(phases: Mapping[str, float], causes: Causes) -> list[Note]:
    """A note for each phase that took long and is no trial."""
    whole = sum(phases.values()) or 1.0
    told = []
    for phase, seconds in phases.items():
        if phase not in (TRIALS, OTHER) and seconds > max(LONG * whole, LONG_S):
            text = f"{_said(phase, causes)} took {100 * seconds / whole:.0f} % of the run"
            told.append(Note(topic="phase", text=text + _why(phase, causes), cause=phase))
    return told


def _said(phase: str, causes: Causes) -> str:
    if phase == STARTING:
        return f"starting {counted(causes.processes, 'process', 'processes')}"
    return {
        REHEARSING: "comparing answers",
        CALIBRATING: f"a first look at {counted(causes.sizes, 'size', 'sizes')} of all contenders",
        MAKING: "making inputs",
        COUNTING: "counting",
        LOOKING: "the analysis between processes",
    }[phase]


def _why(phase: str, causes: Causes) -> str:
    if phase == STARTING and causes.loading is not None:
        most = f", most of it {causes.dearest}" if causes.dearest else ""
        return f": loading the study takes {causes.loading:.2g} s{most}"
    if phase == STARTING:
        return ": each loads the study anew, since something in it runs beside it"
    return {
        REHEARSING: ": calls at the sizes where they are compared are long",
        CALIBRATING: ": a longer --budget, or fewer --sizes, leave more to trials",
        MAKING: ": fewer or smaller --sizes need fewer of them",
        COUNTING: ": fewer of --metric leave more to trials",
        LOOKING: ": a longer --budget leaves more to trials",
    }[phase]
