"""Traps: ways in which a contender makes its own timing worthless, in words."""

from __future__ import annotations

from ...results.tasks.rehearsal import Trap

PRINTS = "prints"
TEXTS = {
    "lazy": "returns a {} and says drain=False: only the promise is timed, so it is not ranked",
    "driven": "returns a {}, which is driven to its end inside the timing",
    "untold": "takes an input that cannot be compared: whether it is changed cannot be told, so each call gets its own",
    PRINTS: "prints {} characters a call, and the time includes that",
    "changes": "changes its input, so each call is given a fresh copy, made outside the timing",
    "fickle": "gives different answers to one instance from call to call",
    "nothing": "returns nothing, so its answer cannot be compared",
    "remembers": "remembers earlier calls: a repeated instance costs {} of a new one. Its time is not that of its "
    "work: let each call begin without what it kept",
    "unfinished": "leaves {} at work when its call returns. Its time is not that of its work: wait for it in the call, "
    "or with finish=",
    "flat": "takes {} ns whatever the size: is the work done at all?",
    "tampers": "replaces {}; it is timed by Logarithm's own, and so are the others",
    "closes": "closes standard output",
    "parallel": "starts threads or processes, so it may use every processor: its time is wall time",
}


def trap(contender: str, kind: str, detail: str = "") -> Trap:
    """A trap of a known kind, in words."""
    return Trap(contender, kind, TEXTS[kind].format(detail))
