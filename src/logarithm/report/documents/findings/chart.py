"""Charts of letters, for those without a screen: cost over size, both on logarithmic axes."""

from __future__ import annotations

import math
from string import ascii_lowercase

from ....notation import numbers, words
from ....notation.words import place
from ....results.findings import Costs, Findings
from ... import units
from .sentences import axis_of
from .special.maps import beside
from .tables import places

HEIGHT, MARGIN = 15, 10
SEVERAL = "∗"


def charts(findings: Findings, width: int) -> list[str]:
    """A chart for each family, stage and metric, of two sizes for slices. Where curves meet there is a star."""
    findings = beside(findings) if findings.study.names else findings
    return [_chart(place(where), group, findings, width) for where, group in places(findings.costs).items()]


def _chart(title: str, group: list[Costs], findings: Findings, width: int) -> str:
    letters = ascii_lowercase + ascii_lowercase.upper()
    points = [
        (letters[index % len(letters)], float(point.size), point.typical)
        for index, each in enumerate(group)
        for point in each.points
        if point.typical > 0
    ]
    if not points:
        return title
    is_log = findings.study.axis == "size" and min(size for _, size, _ in points) > 0
    across = [math.log(size) if is_log else size for _, size, _ in points]
    up = [math.log10(cost) for _, _, cost in points]
    columns = max(20, width - MARGIN - 2)
    grid = [[" "] * columns for _ in range(HEIGHT)]
    left, right, low, high = min(across), max(across), min(up), max(up)
    for (letter, _, _), x, y in zip(points, across, up, strict=True):
        column = round((columns - 1) * (x - left) / ((right - left) or 1))
        row = HEIGHT - 1 - round((HEIGHT - 1) * (y - low) / ((high - low) or 1))
        taken = grid[row][column]
        grid[row][column] = letter if taken in (" ", letter) else SEVERAL
    lines = [title]
    metric = group[0].metric
    for row, cells in enumerate(grid):
        value = 10 ** (low + (high - low) * (HEIGHT - 1 - row) / (HEIGHT - 1))
        label = units.unit_for([value], metric).show(value, 2) if row % 4 == 0 or row == HEIGHT - 1 else ""
        lines.append(f"{label:>{MARGIN}} │{''.join(cells)}".rstrip())
    lines.append(" " * MARGIN + " └" + "─" * columns)
    sizes = [size for _, size, _ in points]
    ends = f"{axis_of(findings)} = {numbers.size(min(sizes))}", numbers.size(max(sizes))
    lines.append(" " * (MARGIN + 2) + ends[0] + " " * max(1, columns - len(ends[0]) - len(ends[1])) + ends[1])
    names = [f"{letters[index % len(letters)]} {words.name(each.contender)}" for index, each in enumerate(group)]
    return "\n".join([*lines, " " * (MARGIN + 2) + ", ".join(names)])
