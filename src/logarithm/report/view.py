"""The views of findings that a figure can show: the names that `plot --view` takes, and their titles on the page."""

from __future__ import annotations

import enum


class View(enum.StrEnum):
    """What a figure can show. `report.figure.views` draws each of them."""

    GROWTH = "growth"
    WORK = "work"
    RATIO = "ratio"
    SPREAD = "spread"
    STANDINGS = "standings"
    MAP = "map"
    CHANGE = "change"
    WORKLOAD = "workload"
    VERSIONS = "versions"
    MIX = "mix"


ON_PAGE = {
    View.MAP: "Who leads where",
    View.CHANGE: "Cost now over cost then",
    View.MIX: "Who leads over the share of an operation",
    View.VERSIONS: "What each version brought",
    View.GROWTH: "How each cost grows",
    View.RATIO: "How many times as fast as {reference}",
    View.STANDINGS: "Who leads over which sizes",
}
"""The views that a page has, with their titles."""
