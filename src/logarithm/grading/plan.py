"""The instructor first: before anyone is judged, the reference, the referee and every family are tried at every size.

What is at fault there would fall on those who are judged. What works is the plan for all of them: the sizes of each
family, the edges that it gives, and one size beyond the others, at which recursion and memory show their ends.
"""

from __future__ import annotations

import math
import random
import re
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import msgspec

from ..errors import MeasuringError, StudyError
from ..notation.sizes import Number
from ..protocol import answers
from ..study.parts import Case, Contender, Family
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from .answers.judge import Judge, cases_for, handed_in_for, reference_of
from .answers.secret_sizes import secret_sizes_of
from .grades import exceeds
from .handed_in import text_of

SMALL_SIZES = (0, 1, 2, 3, 4, 5, 8, 16, 64)
SMALL_INSTANCES = 3  # instances of each small size
REFERENCE_S_MOST = 1.0  # seconds for a call of the reference: a submission has twice as many
BEYOND, BEYOND_S_MOST = (2.0, 3.0), 0.5  # times the largest size, and seconds of the reference there
WORD = r"\b{}\b"


class FamilyPlan(msgspec.Struct, frozen=True):
    """The sizes at which everyone is looked at on one family.

    Attributes:
        name: of the family.
        small: the edges, and small sizes, of which it gives instances and the reference answers.
        sizes: those of the study, moved a little.
        beyond: a larger one; None where the family gives none, or the reference has no answer.
    """

    name: str
    small: tuple[Number, ...]
    sizes: tuple[Number, ...]
    beyond: Number | None = None

    @property
    def all(self) -> tuple[Number, ...]:
        """The sizes at which work is counted and times are taken, the one beyond the others among them."""
        return self.sizes if self.beyond is None else (*self.sizes, self.beyond)


class PlanJob(msgspec.Struct, frozen=True):
    """Try everything that is the instructor's for one `function`; see `LookJob`."""

    memory: float
    salt: int
    function: str


class Plan(msgspec.Struct, frozen=True):
    """What works; or the fault that was found."""

    families: tuple[FamilyPlan, ...] = ()
    fault: str = ""


class FaultError(Exception):
    """What the instructor must correct."""


def plan_of(study: Study, study_file: Path, job: PlanJob) -> Plan:
    """Try the reference, the referee and every family at every size."""
    asked = study.asked[job.function]
    handed_in = handed_in_for(study, asked)
    try:
        _check_name(handed_in, asked.function, study_file)
        judge = Judge(study, study_file, reference_of(study, asked), limits(2, job.memory))
    except FaultError as fault:
        return Plan(fault=str(fault))
    used = {name for each in handed_in for name in each.options.families or [family.name for family in study.families]}
    try:
        _check_cases(cases_for(study, asked), study_file, judge)
        tried = [_Trial(study, study_file, judge, family, job.salt) for family in study.families if family.name in used]
        return Plan(tuple(each.plan() for each in tried))
    except FaultError as fault:
        return Plan(fault=str(fault))
    except MeasuringError as error:
        return Plan(fault=f"{study_file.name}: the reference cannot be run: {error}")
    finally:
        judge.end()


def _check_name(handed_in: Sequence[Contender], name: str, study_file: Path) -> None:
    """What is asked for must be in some of the files, or it is called otherwise than the study says."""
    pattern = re.compile(WORD.format(re.escape(name)).encode())
    texts = []
    for each in handed_in:
        with suppress(MeasuringError):
            texts.append(text_of(each.source))  # type: ignore[arg-type]
    if texts and not any(map(pattern.search, texts)):
        none = f"none of the {len(handed_in)} files has a" if len(handed_in) > 1 else "the one file has no"
        where = _line_in(study_file, name)
        raise FaultError(f"{where}: {none} function '{name}': is it called so in the hand-out?")


def _check_cases(cases: Sequence[Case], study_file: Path, judge: Judge) -> None:
    """The reference, and the referee, must take the answers that are given to fixed cases."""
    for case in cases:
        where = f"{_line_in(study_file, case.name)}: the case '{case.name}'"
        try:
            instance, right = judge.case(case)
            if not judge.is_right(instance, judge.answer_to(case.instance)[1], right):
                own = answers.shown(judge.answer_to(case.instance)[1], 60)
                raise FaultError(f"{where} has the answer {answers.shown(right, 60)}, and the reference answers {own}")
        except Failed as failed:
            raise FaultError(f"{where}: {failed.detail or failed.reason}") from None
        except ValueError as error:
            raise FaultError(f"{where} cannot be written down: {error}") from None


