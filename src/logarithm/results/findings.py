"""Findings: everything concluded from a logbook, as one value that every report renders.

The fields are those of the JSON that docs/formats.md describes: times in seconds, memory in bytes.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Self

import msgspec

from ..errors import counted
from ..notation.places import Keyed
from ..notation.sizes import Number
from ..study.run_options import Names, names_of
from .base import Frames, Interval, Part, Result, frame_of, presenter
from .best_values import BestValue
from .lines import LineFinding, NativeFinding
from .maps import Boundary, Lead, MapFinding
from .operations import Growing, MixFinding, Shares
from .pairs import Breakeven, CrossoverFinding, Cutoff, PairFinding, SafeChoice, Standing
from .revisions import Moved, RevisionChange
from .side_findings import RepeatedFinding, StartUp, WarmUpFinding
from .versions import VersionStep
from .workload import Weighing, WorkloadTotal

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

    from ..logbook.memory import Logbook
    from ..statistics.analysis import Analysis
    from .tasks.depth import GrowthsInDepth, Lines, PairsInDepth
    from .tasks.forecast import Forecast
    from .tasks.verdicts import Verdicts

VERSION = 2


class Plausible(Part):
    """An order that the data cannot rule out; what the weights of a series lack of 1 is for all others together."""

    order: str
    weight: float

    def cell(self) -> str:
        """The order alone."""
        return self.order


class WorkFinding(Part):
    """What a call does, counted, and what a unit of it costs.

    `order` with its `plausible` ones is that of the work alone. `kind` is what carries it ("items compared"), where it
    is known: a unit is then one of these, and `exact` gives their number; else that of all. `price` is the seconds of
    one at the smallest and the largest size, as [size, seconds], `least` where it is lowest, and `slope` how it rises
    at the upper half of the sizes. `says` is "work" where the order is that of the work, "hidden" where the price rises
    like a power of its own, "open" between the two.
    """

    order: str
    plausible: list[Plausible]
    exact: str | None
    price: list[list[float]]
    slope: Interval
    says: str
    least: list[float] = []
    kind: str | None = None

    def cell(self) -> str:
        """The order alone."""
        return self.order


class Segment(Part, rename={"start": "from", "end": "to"}):
    """A range of sizes over which one law holds; `why` it ends: fixed cost, step, kink, or empty for the last."""

    start: Number
    end: Number
    order: str
    why: str = ""


class Straight(Part):
    """A line through few costs: what is `fixed`, and what `each` item adds."""

    fixed: Interval
    each: Interval


class GrowthFinding(Part, Keyed, kw_only=True):
    """How one contender's cost grows on one family. `order` is None, and `advice` says why, where it is open.

    `exponent` is the slope at the upper end as it was measured, `law` what that of the law behind it may be, if costs
    drift as caches make them. `exact` is the formula that gives every count, None where there is none. Of two sizes,
    the order is a law in both, `exponents` are the slopes in each, and `terms` what each part of the law weighs. Of two
    or three sizes nothing but a `straight` line is told.
    """

    contender: str
    family: str
    metric: str
    stage: str | None
    order: str | None
    plausible: list[Plausible]
    exponent: Interval | None
    law: Interval | None
    fixed: float | None
    linear: float | None
    scale: float | None
    miss: float | None
    step: list[float] | None
    sizes: list[Number]
    segments: list[Segment]
    advice: str = ""
    exact: str | None = None
    work: WorkFinding | None = None
    exponents: dict[str, Interval] = {}
    terms: dict[str, float] = {}
    straight: Straight | None = None


class ClaimFinding(Part, Keyed):
    """Whether a claim holds: `holds`, `contradicted` (as shows from size `since` on), `slower` or `undecided`."""

    contender: str
    family: str
    stage: str | None
    claim: str
    verdict: str
    since: Number | None = None
    metric: str = "time"


class FailureFinding(Part, kw_only=True):
    """Where a contender failed, and the largest size that worked, if any."""

    contender: str
    family: str
    size: Number
    reason: str
    detail: str
    works: Number | None = None
    second: Number | None = None


class NoteFinding(Part):
    """Something worth telling: `topic` and `cause` for programs, text for people; see `logbook.records.Note`."""

    topic: str
    text: str
    contender: str | None = None
    family: str | None = None
    size: Number | None = None
    cause: str = ""
    second: Number | None = None


TRIALS_LEAST, PROCESSES_LEAST = 3, 2  # at a size, for a verdict on it


class Cost(Part, kw_only=True):
    """The cost at one size: the median over rounds, the quartiles, and how many rounds in how many processes.

    `wall` is the time that passed, where others had the processor for much of it; else None.
    """

    size: Number
    typical: float
    low: float
    high: float
    rounds: int
    processes: int = 0
    ratio: Interval | None = None
    wall: float | None = None


class Costs(Part, Keyed):
    """The costs of one contender on one family, with the fitted curve; ratios are against the baseline.

    `work` is what a call does, counted, as [size, count], and `band` the ratio with the help of neighbouring sizes, as
    [size, ratio, low, high]; empty where there is none.
    """

    contender: str
    family: str
    metric: str
    stage: str | None
    points: list[Cost]
    fitted: list[list[float]]
    work: list[list[float]] = []
    band: list[list[float]] = []
    second: Number | None = None


class Sample(Part, Keyed):
    """The values of single trials at one size."""

    contender: str
    family: str
    metric: str
    stage: str | None
    size: Number
    values: list[float]


class About(Part):
    """What was asked. `reference` is the baseline, or the first contender where none is called so.

    Of two sizes, `names` are what they are called, and `second_values` the measured values of the second. `is_fixed` if
    sizes were asked for; `claiming` names who makes a claim, and `fails_from` sizes from which a failure is expected.
    `earlier` are contenders as they were at a revision; `versions` those that were made one from another, in order.
    `roles` says of the families of a search which are typical, best and worst, and `searched` of which family they are.
    """

    name: str
    question: str
    axis: str
    contenders: list[str]
    families: list[str]
    baseline: str | None
    yardsticks: list[str]
    reference: str = ""
    file: str = ""
    sha256: str = ""
    source: str = ""
    roles: dict[str, str] = {}
    searched: dict[str, str] = {}
    names: list[str] = []
    second_values: list[Number] = []
    is_fixed: bool = True
    claiming: list[str] = []
    fails_from: dict[str, float] = {}
    earlier: list[str] = []
    versions: list[str] = []


class RunFinding(Part):
    """How it was measured; `noise` is the machine's: quiet, noisy or busy, empty where it is not known.

    `others` is the share of the time of trials that others had the processor, which is taken off: other programs, the
    host of a virtual machine; None where the system does not tell. `stolen` is what that host took of all processors.
    Where it is `too_busy`, own time spreads so far that verdicts on orders stay open.

    `settled` is whether more trials within the `budget` would change no verdict, None where nobody asked; `unsettled`
    names what is open, `untold` what cannot be told within reach, `orders_untold` the same of orders. Where there are
    `too_few` trials, nothing can be said of who leads. `elapsed` and `budget` are seconds. `left_out` are sizes
    that were asked for, lie below the largest one, and were not measured.
    """

    logbook: str
    created: str
    sizes: list[Number]
    rounds: int
    processes: int
    trials: int
    elapsed: float | None
    reason: str | None
    noise: str
    spread: float | None
    disturbed: float | None
    budget: float | None = None
    settled: bool | None = None
    unsettled: list[str] = []
    others: float | None = None
    stolen: float | None = None
    too_busy: bool = False
    untold: list[str] = []
    orders_untold: list[str] = []
    too_few: bool = False
    left_out: list[Number] = []


class Text(str):
    """Text that shows itself as it is."""

    __slots__ = ()

    def __repr__(self) -> str:
        return str(self)


class Findings(Result, kw_only=True, dict=True):
    """Everything concluded from a logbook.

    `withheld` names what was concluded and broke an invariant, so that it is not among the rest; see `audit`.
    `analysis` is the analysis that it comes from, which answers all further questions. It is not part of the JSON.
    """

    if TYPE_CHECKING:
        analysis: Analysis

    _frames: ClassVar[Frames] = {
        "growth": GrowthFinding,
        "crossovers": CrossoverFinding,
        "standings": Standing,
        "costs": Cost,
        "claims": ClaimFinding,
        "failures": FailureFinding,
        "breakeven": Breakeven,
        "workload": WorkloadTotal,
        "changes": RevisionChange,
        "versions": VersionStep,
        "mixes": MixFinding,
        "shares": Shares,
        "growing": Growing,
        "best_values": BestValue,
        "moved": Moved,
        "boundaries": Boundary,
        "leads": Lead,
        "pairs": PairFinding,
        "safe_choice": SafeChoice,
        "cutoffs": Cutoff,
        "lines": LineFinding,
        "compiled_calls": NativeFinding,
        "repeated_inputs": RepeatedFinding,
        "warmups": WarmUpFinding,
        "startups": StartUp,
        "notes": NoteFinding,
    }

    format: str = "logarithm-findings"
    version: int = VERSION
    study: About
    run: RunFinding
    machine: dict[str, Any]
    tools: dict[str, str]
    growth: list[GrowthFinding] = []
    crossovers: list[CrossoverFinding] = []
    standings: list[Standing] = []
    pairs: list[PairFinding] = []
    safe_choice: list[SafeChoice] = []
    cutoffs: list[Cutoff] = []
    breakeven: list[Breakeven] = []
    claims: list[ClaimFinding] = []
    failures: list[FailureFinding] = []
    costs: list[Costs] = []
    changes: list[RevisionChange] = []
    moved: list[Moved] = []
    workload: list[WorkloadTotal] = []
    versions: list[VersionStep] = []
    mixes: list[MixFinding] = []
    shares: list[Shares] = []
    growing: list[Growing] = []
    best_values: list[BestValue] = []
    weighing: Weighing | None = None
    boundaries: list[Boundary] = []
    leads: list[Lead] = []
    maps: list[MapFinding] = []
    samples: list[Sample] = []
    compiled_calls: list[NativeFinding] = []
    startups: list[StartUp] = []
    lines: list[LineFinding] = []
    repeated_inputs: list[RepeatedFinding] = []
    warmups: list[WarmUpFinding] = []
    notes: list[NoteFinding] = []
    warnings: list[str]
    withheld: list[str] = []

    def __repr__(self) -> str:
        many = counted(len(self.study.contenders), "contender"), counted(len(self.study.families), "family", "families")
        return f"<Findings of {self.study.name}: {many[0]}, {many[1]}>"

    def only(self, families: Sequence[str]) -> Self:
        """The findings of some families."""
        kept = {
            name: [row for row in rows if getattr(row, "family", families[0]) in families]
            for name, rows in ((name, getattr(self, name)) for name in self.__struct_fields__)
            if isinstance(rows, list) and name not in ("warnings", "withheld")
        }
        return self._with(**kept)

    def _with(self, **changes: Any) -> Self:
        """Return these findings with other values in some fields, of the same analysis."""
        made = msgspec.structs.replace(self, **changes)
        vars(made).update(vars(self))
        return made

    def to_frame(self, part: str | None = None) -> pd.DataFrame:
        """A part as a table; of costs a row for each size. See `Result.to_frame`."""
        if part != "costs":
            return super().to_frame(part)
        import pandas as pd

        names = [name for name in Costs.__struct_fields__ if name in ("contender", "family", "metric", "stage")]
        who = [[getattr(row, name) for name in names] for row in self.costs for _ in row.points]
        points = frame_of(Cost, (point for row in self.costs for point in row.points))
        return pd.concat([pd.DataFrame(who, columns=names), points], axis=1)

    def plot(
        self,
        view: str | None = None,
        linear: bool = False,
        size: tuple[int, int] | None = None,
        dark: bool = False,
        ax: Axes | None = None,
    ) -> Figure:
        """A figure of at most nine panels.

        Args:
            view: growth, work, ratio, spread, standings or map; of two sizes the map, else growth, if none is named.
            linear: linear axes, not logarithmic ones.
            size: pixels, wide and high.
            dark: on dark paper.
            ax: axes to draw the first panel into, in place of a figure of its own.

        Raises:
            LogarithmError: where there is no such view, or nothing to draw in it.
        """
        figure: Figure = presenter().draw(self, view=view, linear=linear, size=size, dark=dark, ax=ax)
        return figure

    def report(self, section: str | None = None, everything: bool = False) -> Text:
        """The report, or one section of it.

        Args:
            section: such as "growth", "ratios", "costs", "notes" or "chart".
            everything: also what a first look leaves out.

        Raises:
            LogarithmError: where there is no such section.
        """
        return Text(presenter().render(self, "text", only=section, everything=everything))

    def crossover(self, *contenders: str, family: Names = None) -> PairsInDepth:
        """Two contenders in depth, or one against all others: every crossover, and the ratio at each size.

        Raises:
            LogarithmError: where one is not there, or no two were measured at the same sizes.
        """
        return self.analysis.pairs_in_depth(contenders, names_of(family))

    def growth_in_depth(self, only: Names = None, family: Names = None) -> GrowthsInDepth:
        """Every order that was tried, residuals and local exponents by size.

        Raises:
            LogarithmError: where one is not there, or nothing can be fitted.
        """
        return self.analysis.growth_in_depth(names_of(only), names_of(family))

    def lines_in_depth(self, only: Names = None, family: Names = None) -> Lines:
        """Return the lines of code that the growth comes from.

        Raises:
            LogarithmError: if lines were not counted.
        """
        return self.analysis.lines_in_depth(names_of(only), names_of(family))

    def verify(self, strict: bool = False) -> Verdicts:
        """Hold the claims against what was found.

        Args:
            strict: claims that are undecided or slower fail too.

        Raises:
            LogarithmError: where there is no claim.
        """
        return self.analysis.verify(self, strict)

    def at(self, **second: float) -> Findings:
        """Of a study of two sizes, what holds at one value of the second: `found.at(k=64)`.

        Raises:
            LogbookError: where there is one size only, or nothing was measured there.
        """
        return self.logbook().at(**second).findings()

    def weighed(self, calls: str | Path) -> Findings:
        """These findings with what some calls cost in all, by contender.

        Args:
            calls: a file of sizes, one a line, or a CSV table with the columns size, count and, where there, family;
                of two sizes, both by their names.

        Raises:
            LogarithmError: where the file cannot be used, or nothing that was measured tells of its calls.
        """
        from ..logbook.exchange.calls import read_calls

        totals, weighing = self.analysis.weighed(read_calls(Path(calls), self.study.names))
        return self._with(workload=totals, weighing=weighing)

    def map(self, ax: Axes | None = None, dark: bool = False) -> Figure:
        """The map of a study of two sizes: who leads where.

        Args:
            ax: axes to draw the first family's into, in place of a figure of its own.
            dark: on dark paper.

        Raises:
            LogarithmError: where there is one size only.
        """
        return self.plot("map", dark=dark, ax=ax)

    def forecast(self, at: float | None = None, within: str | float | None = None, **second: float) -> Forecast:
        """What each contender will cost at a size, or how large a size it manages within a time, with 95 %.

        Args:
            at: a size.
            within: a span of time, such as "1s".
            second: of two sizes, the second one: `k=64`.

        Raises:
            LogarithmError: where neither or both are given, or nothing can be forecast.
        """
        return self.analysis.forecast({**({} if at is None else {"": at}), **second}, within)

    def logbook(self) -> Logbook:
        """The logbook that this was found in."""
        return self.analysis.logbook
