"""What all figures share: the paper, a panel for each family, styles that tell curves apart, saving."""

from __future__ import annotations

import io
import itertools
import textwrap
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from itertools import cycle, islice
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...errors import LogarithmError, counted, one_line
from ...logbook.files import write_file
from ...notation import words
from ...notation.places import Place
from ...notation.words import place
from ...results.findings import Costs, Findings
from . import ticks

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.patheffects import AbstractPathEffect

KINDS = ("png", "svg", "pdf")
SETTINGS: Any = {"svg.fonttype": "none", "svg.hashsalt": "logarithm"}
"""While a figure is written: text stays text in an SVG, and the same findings give the same file."""
WIDTH, HEIGHT, COLUMNS, PANELS_MOST = 12.8, 8.0, 3, 9
DPI, LEGEND_MOST = 100, 6  # names in a line of the legend
LETTER, KEY = 9.3, 85  # pixels that a letter of a name takes, and a key of the legend with what lies between columns
TITLE, PANEL_TITLE, LABEL, TICK, SMALL = 16, 13, 11.5, 10.5, 9.5  # points: read from the last row
NAME_MOST = 26
FOOT_MOST, TITLE_MOST = 190, 90  # letters in a line below the panels, and of the title

# Hues that people with any common colour vision tell apart, dark enough for white paper; and because print is
# often grey, each curve also has its own marker and its own dashes. The three cycles are of lengths without a
# common factor, so that no two of very many curves look alike.
COLOURS = (
    *("#1b5e8a", "#c8552b", "#2d7d5a", "#8a4f9e", "#b08900", "#3f3f46"),
    *("#d1477a", "#0f8b8d", "#7a5c2e", "#4456c7", "#6b8e1f", "#a33b3b"),
)
MARKERS = ("o", "s", "^", "D", "v", "P", "X", "*", "<", "p", ">")
DASHES = ("-", (0, (6, 2)), (0, (2, 1.4)), (0, (7, 2, 1.5, 2)), (0, (4, 1.5, 1, 1.5, 1, 1.5)))
DARK = {
    **{"#22262b": "#e4e7ea", "#c9ced6": "#3d454e", "#5c6470": "#a4adb8", "#ffffff": "#14181c", "#000000": "#e4e7ea"},
    "#eaf1f6": "#24303a",
    **{"#1b5e8a": "#6cb4e4", "#c8552b": "#f0875f", "#2d7d5a": "#63c296", "#8a4f9e": "#c792dc", "#b08900": "#e0bb3c"},
    **{"#3f3f46": "#b9bcc4", "#d1477a": "#f286ac", "#0f8b8d": "#4fc7c9", "#7a5c2e": "#c9a472", "#4456c7": "#97a4ff"},
    **{"#6b8e1f": "#a9cf58", "#a33b3b": "#e98484"},
}
"""What each colour becomes on dark paper, as in the page."""
Style = dict[str, Any]
Size = tuple[int, int]
Draw = Callable[["Axes", Place, list[Costs]], None]

INK, FAINT, SOFT, PAPER = "#22262b", "#c9ced6", "#5c6470", "#ffffff"


def styles(names: Sequence[str]) -> dict[str, Style]:
    """A colour, a marker and dashes for each contender, the same in every figure."""
    cycles = zip(names, cycle(COLOURS), cycle(MARKERS), islice(cycle(DASHES), len(names)), strict=False)
    return {name: {"color": colour, "marker": marker, "linestyle": dashes} for name, colour, marker, dashes in cycles}


def short(name: str) -> str:
    """A contender's name where room is scarce."""
    return one_line(words.name(name), NAME_MOST)


_GIVEN: ContextVar[Axes | None] = ContextVar("given axes", default=None)


@contextmanager
def into(axes: Axes) -> Iterator[None]:
    """Meanwhile, what is drawn goes into these axes of somebody's own figure, and no other figure is made."""
    token = _GIVEN.set(axes)
    try:
        yield
    finally:
        _GIVEN.reset(token)


def given() -> Axes | None:
    """The axes that are drawn into; None where figures are our own."""
    return _GIVEN.get()