class _Trial:
    """The trial of one family, with the reference and the referee."""

    def __init__(self, study: Study, study_file: Path, judge: Judge, family: Family, salt: int) -> None:
        self.study, self.study_file, self.judge, self.family = study, study_file, judge, family
        self.sizes = secret_sizes_of(study, salt)
        self.chance = random.Random(f"{salt}/plan/{family.name}")
        self.seed = self.chance.getrandbits(40)

    def plan(self) -> FamilyPlan:
        """The sizes that work. Raises FaultError."""
        small = tuple(size for size in SMALL_SIZES if size <= max(self.sizes) and self.works(size))
        for size in self.sizes:
            self.judged(size)
        return FamilyPlan(self.family.name, small, tuple(self.sizes), self.beyond())

    def works(self, size: Number) -> bool:
        """Whether there is an instance of a small size, and an answer to it; below the study's sizes there need not."""
        if size >= min(self.sizes):
            self.judged(size)
            return True
        try:
            self.judge.expected(self.family.name, size, self.seed)
        except Failed:
            return False
        return True

    def judged(self, size: Number) -> None:
        """Try everything at one size. Raises FaultError."""
        took = math.inf
        found = []
        for _ in range(2):
            begun = time.monotonic()
            found.append(self.expected(size))
            took = min(took, time.monotonic() - begun)
        (instance, right), again = found
        if took > REFERENCE_S_MOST:
            raise FaultError(
                f"{self.reference}: the reference takes {took:.2g} s at n = {size:g} on {self.family.name}, where a "
                f"submission has {2 * REFERENCE_S_MOST:g} s: ask for smaller sizes, or write it faster"
            )
        if again[0] != instance:
            raise FaultError(
                f"{place_of_code(self.family.code, self.study_file)}: the family '{self.family.name}' makes two "
                f"different instances of one seed at n = {size:g}: take all chance from rng"
            )
        rule = self.study.agreement
        if self.study.judge is None and not answers.agree(right, again[1], rule.within, rule.unordered):
            raise FaultError(
                f"{self.reference}: the reference answers {answers.shown(right, 40)} and then "
                f"{answers.shown(again[1], 40)} to one instance (n = {size:g}, {self.family.name}): write a referee"
            )
        self.refereed(size, instance, right)

    def expected(self, size: Number) -> tuple[Any, Any]:
        """An instance with the right answer. Raises FaultError."""
        try:
            ((instance, right),) = self.judge.expected(self.family.name, size, self.seed)
        except Failed as failed:
            at = f"at n = {size:g} on {self.family.name}"
            if failed.is_late:
                raise FaultError(f"{self.reference}: the reference has no answer {at}: {failed.detail}") from None
            raise FaultError(f"{self.study_file.name}: {failed.detail or failed.reason} ({at})") from None
        return instance, right

    def refereed(self, size: Number, instance: Any, right: Any) -> None:
        """The referee must take the reference's own answer. Raises FaultError."""
        if self.study.judge is None:
            return
        where = place_of_code(self.study.judge, self.study_file)
        try:
            verdict = self.judge.verdict(instance, right)
        except Failed as failed:
            raise FaultError(f"{where}: the referee has no verdict at n = {size:g}: {failed.detail}") from None
        if verdict.detail:
            raise FaultError(f"{where}: the referee raises on a right answer (n = {size:g}): {verdict.detail}")
        if not verdict.right:
            shown = answers.shown(right, 60)
            raise FaultError(
                f"{where}: the referee refuses the reference's own answer {shown} (n = {size:g}, {self.family.name})"
            )

    def beyond(self) -> Number | None:
        """A size beyond the others, where the reference is quick there."""
        largest = self.sizes[-1]
        if self.study.axis != "size" or not isinstance(largest, int):
            return None
        size = round(largest * self.chance.uniform(*BEYOND))
        begun = time.monotonic()
        try:
            self.judge.expected(self.family.name, size, self.seed, limit=4 * BEYOND_S_MOST)
        except (Failed, MeasuringError):
            return None
        return size if time.monotonic() - begun <= BEYOND_S_MOST else None

    @property
    def reference(self) -> str:
        """Where the reference stands."""
        return place_of_code(self.judge.reference.code, self.study_file)


def place_of_code(code: Callable[..., Any], study_file: Path) -> str:
    """The file and line of a function; the study's file where that is not known."""
    inside = getattr(code, "__code__", None) or getattr(getattr(code, "build", None), "__code__", None)
    return study_file.name if inside is None else f"{Path(inside.co_filename).name}:{inside.co_firstlineno}"


def _line_in(study_file: Path, word: str) -> str:
    """The first line of a file that has a word."""
    with suppress(OSError, UnicodeDecodeError):
        for number, line in enumerate(study_file.read_text(encoding="utf-8").splitlines(), start=1):
            if word in line:
                return f"{study_file.name}:{number}"
    return study_file.name


def check_order(study_file: Path, reference: Contender, asked: str, orders: Mapping[str, Sequence[str]]) -> None:
    """Raise a StudyError where the reference itself grows faster than what is asked of all.

    Args:
        study_file: of the study.
        reference: what everyone is held against.
        asked: the order that is asked for.
        orders: by family, how the reference's work may grow.
    """
    for family, own in orders.items():
        if exceeds(asked, {family: own}):
            raise StudyError(
                f"{place_of_code(reference.code, study_file)}: the reference's own work grows as {own[0]} on {family}, "
                f"and {asked} is asked for"
            )
