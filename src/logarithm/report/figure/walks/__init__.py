"""A walk drawn: its events in columns, its call tree, or a picture for each step."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ....results.tasks.walk import Walk
from ...documents.walk import EVERYTHING, Choice
from .. import canvas
from .calls import draw_calls
from .events import draw_events
from .steps import save_steps

if TYPE_CHECKING:
    from matplotlib.figure import Figure


def draw_walk(found: Walk, choice: Choice = EVERYTHING) -> Figure:
    """The figure of a walk: its events, or its call tree."""
    return draw_calls(found) if choice.view == "calls" else draw_events(found, choice)


def save_walk(found: Walk, path: Path, choice: Choice = EVERYTHING, dark: bool = False) -> None:
    """Draw a walk into a file; into a folder, a picture for each step."""
    if not path.suffix:
        save_steps(found, path, choice, dark)
        return
    canvas.check_kind(path)
    drawn = draw_walk(found, choice)
    canvas.save_figure(canvas.recoloured(drawn) if dark else drawn, path)
