"""The versions view: what each version of one job costs, from left to right, and what each step brought."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....errors import LogarithmError
from ....notation import numbers, words
from ....notation.metrics import TIMED
from ....notation.places import Place
from ....notation.sizes import Number
from ....notation.words import place
from ....results.findings import Findings
from ....results.versions import VersionStep
from ...documents.findings.sentences import spot_of
from ...documents.findings.special.versions import at_ends, best_step
from .. import canvas
from ..canvas import INK, LABEL, SMALL, SOFT, Size

if TYPE_CHECKING:
    from matplotlib.figure import Figure

HIGH = 8.0


def draw_versions(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """A panel for each family, stage and metric, versions from left to right, each step with its factor.

    Raises:
        LogarithmError: where the study names no versions, or they were not measured at one size.
    """
    groups: dict[tuple[Place, Number | None], list[VersionStep]] = {}
    for each in at_ends(findings.versions):
        groups.setdefault((each.place, each.second), []).append(each)
    if not groups:
        raise LogarithmError('there are no versions to draw: name them with study.versions("first", "second")')
    figure = canvas.paper(HIGH, size)
    columns = 1 if len(groups) < 4 else 2
    panels = figure.subplots(-(-len(groups) // columns), columns, squeeze=False)
    names = list(dict.fromkeys(each.contender for each in findings.versions))
    style = canvas.styles(names)
    for panel, ((where, second), group) in zip(panels.flat, groups.items(), strict=False):
        canvas.frame(panel)
        panel.set_yscale("linear" if linear else "log")
        canvas.cost_axis(panel.yaxis, where[2])
        panel.set_title(
            canvas.plain(place(where)), loc="left", fontsize=canvas.PANEL_TITLE, fontweight="bold", color=INK
        )
        panel.set_ylabel(canvas.plain(f"cost at {spot_of(findings, group[0].size, second)}"), color=INK, fontsize=LABEL)
        columns_of = [names.index(each.contender) for each in group]
        panel.plot(columns_of, [each.cost for each in group], color=SOFT, drawstyle="steps-post", linewidth=1.5)
        for column, each in zip(columns_of, group, strict=True):
            panel.plot([column], [each.cost], **{**style[each.contender], "linestyle": ""}, markersize=8)
            if each.before is not None:
                canvas.beside_point(panel, _step(each), (column, each.cost))
        panel.set_xlim(-0.4, len(names) - 0.2)
        panel.margins(y=0.18)
        panel.set_xticks(range(len(names)), [canvas.plain(words.name(name)) for name in names], fontsize=SMALL)
    for panel in panels.flat[len(groups) :]:
        panel.set_visible(False)
    best = next((most for group in groups.values() if (most := best_step(group))), None)
    title = "no step is sure to bring something"
    if best is not None and best.before is not None:
        at = "" if len(groups) == 1 else f" on {place(best.place)}"
        if best.second is not None:
            at += f" at {spot_of(findings, best.size, best.second)}"
        brought = f"{numbers.changed(best.before.value)} as before"
        title = f"{words.said(best.contender)} brought most{at}: {brought}"
    canvas.entitle(figure, title)
    foot = canvas.foot(findings, "each version beside the factor of its step")
    figure.supxlabel(canvas.plain(foot), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    return figure


def _step(each: VersionStep) -> str:
    """What a step brought, in a few words."""
    if each.before is None or not each.is_clear:
        return "same"
    return numbers.changed(each.before.value) if each.metric in TIMED else numbers.times(each.before.value)
