"""The parts of a study: families, contenders, and what stands behind a contender that is no function.

This module needs nothing but the standard library, because a worker process imports it beside the code under
study.
"""

from __future__ import annotations

import inspect
import random
import traceback
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..errors import FamilyError, one_line
from ..notation.sizes import Number
from .expressions import Expression
from .options import Options

STAGES = ("build", "use")
OPERATION = "_is_operation"  # marks a method that is one
GROW = "grow"  # the stage in which an empty object gets item after item of what an instance holds
HOLDS = "holds"  # what an object of operations is built from, in an instance of them


@dataclass(frozen=True, slots=True)
class Family:
    """A named way to make an instance of a given size from a seed.

    `keeps` says whether a changed instance is still one of this family, and `change` makes one; both for searching.
    A slice of a family of two sizes is that at one value of the `second`; `whole` is then the name of the family. Its
    code may be `of_both` sizes; where it takes the first one alone, the second stands beside what it makes.
    """

    name: str
    code: Callable[..., Any]
    values: Mapping[str, Any] = field(default_factory=dict)
    doc: str = ""
    form: str = "json"
    keeps: Callable[[Any], bool] | None = None
    change: Callable[[Any, random.Random], Any] | None = None
    whole: str = ""
    second: Number | None = None
    of_both: bool = True

    def instance(self, size: Number, seed: int) -> Any:
        """The instance of this size and seed: the same one in every process.

        Raises:
            FamilyError: where the family's code raises, with its file and line.
        """
        rng = random.Random(f"{self.name}/{size}/{seed}")
        try:
            made = self._made(size, rng)
            return drawn(made, rng) if is_strategy(made) else made
        except Exception as error:  # families are users' code, and may raise anything
            raise FamilyError(
                f"the family '{self.name}' fails at n = {size}, seed {seed}: {place_of(error)}"
            ) from error

    def is_drawn(self, size: Number) -> bool:
        """Whether its instances are drawn from a strategy."""
        return is_strategy(self._made(size, random.Random(0)))

    def _made(self, size: Number, rng: random.Random) -> Any:
        if self.second is None:
            return self.code(size, rng, **self.values)
        if self.of_both:
            return self.code(size, self.second, rng, **self.values)
        return self.code(size, rng, **self.values), self.second


def place_of(error: BaseException) -> str:
    """An exception in a line, with the file and the line that it came from."""
    every = traceback.extract_tb(error.__traceback__)[1:]
    # Python's own and other people's libraries are not where it is to be corrected.
    library = str(Path(traceback.__file__).parent)
    frames = [each for each in every if not each.filename.startswith(library)] or every
    told = one_line(f"{type(error).__name__}: {error}".rstrip(": "), 160)
    return f"{told} ({Path(frames[-1].filename).name}:{frames[-1].lineno})" if frames else told


def is_strategy(made: Any) -> bool:
    """Whether a family gives a strategy of Hypothesis in place of an instance."""
    return type(made).__module__.startswith("hypothesis.") and hasattr(made, "example")


def drawn(strategy: Any, rng: random.Random) -> Any:
    """An instance from a strategy; the same chance gives the same one."""
    from hypothesis import HealthCheck, Phase, given, seed, settings

    values: list[Any] = []

    @seed(rng.getrandbits(60))
    @settings(
        max_examples=12,
        database=None,
        deadline=None,
        phases=[Phase.generate],
        suppress_health_check=[*HealthCheck],
    )
    @given(strategy)
    def take(value: Any) -> None:
        values.append(value)

    take()
    # The first ones are the simplest there are.
    return values[-1]


@dataclass(frozen=True, slots=True)
class Program:
    """A program in any language: the arguments it is started with, never read by a shell, and how it is built."""

    arguments: tuple[str, ...]
    is_worker: bool
    build: tuple[str, ...] = ()

    @property
    def tools(self) -> tuple[str, ...]:
        """What must be installed for it, as far as it is looked for on the search path."""
        firsts = [each[0] for each in (self.build, self.arguments) if each]
        return tuple(dict.fromkeys(tool for tool in firsts if "/" not in tool and "{" not in tool))


