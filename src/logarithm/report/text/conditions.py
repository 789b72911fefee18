"""The machine's conditions, in words first."""

from __future__ import annotations

from typing import Any

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from .. import units

QUIET, UNSETTLED = 1.15, 1.5


def learning(found: Any) -> str:
    """What the processor learns, in a sentence; `found` has `until` and `most`."""
    length, ratio = found.most
    if found.until is None:
        return "This processor learns no repeated input that a list of 16 numbers or more would show."
    return (
        f"This processor learns inputs that are repeated, up to a length of about {found.until}: sorting {length} "
        f"numbers then looks {units.number(ratio, 2)} times cheaper than it is. So each trial takes inputs in turn."
    )


def render(found: Any, learnt: Any) -> RenderableType:
    """Say what the machine can resolve, and show the figures behind it.

    Args:
        found: with `machine`, `turn`, `empty`, `smallest`, `spread`, `stalls` and `processor`; in seconds.
        learnt: with `until` and `most`.
    """
    machine = found.machine
    clock = units.Unit(1e-9, "ns")
    lines = [
        f"A call that does nothing costs {clock.show(found.empty, 2)}; "
        f"one of {clock.show(found.smallest, 2)} or more can be told from it.",
        f"{_noise(found.spread)} the same work takes {units.number(found.spread, 2)} times as long in a slow moment "
        "as in a quick one.",
    ]
    lines.append(learning(learnt))
    if found.stalls > 0.01:
        lines.append(f"For {100 * found.stalls:.0f} % of the time something else had the processor.")
    if found.spread >= QUIET:
        lines.append("Each trial is compared with the pace around it; a longer --budget helps too.")
    table = Table.grid(padding=(0, 2))
    table.add_column(style="dim")
    table.add_column()
    kept = "all processors" if found.processor is None else f"processor {found.processor} of {machine.cores}"
    for key, value in (
        ("clock step", clock.show((machine.clock_step or 0.0), 2)),
        ("reading the clock", clock.show((machine.clock_cost or 0.0), 2)),
        ("the loop, for each call", clock.show(found.turn, 2)),
        ("processor", machine.processor),
        ("contenders run on", kept),
        ("memory", units.unit_for([machine.memory], "memory").show(machine.memory)),
        ("caches", ", ".join(units.unit_for([each], "memory").show(each, 2) for each in machine.caches)),
        ("load", "not known" if machine.load is None else f"{machine.load:g}"),
        ("system", machine.system),
        ("Python", machine.python),
    ):
        table.add_row(key, str(value))
    return Group(*(Text(line) for line in lines), "", table)


def _noise(spread: float) -> str:
    if spread < QUIET:
        return "The machine is quiet:"
    return "The machine is unsettled:" if spread < UNSETTLED else "The machine is noisy:"
