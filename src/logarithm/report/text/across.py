"""What holds on several machines, as text."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from ...errors import counted
from ...results.findings import Findings
from ...statistics.logbooks.across import Overtaking, leading, overtakings
from .. import units
from ..contents.sentences import place_said

UNKNOWN = "not known"
NUMBERS = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten"}


def render(named: Sequence[tuple[str, Findings]]) -> RenderableType:
    """Lay out the findings of several machines."""
    title = f"{units.name(named[0][1].study.name)} · {counted(len(named), 'machine')}"
    table = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in ("machine", "processor", "python", "noise", "settled"):
        table.add_column(heading, header_style="dim")
    for name, findings in named:
        about, run = findings.machine, findings.run
        settled = UNKNOWN if run.settled is None else "yes" if run.settled else "no"
        table.add_row(
            name, *(str(about.get(key) or UNKNOWN) for key in ("processor", "python")), run.weather or UNKNOWN, settled
        )
    lines = [Text(line) for line in sentences(named)]
    return Group(
        Text(title, style="bold"), "", table, "", *(lines or [Text("no crossover was measured on any of them")])
    )


def sentences(named: Sequence[tuple[str, Findings]]) -> Iterator[str]:
    """Where one overtakes another on each, and who leads on all."""
    for each in overtakings(named):
        yield _overtaking(each, len(named))
    for reign in leading(named):
        span = f"n = {units.size(reign.start)}" + ("" if reign.start == reign.end else f" to {units.size(reign.end)}")
        where = place_said((reign.family, reign.stage, "time"))
        yield f"{units.said(reign.leader)} leads on all machines at {span} on {where}"


def _overtaking(each: Overtaking, many: int) -> str:
    parts = []
    for size, machines in each.places:
        where = "all machines" if len(machines) == many else _many(machines)
        parts.append(f"at n = {units.crossing(size)} on {where}")
    if each.without:
        parts.append(f"not within the sizes measured on {_many(each.without)}")
    told = f"{units.said(each.after)} overtakes {units.said(each.before)} {', '.join(parts)}"
    return f"{told} ({place_said((each.family, each.stage, 'time'))})"


def _many(machines: tuple[str, ...]) -> str:
    if len(machines) < 2:
        return machines[0]
    return f"{NUMBERS.get(len(machines), str(len(machines)))} machines"