LANGUAGES = {".c": "C", ".js": "JavaScript", ".java": "Java"}


@dataclass(frozen=True, slots=True)
class Source:
    """A file that somebody handed in, and the function in it; it is only ever run in a process of its own.

    It must lie in `folder`, where that is said. Of a class there are `operations`, its methods.
    How `late` it came is told where that is known, and which `person` or group it is of.
    """

    file: str
    function: str
    folder: str = ""
    operations: tuple[str, ...] = ()
    late: str = ""
    person: str = ""

    @property
    def language(self) -> str:
        """The language that it is written in, where that is not Python; else empty.

        >>> Source("handed-in/anna.java", "best").language, Source("handed-in/anna.py", "best").language
        ('Java', '')
        """
        return LANGUAGES.get(self.file[self.file.rfind(".") :], "")


@dataclass(frozen=True, slots=True)
class Case:
    """A fixed instance that is asked of everyone who handed in, with what it is worth.

    Attributes:
        name: what it is called.
        instance: the input.
        answer: the right answer; NO_ANSWER for what the reference answers.
        marks: what a right answer is worth.
        is_shown: whether students see it beforehand, in the hand-out.
        function: which one it is for; empty for any.
    """

    name: str
    instance: Any
    answer: Any
    marks: float
    is_shown: bool
    function: str = ""


NO_ANSWER = object()


@dataclass(frozen=True, slots=True)
class Revision:
    """A contender's code as it is at another commit.

    Attributes:
        label: how users called the revision.
        commit: its 40 digits.
        file: today's study, in a copy of the project as it is there.
        paths: where modules are looked for first.
        of: the contender's name in the study.
        beside: the later contender that it is compared with; today's where there is none.
    """

    label: str
    commit: str
    file: str
    paths: tuple[str, ...]
    of: str
    beside: str = ""


@dataclass(frozen=True, slots=True)
class Contender:
    """One implementation of the job, with what its author says of it. `values` are those of this variant of `base`."""

    name: str
    code: Callable[..., Any]
    values: Mapping[str, Any] = field(default_factory=dict)
    options: Options = field(default_factory=Options)
    doc: str = ""
    program: Program | None = None
    source: Source | None = None
    require: str | None = None
    revision: Revision | None = None
    expression: Expression | None = None
    mixes: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    base: str = ""

    @property
    def stages(self) -> tuple[str | None, ...]:
        """The separately timed parts: of a class `build` and `use`, or its operations and their mixes; else one."""
        if self.options.operations:
            grow = (GROW,) if self.options.grow else ()
            return ("build", *self.options.operations, *grow, *self.mixes)
        return STAGES if inspect.isclass(self.code) else (None,)

    @property
    def counted_stages(self) -> tuple[str | None, ...]:
        """Those whose work can be counted: a call of a mix is now one operation, now another."""
        return tuple(stage for stage in self.stages if stage not in self.mixes)

    def claim(self, family: str, stage: str | None) -> str | None:
        """The order claimed for a family and stage; the more particular claim wins."""
        for where in (family, stage, None):
            for claim in self.options.claims:
                if claim.where == where and (where is not None or stage != "build" or "build" not in self.stages):
                    return claim.order
        return None


def marked(code: Any) -> tuple[str, ...]:
    """The methods of a class that are marked as operations, in the order of its text."""
    return tuple(name for name, each in vars(code).items() if hasattr(each, OPERATION)) if inspect.isclass(code) else ()


@dataclass(frozen=True, slots=True)
class Agreement:
    """How answers must agree: numbers `within` a relative tolerance, sequences in any order when `unordered`."""

    within: float = 0.0
    unordered: bool = False
