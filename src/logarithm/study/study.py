"""What is asked: a study with its contenders, its families of instances and its sizes.

This module needs nothing but the standard library, because a worker process imports it beside the code under
study.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar, Unpack, overload

from ..errors import StudyError, guess, there
from ..notation.laws import Names
from ..notation.sizes import Number
from .checks import check
from .exercise.exercises import Exercises, elsewhere
from .exercise.marks import Asked
from .expressions import Expression
from .files.saved_instances import kept_instances
from .members import check_stages, first_line, found_by_name, name_of, put
from .options import FamilyWords, Options, Words, variants
from .parts import OPERATION, Agreement, Case, Contender, Family, Program, marked
from .run_options import Defaults
from .second import Sizes, read_sizes

Code = TypeVar("Code", bound=Callable[..., Any])

OF_PROGRAMS = ("claim", "baseline", "yardstick", "ceiling", "families", "sizes", "levels", "fails_from")
OF_EXPRESSIONS = ("claim", "baseline", "yardstick", "ceiling", "families", "sizes", "fails_from")
FORMATS = ("json", "lines", "csv", "text")


class Study(Exercises):
    """A question about several implementations of one job.

    Args:
        name: what the study is called; it names the logbooks too.
        question: the question in one sentence, shown above every report.
        sizes: such as "8..4096"; without them, they go on as far as ceiling and budget allow. Two sizes by their names:
            {"n": "64..65536 *4", "k": "1..4096 *4"}; families are then functions of (n, k, rng).
        varies: a second number that is not a size, by its name: {"share": "0..1 +0.1"}.

    """

    def __init__(
        self,
        name: str,
        question: str = "",
        sizes: Sizes | Mapping[str, Sizes] | None = None,
        varies: Mapping[str, Sizes] | None = None,
    ) -> None:
        if not isinstance(name, str) or not name.strip():
            raise StudyError('a study needs a name: Study("tide-tables")')
        self.name = name
        self.question = question
        self.axis = "size"
        self.sizes, self.second = read_sizes(sizes, varies)
        self.is_kept = True  # whether its file is still there after a run
        self.allowed: Callable[..., object] | None = None
        self.contenders: list[Contender] = []
        self.families: list[Family] = []
        self.agreement = Agreement()
        self.judge: Callable[[Any, Any], object] | None = None
        self.counted: tuple[str, ...] = ()
        self.asked: dict[str, Asked] = {}
        self.left_out: tuple[str, ...] = ()
        self.cases: list[Case] = []
        self.run_options: dict[str, Any] = {}
        self.ladder: tuple[str, ...] = ()
        self.mixes: dict[str, dict[str, float]] = {}
        self.file: Path | None = None
        written_in = sys._getframe(1).f_globals.get("__file__")  # a notebook has none
        self.folder = Path(written_in).resolve().parent if written_in else Path.cwd()

    @overload
    def family(self, code: Code, /, **words: Unpack[FamilyWords]) -> Code: ...

    @overload
    def family(self, /, **words: Unpack[FamilyWords]) -> Callable[[Code], Code]: ...

    def family(self, code: Any = None, /, **words: Unpack[FamilyWords]) -> Any:
        """Add a family: a function of a size and a seeded `random.Random` that returns an instance.

        Args:
            code: the function.
            name: what it is called, if not as the function.
            levels: values of its named parameters; each makes a variant.
            format: how programs in other languages get an instance: "json", "lines", "csv" or "text".
            keeps: whether a changed instance is still one of this family, for `logarithm worst`; ready ones are in
                `logarithm.keeps`: permutation, rising, distinct.
            change: makes a changed instance of an instance and a `random.Random`, for kinds that are not known.
        """
        form = words.get("format", "json")
        if form not in FORMATS:
            raise StudyError(f"instances cannot be written as format={form!r}: {there([*FORMATS])}")

        def add(function: Any) -> Any:
            called = name_of(function, words.get("name"), "family")
            checks = words.get("keeps"), words.get("change")
            for variant, values in variants(called, words.get("levels")):
                made = Family(variant, function, values, first_line(function), form, *checks)
                put(self.families, made, "families")
            return function

        return add if code is None else add(code)

    def family_from(
        self, file: str | Path, *, of: str | None = None, kind: str = "worst", name: str | None = None
    ) -> None:
        """Add a family of instances that `logarithm worst` has found.

        Args:
            file: the JSON that `logarithm worst --keep` wrote; a relative path is taken from the study's folder on.
            of: the contender whose worst instances these are; without it there is a family for each contender.
            kind: "worst" or "best".
            name: what the family is called, where there is one.

        Raises:
            StudyError: where the file cannot be read, or holds no such instances.
        """
        path = Path(file)
        if not path.is_absolute():
            path = self.folder / path
        for called, make in kept_instances(path, of, kind):
            self.family(make, name=name or called)

    @overload
    def contender(self, code: Code, /, *, name: str | None = None, **options: Unpack[Words]) -> Code: ...

    @overload
    def contender(self, /, *, name: str | None = None, **options: Unpack[Words]) -> Callable[[Code], Code]: ...

    def contender(self, code: Any = None, /, *, name: str | None = None, **options: Unpack[Words]) -> Any:
        """Add a contender: a function of an instance that returns an answer, or a class with stages.

        Args:
            code: the function, or a class with the methods `build(instance)`, `use(instance)` or `use()`, and, if it
                must undo what use did, `restore()`.
            name: what it is called, if not as the function.
            options: any of these.

                - claim: the order its author expects, or one for each family or stage: {"clumped": "n^2"}.
                - baseline: the others are compared with this one.
                - yardstick: shown for comparison, not ranked.
                - drain: False times the promise alone of a lazy result, which is then not ranked; else it is driven to
                  its end inside the timing.
                - finish: called with the answer inside the timing, to wait for work that ends elsewhere.
                - keep_gc: leave the garbage collector on inside the timing.
                - ceiling: the longest that one call of it may take, such as "2s".
                - families: the families it is measured on, if not all.
                - sizes: its own, if not the study's.
                - levels: values of its named parameters; each makes a variant, `grid[cell=4]`.
                - fails_from: "n > 1000" where it is expected to fail from there on, so that this stops no gate.
                - operations: of a class, the methods that are timed beside `build`, in place of `use`; instances are
                  then dicts: what it "holds", and for each operation the arguments it is called with. Methods under
                  `@study.operation` are operations too.
                - grow: the one of them by which an empty object gets, item by item, what an instance holds: a stage of
                  its own, `grow`, whose dearest step is told.
                - interpreter: another Python to run it under, such as "python3.13".

        Raises:
            StudyError: where an option cannot be used, or the name is taken.
        """
        read = Options.read(options, names=self.both)

        def add(function: Any) -> Any:
            called = name_of(function, name, "contender")
            own = read if read.operations else replace(read, operations=marked(function))
            check_stages(function, called, own)
            self._add(called, own, code=function, doc=first_line(function))
            return function

        return add if code is None else add(code)

    def program(
        self,
        name: str,
        *,
        command: Sequence[str] | None = None,
        worker: Sequence[str] | None = None,
        build: Sequence[str] = (),
        **options: Unpack[Words],
    ) -> None:
        """Add a program in any language as a contender.

        Args:
            name: what it is called.
            command: the arguments of a command, whose whole process is timed and whose standard output is the
                answer. {size}, {seed}, {file}, the names of both sizes where there are two, and the names of levels
                stand for their values; {build} is a folder for what is built.
            worker: the arguments of a worker, which is kept alive and times itself (docs/formats.md).
            build: the arguments of a command that builds it, run once.
            options: claim, baseline, yardstick, ceiling, families, sizes, levels, fails_from, as for any contender.

        Raises:
            StudyError: where it cannot be used.
        """
        if (command is None) == (worker is None):
            raise StudyError(f"the program '{name}' needs either command=[…] or worker=[…]")
        arguments = worker if command is None else command
        for given, what in ((arguments, "command"), (build, "build")):
            if isinstance(given, str) or not all(isinstance(part, str) for part in given or ()):
                raise StudyError(
                    f'the {what} of \'{name}\' must be a list of arguments, ["cc", "-O2", …]: no shell reads it'
                )
        if not arguments:
            raise StudyError(f"the command of '{name}' is empty: write a list of arguments")
        program = Program(tuple(arguments), command is None, tuple(build))
        read = Options.read(options, OF_PROGRAMS, self.both)
        self._add(name, read, code=elsewhere, doc=" ".join(arguments), program=program)

    def expression(
        self,
        name: str,
        text: str,
        *,
        space: Mapping[str, Any] | None = None,
        **options: Unpack[Words],
    ) -> None:
        """Add an expression as a contender: it is timed without a call, which would take longer than short ones do.

        Args:
            name: what it is called.
            text: one expression. Families give what it uses: a dict by the names, any other instance is called `x`.
            space: where names are looked up first; those of the study's file so far if that is not said.
            options: claim, baseline, yardstick, ceiling, families, sizes, fails_from, as for any contender.

        Raises:
            StudyError: where it is no expression, or cannot be used.
        """
        found = sys._getframe(1).f_globals if space is None else space
        made = Expression.of(text, found)
        read = Options.read(options, OF_EXPRESSIONS, self.both)
        self._add(name, read, code=made.function(), doc=made.text, expression=made)

    def _add(self, called: str, options: Options, **more: Any) -> None:
        """Add a contender for each combination of its levels."""
        for variant, values in variants(called, options.levels):
            made = Contender(name=variant, values=values, options=options, base=called if values else "", **more)
            put(self.contenders, made, "contenders")

    def agree(self, *, within: float = 0.0, unordered: bool = False) -> None:
        """Say how answers must agree: within a relative tolerance, or as sequences in any order."""
        if not 0 <= within < 1:
            raise StudyError(f"agree(within={within!r}) is not a tolerance: write a share such as 1e-9")
        self.agreement = Agreement(within, unordered)

    def referee(self, code: Code) -> Code:
        """Let a function of (instance, answer) say whether an answer is right, in place of comparing answers."""
        self.judge = code
        return code

    def where(self, code: Code) -> Code:
        """Let a function of both sizes say which points make sense; the others are not measured."""
        self.allowed = code
        return code

    def slices(self, values: Sequence[Number] | None = None) -> list[Family]:
        """The families as they are measured: of two sizes, each at every value of the second, or at some values."""
        second = self.second
        if second is None:
            return self.families
        return [made for family in self.families for made in second.slices(family, values)]

    @property
    def both(self) -> Names | None:
        """The names of both sizes, where there are two that costs may grow with."""
        return None if self.second is None or not self.second.is_size else (self.second.first, self.second.name)

    def allows(self, size: Number, second: Number | None) -> bool:
        """Whether a point of both sizes makes sense."""
        return self.allowed is None or second is None or bool(self.allowed(size, second))

    def count(self, *metrics: str) -> None:
        """Count beside timing: comparisons, reads, writes, swaps of instances, steps, memory, tallies of your own."""
        for metric in metrics:
            if not isinstance(metric, str) or not metric.strip() or metric == "time":
                raise StudyError('name what to count: study.count("comparisons"), or a tally of your own')
        self.counted = tuple(dict.fromkeys((*self.counted, *metrics)))

    def versions(self, *names: str) -> None:
        """Name contenders that were made one from another, the first one first: each step is told by what it brought.

        Raises:
            StudyError: where there are fewer than two.
        """
        if len(names) < 2 or not all(isinstance(name, str) for name in names):
            raise StudyError('versions are two contenders at least, by name: study.versions("first", "second")')
        self.ladder = names

    def operation(self, code: Code) -> Code:
        """Mark a method of a contender as an operation: it is timed by itself, as one that is named in operations."""
        setattr(code, OPERATION, True)
        return code

    def mix(self, name: str, **operations: float) -> None:
        """Say how often operations are called beside each other: study.mix("mostly reads", find=9, add=1).

        A mix is priced from its operations, and measured as it is.

        Raises:
            StudyError: where there are fewer than two, or a number is not above 0.
        """
        if len(operations) < 2 or not all(weight > 0 for weight in operations.values()):
            raise StudyError(f'mix "{name}" names two operations at least, each with how often: find=9, add=1')
        self.mixes[name] = dict(operations)

    def workload(self, file: str | Path) -> None:
        """Say which calls are really made: it is measured at their sizes, and costs are weighed by them.

        Args:
            file: sizes, one a line, or a CSV table with the columns size, count and, where there, family; a relative
                path is taken from the study's folder on.
        """
        path = Path(file)
        self.defaults(workload=str(path if path.is_absolute() else self.folder / path))

    def defaults(self, **options: Unpack[Defaults]) -> None:
        """Say options of its runs beforehand, such as budget="30s"; what is said at a run itself comes first."""
        for option in options:
            if option not in Defaults.__annotations__:
                raise StudyError(f"a run has no option '{option}': {there(list(Defaults.__annotations__), 20)}")
        self.run_options = {**self.run_options, **options}

    def remove(self, name: str) -> None:
        """Take a contender or family out again."""
        known = [*(each.name for each in self.contenders), *(each.name for each in self.families)]
        if name not in known:
            raise StudyError(f"the study has nothing named '{name}': {there(known)}{guess(name, known)}")
        self.contenders = [each for each in self.contenders if each.name != name]
        self.families = [each for each in self.families if each.name != name]

    def vary(self, name: str, values: str | Sequence[Number]) -> None:
        """Vary something other than the size: families are then called with its value in place of n."""
        if not name.strip():
            raise StudyError('vary needs the name of what is varied: study.vary("position", "0..99 +1")')
        self.axis = name
        self.sizes, self.second = read_sizes(values)

    def the_contender(self, name: str) -> Contender:
        """The contender of this name."""
        return found_by_name(self.contenders, name, "contender")

    def the_family(self, name: str) -> Family:
        """The family of this name, or a slice of one."""
        made = None if self.second is None else self.second.slice_of(self.families, name)
        return made or found_by_name(self.families, name, "family")

    def check_sizes(self, sizes: Sequence[Number] | None, name: str = "n") -> None:
        """Raise a StudyError where there are sizes that none is; on another axis any number will do."""
        if self.axis == "size" and sizes and min(sizes) <= 0:
            raise StudyError(f"the sizes have {name} = {min(sizes):g}: sizes are more than 0")

    def check(self) -> None:
        """Raise a StudyError where the parts do not fit each other; contenders get the mixes of their operations."""
        self.contenders[:] = [
            replace(each, mixes=self.mixes) if each.options.operations and each.mixes != self.mixes else each
            for each in self.contenders
        ]
        check(self)
