"""The worker's side of code that was handed in: in a sandbox, with its own file and instances that are given.

Neither the study nor its reference, referee or families are in this process. What it replies is data that the
supervisor judges elsewhere, and what it says of itself is held against what the supervisor sees from outside.
"""

from __future__ import annotations

import base64
import inspect
import json
import os
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ...errors import LogarithmError, StudyError
from ...notation.encoding import decoded
from ...notation.sizes import Number
from ...protocol import clock
from ...protocol.replies import Failure
from ...protocol.requests import NO_SANDBOX, Case, Limits
from ...study.files.loading import functions_of, last_line
from ...study.parts import LANGUAGES, Contender, Family
from ...study.study import Study
from ..limits import bound_memory, die_with_parent, fence, private_streams
from ..serve import say, serve_all
from ..timing.bench import Bench
from .languages import function_in
from .namespaces import NotPossibleError, enter_sandbox, pythons_own

KEPT_MOST = 64
PLAYED = """

def {name}(calls):
    made = {function}()
    return [getattr(made, operation)(*given) for operation, *given in calls]
"""
"""Stands below the text of a class, so that its work is counted as that of any function is."""


@dataclass(frozen=True, slots=True)
class Given(Family):
    """A family of instances that are given, not made."""

    kept: dict[tuple[Number, int], Any] = field(default_factory=dict)

    def instance(self, size: Number, seed: int) -> Any:
        """The instance that was given for this size and seed, anew each time."""
        return decoded(self.kept[size, seed])

    def keep(self, size: Number, seed: int, written: Any) -> None:
        """Keep one; the oldest make room."""
        self.kept[size, seed] = written
        while len(self.kept) > KEPT_MOST:
            del self.kept[next(iter(self.kept))]


def main() -> None:
    """Read what the case is, go into the sandbox, load the code, and serve requests."""
    die_with_parent()
    requests, replies = private_streams()
    told = json.loads(requests.readline())
    del told["kind"]
    case = Case(**told)
    limits = Limits(**case.limits)
    if case.sandboxed:
        try:
            enter_sandbox(case.room, case.hidden, pythons_own())
        except NotPossibleError as error:
            return say(replies, Failure(reason="SandboxError", detail=f"{NO_SANDBOX}: {error}"))
    else:
        os.chdir(case.room)
    file = Path(case.file)
    text, function = base64.b64decode(case.text), case.function
    if case.operations and file.suffix not in LANGUAGES:
        function = f"calls_of_{case.function}"
        text += PLAYED.format(name=function, function=case.function).encode()
    file.write_bytes(text)
    bound_memory(limits)
    fence(limits, case.sandboxed)
    clock.disable_gc()
    try:
        other = function_in(file, case.function) if file.suffix in LANGUAGES else None
        code = other or functions_of(file, [function], importable=False)[0]
        if case.operations:
            _check_methods(vars(inspect.getmodule(code)).get(case.function), file, case)
        study = Study(case.name)
        study.contenders = [Contender(case.name, code)]
        study.families = [Given(name, code) for name in case.families]
        study.agree(within=case.within, unordered=case.unordered)
        bench = Bench(study, study.contenders[0], limits.room)
        bench.hand_over = other and other.hand_over
    except LogarithmError as error:
        return say(replies, Failure(reason="StudyError", detail=str(error)))
    return serve_all(bench, limits, requests, replies, lambda error: with_line(error, file))


def _check_methods(kind: Any, file: Path, case: Case) -> None:
    """Raise a StudyError where a class, or a method of it, is not there."""
    if not isinstance(kind, type):
        raise StudyError(f"{file}: no class '{case.function}'")
    for name in case.operations:
        if not callable(getattr(kind, name, None)):
            raise StudyError(f"{file}: {case.function} has no method '{name}'")


def with_line(error: BaseException, file: Path) -> str:
    """An exception with the last line of the submission's file that it came through."""
    line = last_line(error, file)
    return f"{error} (line {line})".strip() if line else str(error)


if __name__ == "__main__":
    main()