def sheet(
    findings: Findings,
    groups: dict[Place, list[Costs]],
    draw: Draw,
    foot: str,
    title: str,
    wide: bool = False,
    shares: bool = False,
    size: Size | None = None,
) -> Figure:
    """A figure with a panel for each place, drawn by `draw`; `size` in pixels, `title` what it shows."""
    axes = given()
    if axes is not None:
        where = next(iter(groups))
        draw(axes, where, groups[where])
        axes.set_title(plain(one_line(title, TITLE_MOST)), loc="left", color=INK)
        return axes.get_figure(root=True)  # type: ignore[return-value]
    columns = 1 if wide else min(COLUMNS, len(groups))
    rows = -(-len(groups) // columns)
    high = HEIGHT if not wide or rows > 4 else max(4.5, 1.7 * rows + 1.2)
    figure = paper(high, size)
    # Families are compared across panels; stages and metrics are not.
    alike = len({where[1:] for where in groups}) == 1 and not wide
    # What all panels have in common stands at their axes, or in the title, once.
    one_metric = len({where[2] for where in groups}) == 1
    panels = figure.subplots(rows, columns, squeeze=False, sharey="all" if alike and shares else "none")
    for index, panel in enumerate(panels.flat):
        if index >= len(groups):
            panel.set_visible(False)
            continue
        where = list(groups)[index]
        for side, spine in panel.spines.items():
            spine.set_color(INK)
            spine.set_visible(side in ("left", "bottom"))
        panel.tick_params(colors=INK, labelsize=TICK)
        panel.xaxis.label.set_fontsize(LABEL)
        panel.yaxis.label.set_fontsize(LABEL)
        called = place((*where[:2], "time")) if one_metric else place(where)
        panel.set_title(plain(called), loc="left", fontsize=PANEL_TITLE, fontweight="bold", color=INK)
        draw(panel, where, groups[where])
        if index % columns and shares and alike:
            panel.set_ylabel("")
    entitle(figure, title)
    asked = words.name(findings.study.name)
    if findings.study.question:
        asked += f" · {one_line(findings.study.question, 90)}"
    figure.supxlabel(plain(f"{asked}\n{foot}"), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    return figure


def entitle(figure: Figure, title: str) -> None:
    """Write a title, in two lines at most where it is long."""
    lines = textwrap.wrap(one_line(title, 2 * TITLE_MOST).replace(" = ", "\u00a0=\u00a0"), TITLE_MOST)
    figure.suptitle(plain("\n".join(lines)), x=0.01, ha="left", fontsize=TITLE, fontweight="bold", color=INK)


def legend(figure: Figure, names: Sequence[str], style: Mapping[str, Style]) -> None:
    """Name the curves above the panels, once for all of them."""
    from matplotlib.lines import Line2D

    keys = [
        Line2D([], [], **{**style[name], "markerfacecolor": PAPER, "markersize": 6, "linewidth": 1.8}) for name in names
    ]
    labels = [plain(short(name)) for name in names]
    columns = _columns([len(label) for label in labels])
    rows = -(-len(names) // columns)
    # The title keeps lines free for it.
    title = figure.get_suptitle()
    figure.suptitle(
        title + "\n" * rows, x=0.01, ha="left", fontsize=TITLE, fontweight="bold", color=INK, linespacing=1.45
    )
    lines = 1 + title.count("\n")
    below = 1 - (TITLE * (0.3 + 1.45 * lines) / 72) / figure.get_figheight()
    figure.legend(
        keys,
        labels,
        loc="upper left",
        bbox_to_anchor=(0.0, below),
        ncols=columns,
        frameon=False,
        fontsize=LABEL,
        labelcolor=INK,
    )


def _columns(lengths: Sequence[int]) -> int:
    """In how many columns the names of a legend fit, which is filled column by column."""
    for columns in range(min(len(lengths), LEGEND_MOST), 1, -1):
        rows = -(-len(lengths) // columns)
        wide = sum(LETTER * max(lengths[at : at + rows]) + KEY for at in range(0, len(lengths), rows))
        if wide <= WIDTH * DPI:
            return columns
    return 1


def recoloured(figure: Figure) -> Figure:
    """The figure on dark paper: every colour of ours is exchanged for its counterpart."""
    import numpy as np
    from matplotlib.colors import to_hex, to_rgba

    def exchanged(colour: Any) -> Any:
        if np.ndim(colour) < 2:
            if to_rgba(colour)[3] == 0:
                return None  # nothing is there
            return DARK.get(to_hex(colour))
        # Of what is drawn in layers, each has its own colour.
        rows = [to_rgba(DARK.get(to_hex(row), to_hex(row)), row[3]) for row in colour]
        return rows or None

    for artist in [figure, *figure.findobj()]:
        for name in ("color", "facecolor", "edgecolor", "markerfacecolor", "markeredgecolor"):
            get, put = getattr(artist, f"get_{name}", None), getattr(artist, f"set_{name}", None)
            if get is None or put is None:
                continue
            try:
                other, alpha = exchanged(get()), artist.get_alpha()
            except (TypeError, ValueError):
                continue
            if other is not None:
                put(other)
                artist.set_alpha(alpha)
        for effect in artist.get_path_effects() or ():
            graphics = getattr(effect, "_gc", {})
            if graphics.get("foreground") == PAPER:
                graphics["foreground"] = DARK[PAPER]
    return figure


def plain(text: str) -> str:
    """Text in which no dollar sign begins a formula."""
    return text.replace("$", r"\$")


def foot(findings: Findings, told: str) -> str:
    """How to read a figure, and where its numbers come from."""
    machine = findings.machine
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    run = findings.run
    how = f"{counted(run.rounds, 'heat')} in {counted(run.processes, 'process', 'processes')}" if run.rounds else ""
    noise = f"machine {run.noise}" if run.noise else ""
    whole = " · ".join(part for part in (told, how, noise, *facts) if part)
    return "\n".join(textwrap.wrap(whole, FOOT_MOST, break_on_hyphens=False))


def cost_axis(axis: Any, metric: str) -> None:
    """Ticks with units: "10 µs"."""
    ticks.set_ticks(axis, ticks.of_cost(metric), ticks.base_of(metric))


def cost_label(metric: str) -> str:
    """What stands along an axis of costs."""
    return plain(f"{words.name(metric)} of one call")


def size_axis(panel: Axes, findings: Findings, sizes: Sequence[float], linear: bool) -> None:
    """Sizes as people write them; on a logarithmic axis only for sizes."""
    is_size = findings.study.axis == "size"
    panel.set_xlabel("size n" if is_size else plain(words.name(findings.study.axis)), color=INK, fontsize=LABEL)
    if not linear and min(sizes) > 0 and (is_size or rises_by_a_factor(sizes)):
        panel.set_xscale("log")
    # Ticks stand where there are sizes, and not below the names of curves.
    within, whole = (min(sizes), max(sizes)), all(float(size).is_integer() for size in sizes)
    ticks.set_ticks(panel.xaxis, ticks.of_size, whole=whole, within=within)


def rises_by_a_factor(sizes: Sequence[float]) -> bool:
    """Whether the values of an axis rise by a factor, as 1, 2, 4, 8, rather than by a step.

    >>> rises_by_a_factor([1, 2, 4, 8, 16, 32]), rises_by_a_factor([10, 20, 30, 40, 50]), rises_by_a_factor([1, 2])
    (True, False, False)
    """
    there = sorted(set(sizes))
    if len(there) < 4 or there[0] <= 0:
        return False
    steps = [after / before for before, after in itertools.pairwise(there)]
    return min(steps) > 1.2 and max(steps) < 1.5 * min(steps)


def settle(figure: Figure) -> None:
    """Lay the figure out once and for all: places within it are known from here on."""
    layout = figure.get_layout_engine()
    if layout is not None:
        layout.execute(figure)
        figure.set_layout_engine("none")


def paper(high: float, size: Size | None) -> Figure:
    """An empty figure, so many inches high, or of a size in pixels.

    Letters grow with the picture, so that it looks alike at any size.
    """
    from matplotlib.layout_engine import ConstrainedLayoutEngine

    from .drawing import Drawing

    dpi = DPI if size is None else DPI * size[0] / (WIDTH * DPI)
    inches = (WIDTH, high if size is None else size[1] / dpi)
    return Drawing(figsize=inches, dpi=dpi, layout=ConstrainedLayoutEngine(w_pad=0.12, h_pad=0.12))


def frame(panel: Axes) -> None:
    """Draw the left and the lower side of a panel alone, and a faint grid."""
    for side, spine in panel.spines.items():
        spine.set_color(INK)
        spine.set_visible(side in ("left", "bottom"))
    panel.grid(True, which="major", color=FAINT, linewidth=0.5, alpha=0.6)


def beside_point(panel: Axes, text: str, at: tuple[float, float]) -> None:
    """Write a few words to the upper right of a point."""
    written = panel.annotate(text, at, xytext=(7, 9), textcoords="offset points", fontsize=SMALL, color=INK)
    written.set_path_effects(halo())


def halo() -> list[AbstractPathEffect]:
    """White around letters, so that they can be read where they stand on a curve."""
    from matplotlib.patheffects import withStroke

    return [withStroke(linewidth=3, foreground=PAPER)]


def save_figure(drawn: Figure, path: Path) -> None:
    """Write a figure as PNG, SVG or PDF, by the ending of the name.

    Raises:
        LogarithmError: where the file cannot be written.
    """
    import matplotlib as mpl

    kind = path.suffix.lower().lstrip(".")
    # Without a date the same findings give the same file.
    metadata = {"svg": {"Date": None}, "pdf": {"CreationDate": None}}.get(kind)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        whole = io.BytesIO()
        with mpl.rc_context(SETTINGS):
            drawn.savefig(whole, format=kind, metadata=metadata)
        write_file(path, whole.getvalue())
    except OSError as error:
        raise LogarithmError(f"{path} cannot be written: {error.strerror or error}") from None


def check_kind(path: Path) -> None:
    """Refuse names from whose ending no kind of figure can be told."""
    if path.suffix.lower().lstrip(".") not in KINDS:
        raise LogarithmError(f"{path}: a figure is a PNG, SVG or PDF, so its name ends in .png, .svg or .pdf")
