"""The study as Python users have it: it measures itself. Everything heavy loads when it is asked to."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..study.study import Study as Plan

if TYPE_CHECKING:
    from ..report.text.rehearsal import Rehearsal
    from .compare import Across
    from .findings import ShownFindings
    from .shown import ShownClass, ShownSearch, ShownVerdicts, ShownWalk


class Study(Plan):
    """A question about several implementations of one job; see `logarithm.study.study.Study`.

    >>> study = Study("tide-gauge", sizes="8..64 *2")
    >>> study.name
    'tide-gauge'
    """

    def measure(
        self,
        budget: str | None = None,
        *,
        out: str | Path | None = None,
        resume: str | Path | None = None,
        quiet: bool = False,
        **settings: Any,
    ) -> ShownFindings:
        """Measure into a logbook until everything is settled, and return what was found.

        Works in a script, under `if __name__ == "__main__":`, and in a notebook, with functions defined in its cells.

        Args:
            budget: the most that it may take; "60s" if nothing is said.
            out: the logbook to write; `logbooks/NAME-….jsonl` if none is named.
            resume: a logbook to go on with: further, or with contenders edited or added since.
            quiet: show no progress.
            settings: as the command line has them: `ceiling`, `sizes`, `family`, `only`, `metric`, `seed`, `anyway`,
                `memory`, `same` and `whole`.

        Raises:
            StudyError: where the study cannot be used, or its functions cannot go along to other processes.
            DisagreementError: where contenders disagree.
            MeasuringError: where nothing can be measured.
        """
        from .notebook import measured

        return measured(self, budget, out, resume, quiet, settings)

    def measure_on(
        self, address: str, budget: str = "60s", *, out: str | Path | None = None, **settings: Any
    ) -> Across:
        """Measure on each machine of a cluster, and return what holds on each and on all.

        Args:
            address: of the cluster's scheduler, or "local" to start one here.
            budget, out, settings: as of `measure`; each machine has a logbook of its own.

        Raises:
            MeasuringError: where no machine could measure it.
        """
        from .notebook import measured_on

        return measured_on(self, address, budget, out, settings)

    def rehearse(self, sizes: str | None = None, budget: str = "60s", **settings: Any) -> Rehearsal:
        """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured.

        Args:
            sizes: another ladder, such as "8..4096".
            budget: that measuring would have.
            settings: `ceiling`, `family` and `only`, as of `measure`.

        Raises:
            StudyError: where the study cannot be used.
        """
        from .notebook import rehearsed

        return rehearsed(self, budget, {**({} if sizes is None else {"sizes": sizes}), **settings})

    def verify(
        self, budget: str = "60s", *, strict: bool = False, quiet: bool = False, **settings: Any
    ) -> ShownVerdicts:
        """Do the claims hold? What seems contradicted is measured again before it is believed.

        Args:
            budget: the most that it may take.
            strict: claims that are undecided or slower fail too.
            quiet: show no progress.
            settings: `ceiling`, `sizes`, `family` and `only`, as of `measure`.

        Raises:
            LogarithmError: where there is no claim, or nothing can be measured.
        """
        from .notebook import verified

        return verified(self, budget, strict, quiet, settings)

    def worst(
        self,
        budget: str = "60s",
        *,
        only: str | Sequence[str] | None = None,
        family: str | Sequence[str] | None = None,
        metric: str = "work",
        sizes: str | Sequence[float] | None = None,
        seed: int = 1,
        out: str | Path | None = None,
        on: str | None = None,
        quiet: bool = False,
    ) -> ShownSearch:
        """Search for inputs on which each contender does most work, and say how that worst case grows.

        What is found is a lower bound: that no worse was found does not say that there is none.

        Args:
            budget: the most that it may take.
            only, family: contenders and families; all where none is named.
            metric: what to make large: work, steps, comparisons, memory or a tally.
            sizes: those to search at, such as "8..64".
            seed: the same one gives the same result.
            out: the logbook to write.
            on: the address of a cluster's scheduler, or "local".
            quiet: show no progress.

        Raises:
            LogarithmError: where nothing can be searched for.
        """
        from .notebook import searched

        return searched(self, budget, only, family, metric, sizes, seed, out, on, quiet)

    def walk(
        self, contender: str, size: int = 6, *, family: str | None = None, seed: int = 1, most: int = 200
    ) -> ShownWalk:
        """What a contender does on one small instance, event by event: compare, read, write, swap, call.

        Args:
            contender: its name.
            size: of the instance, 500 at most.
            family: of the instance; the first if none is named.
            seed: the instance follows from it.
            most: how many lines to show.

        Raises:
            LogarithmError: where a name is not there, or the contender fails.
        """
        from .notebook import walked

        return walked(self, contender, size, family, seed, most)

    def assess(
        self,
        *,
        memory: str = "1GiB",
        seed: int | None = None,
        trusted: bool = False,
        out: str | Path | None = None,
        resume: str | Path | None = None,
        on: str | None = None,
        quiet: bool = False,
    ) -> ShownClass:
        """Assess what a class handed in: right or not, the order against what is asked, time and steps.

        Args:
            memory: how much each submission may fill.
            seed: draws the same instances again; a secret one if none is named.
            trusted: run it without an enclosure: you have read it all and trust it.
            out: the logbook to write.
            resume: the logbook of an assessment that was interrupted.
            on: the address of a cluster's scheduler, or "local".
            quiet: show no progress.

        Raises:
            NotEnclosedError: where the system cannot enclose what was handed in.
            LogarithmError: where nothing was handed in, or there is no reference.
        """
        from .notebook import assessed

        return assessed(self, memory, seed, trusted, out, resume, on, quiet)
