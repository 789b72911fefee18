"""Which commits changed the cost: revisions measured side by side, halved where neighbours differ."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise, zip_longest
from pathlib import Path

from ...errors import StudyError
from ...notation.places import Place
from ...results.findings import Costs, Findings
from ...results.revisions import FASTER, SLOWER, RevisionChange
from ...results.tasks.history import CostAt, History, Skipped, Step
from ...run.git import Commit, changed_files, range_of
from ...run.revisions.copies import Copies, Copy, changed_in_study
from ...study.parts import Contender
from ...study.study import Study

AT_ONCE = 6  # revisions that are measured side by side
FIRST_SHARE = 0.5  # of the budget, where there are more
ROUND_S_LEAST = 3.0  # seconds: a shorter round says nothing


@dataclass(slots=True)
class _Walked:
    """The revisions of a range that run and say something new, with what was found of them.

    `changes` are between the numbers of two of them, the earlier first.
    """

    copies: list[Copy]
    changes: dict[tuple[int, int], list[RevisionChange]] = field(default_factory=dict)
    found: list[Findings] = field(default_factory=list)

    @property
    def apart(self) -> list[tuple[int, int]]:
        """Neighbours among those measured that differ, with others between them."""
        return [
            (one, other)
            for (one, other), changes in sorted(self.changes.items())
            if other - one > 1 and any(each.verdict in (FASTER, SLOWER) for each in changes)
        ]


def history_of(
    study: Study,
    file: Path,
    revisions: str,
    seconds: float,
    prepare: Sequence[str],
    only: Sequence[str],
    measured: Callable[[float], Findings],
    tell: Callable[[str], None],
) -> History:
    """The steps along a range of commits.

    Args:
        study, file: what is asked, and where it stands.
        revisions: a range, such as v1..HEAD.
        seconds: that all may take.
        prepare: commands that are run in the copy of each revision.
        only: contenders; all where none is named.
        measured: measures the study as it is now within so many seconds.
        tell: told what is being done.

    Raises:
        StudyError: where there is no such range, or nothing in it runs.
    """
    begun, before = time.monotonic(), list(study.contenders)
    contenders = [each for each in before if each.source is None and (not only or each.name in only)]
    copies = Copies(study, file, prepare)
    try:
        commits = range_of(copies.top, revisions)
        every, skipped = _looked_at(copies, commits, tell)
        if not every:
            raise StudyError(f"no commit of {revisions} runs; the first: {skipped[0].reason}")
        new = [
            made
            for at, made in enumerate(every)
            if not at or any(copies.code(each, made) != copies.code(each, every[at - 1]) for each in contenders)
        ]
        studies = {made.study for made in every}
        walked = _Walked(new)
        asked = _spread(0, len(new) - 1, AT_ONCE) if len(new) > 1 else []
        while asked:
            left = seconds - (time.monotonic() - begun)
            if left < ROUND_S_LEAST:
                break
            study.contenders[:] = _beside(copies, [new[at] for at in asked], contenders)
            share = 1.0 if len(asked) == len(new) or walked.found else FIRST_SHARE
            tell(f"measuring {len(asked)} of {len(new)} revisions")
            found = measured(share * left)
            walked.found.append(found)
            _taken_in(walked, asked, found)
            asked = [at for one, other in walked.apart[:1] for at in _spread(one, other, AT_ONCE)]
        return History(
            study=study.name,
            revisions=revisions,
            commits=len(commits),
            same=len(every) - len(new),
            measured=len({at for pair in walked.changes for at in pair}),
            steps=[*_steps(walked)],
            skipped=skipped,
            costs=_costs(walked, contenders),
            is_whole=not walked.apart and (len(new) < 2 or bool(walked.found)),
            logbooks=[each.run.logbook for each in walked.found],
            elapsed=round(time.monotonic() - begun, 1),
            inside=[each.name for each in contenders if any(changed_in_study(each, file, then) for then in studies)],
        )
    finally:
        study.contenders[:] = before
        copies.end()


def _looked_at(
    copies: Copies, commits: Sequence[Commit], tell: Callable[[str], None]
) -> tuple[list[Copy], list[Skipped]]:
    """What the code says at each commit that runs. Where no file that it uses changed, it says what it said before."""
    made: list[Copy] = []
    skipped: list[Skipped] = []
    last: Copy | None = None
    for number, commit in enumerate(commits, start=1):
        tell(f"looking at {commit.label}, {number} of {len(commits)}")
        changed = changed_files(copies.top, last.commit.sha, commit.sha) if last is not None else set()
        used = {(copies.top / name).resolve() for name in last.files} if last is not None else set()
        is_touched = any(each in used or each.suffix not in (".md", ".txt", ".rst") for each in changed)
        if last is not None and not last.fault and not is_touched:
            last = replace(last, commit=commit)
        else:
            last = copies.at(commit, commit.label)
        if last.fault:
            skipped.append(Skipped(commit.sha, commit.date, commit.subject, last.fault))
        else:
            made.append(last)
    return made, skipped


def _spread(first: int, last: int, most: int) -> list[int]:
    """At most so many numbers, evenly from the first to the last, both included."""
    many = min(most, last - first + 1)
    return [first + round(at * (last - first) / (many - 1)) for at in range(many)]


def _beside(copies: Copies, made: Sequence[Copy], contenders: Sequence[Contender]) -> list[Contender]:
    """The contenders at some revisions, each beside itself at the next one at which its code is another."""
    beside = []
    for contender in contenders:
        codes = [copies.code(contender, each) for each in made]
        new = [at for at, code in enumerate(codes) if not at or not code or code != codes[at - 1]]
        for at, following in zip_longest(new, new[1:]):
            later = "" if following is None else made[following].contender(contender).name
            if len(new) > 1:
                beside.append(made[at].contender(contender, later))
    return beside


def _taken_in(walked: _Walked, asked: Sequence[int], found: Findings) -> None:
    """Keep what was found of neighbours; a pair that was looked at between counts no more as one."""
    labels = {walked.copies[at].label: at for at in asked}
    for one, other in pairwise(asked):
        # What changed at a revision is held against the last one at which the code was another.
        walked.changes[one, other] = [each for each in found.changes if labels.get(each.after) == other]
    if len(asked) > 2:
        walked.changes.pop((asked[0], asked[-1]), None)


def _steps(walked: _Walked) -> list[Step]:
    """Each commit that changed something, from the oldest on."""
    made = []
    for (one, other), changes in sorted(walked.changes.items()):
        commit = walked.copies[other].commit
        for change in changes:
            if change.verdict not in (FASTER, SLOWER) or not change.sizes:
                continue
            last = change.sizes[-1]
            made.append(
                Step(
                    commit=commit.sha,
                    date=commit.date,
                    subject=commit.subject,
                    contender=change.contender,
                    family=change.family,
                    stage=change.stage,
                    metric=change.metric,
                    verdict=change.verdict,
                    factor=last.factor,
                    low=last.low,
                    high=last.high,
                    size=last.size,
                    order_before=change.order_before,
                    order_now=change.order_now,
                    since=walked.copies[one].commit.sha if other - one > 1 else None,
                    worst=max((each.low for each in change.sizes if each.is_clear), default=1.0),
                )
            )
    return made


def _costs(walked: _Walked, contenders: Sequence[Contender]) -> list[CostAt]:
    """What each contender cost at each revision that was measured, at the largest size that all of them reached."""
    made: dict[tuple[str, str, str | None, str, str], CostAt] = {}
    named = {copy.contender(each).name: (each.name, copy.commit) for copy in walked.copies for each in contenders}
    for found in walked.found:
        alike: dict[tuple[str, Place], list[tuple[Commit, Costs]]] = {}
        for each in found.costs:
            if each.contender in named:
                name, commit = named[each.contender]
                alike.setdefault((name, each.place), []).append((commit, each))
        for (name, place), own in alike.items():
            shared = set.intersection(*({point.size for point in each.points} for _, each in own))
            for commit, each in own if shared else ():
                point = next(point for point in each.points if point.size == max(shared))
                cost = (point.size, point.typical, point.low, point.high)
                made[name, *place, commit.sha] = CostAt(commit.sha, commit.subject, name, *place, *cost)
    order = {copy.commit.sha: at for at, copy in enumerate(walked.copies)}
    return sorted(made.values(), key=lambda each: order[each.commit])
