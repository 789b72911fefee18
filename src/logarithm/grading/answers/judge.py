"""The judge, who makes instances, knows the right answers and says whether others are right; and who is judged.

It is a process that runs the instructor's code alone. Answers reach it as data, and no submission ever ran in it.
"""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any

from ...errors import StudyError, there
from ...notation.encoding import described, encoded
from ...notation.sizes import Number
from ...protocol import answers
from ...protocol.replies import Answered, Expected, ImportsFound, Judged
from ...protocol.requests import AnswerGiven, Expect, FindImports, Limits
from ...protocol.requests import Judge as Request
from ...study.exercise.marks import Asked
from ...study.parts import NO_ANSWER, Case, Contender
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.sandboxed import SandboxedWorker
from ...supervisor.worker import Worker
from ..handed_in import text_of

REQUEST_S_MOST = 20.0  # seconds for a request
NONSENSE = {
    "a number that is none (NaN)": ["float", "nan"],
    "nothing (None)": None,
    "a text that has nothing to do with it": "the tide is out",
    "an empty list": ["list", []],
}


def reference_of(study: Study, asked: Asked) -> Contender:
    """The solution that is right.

    Raises:
        StudyError: where there is none.
    """
    own = [each for each in study.contenders if each.source is None]
    if asked.reference:
        found = next((each for each in own if each.name == asked.reference), None)
        if found is None:
            raise StudyError(f"reference='{asked.reference}': {there([each.name for each in own])}")
        return found
    found = next((each for each in own if each.options.baseline), None)
    if found is None:
        raise StudyError("there is no reference: put @study.contender(baseline=True) above a solution that is right")
    return found


def handed_in_for(study: Study, asked: Asked) -> list[Contender]:
    """What was handed in for one function."""
    return [each for each in study.contenders if each.source is not None and each.source.function == asked.function]


def cases_for(study: Study, asked: Asked) -> list[Case]:
    """The fixed cases of one function."""
    return [each for each in study.cases if each.function in ("", asked.function)]


def sandboxed_of(
    study: Study,
    study_file: Path,
    contender: Contender,
    memory: float,
    trusted: bool,
    processor: int | None = None,
) -> SandboxedWorker:
    """A process with a submission's code, and nothing of the study but how its answers must agree."""
    assert contender.source is not None
    families = [family.name for family in study.families]
    text, hidden = text_of(contender.source), study_file.resolve().parent
    return SandboxedWorker(contender, text, families, study.agreement, hidden, memory, trusted, processor)


class Judge:
    """Instances, right answers and verdicts; where its process is lost, it is started anew.

    Args:
        study, study_file: what is asked.
        reference: the contender that is right.
        bounds: what its process must keep to.
    """

    def __init__(self, study: Study, study_file: Path, reference: Contender, bounds: Limits) -> None:
        self.study, self.study_file, self.reference, self.bounds = study, study_file, reference, bounds
        self._worker: Worker | None = None

    @property
    def worker(self) -> Worker:
        """The process."""
        if self._worker is None or not self._worker.alive:
            self.end()
            self._worker = Worker(self.study_file, self.reference, 1, self.bounds)
        return self._worker

    def expected(
        self, family: str, size: Number, seed: int, count: int = 1, limit: float = REQUEST_S_MOST
    ) -> list[tuple[Any, Any]]:
        """Instances with the right answers, both written down, within `limit` seconds.

        Raises:
            Failed: where the reference has no answer, or it cannot be written down.
        """
        reply = self.worker.ask(Expect(family, size, seed, count), Expected, limit)
        return list(zip(reply.instances, reply.answers, strict=True))

    def is_right(self, instance: Any, given: Any, expected: Any) -> bool:
        """Whether an answer is right, by the referee or beside the reference's."""
        try:
            given = answers.in_one_form(given)
        except ValueError:
            return False
        if answers.has_nan(given) and not answers.has_nan(expected):
            return False  # every comparison with it is false, so that referees often let it through
        if self.study.judge is None:
            rule = self.study.agreement
            return answers.agree(expected, given, rule.within, rule.unordered)
        try:
            return self.verdict(instance, given).right
        except Failed:
            return False

    def verdict(self, instance: Any, answer: Any) -> Judged:
        """What the referee says of an answer. Raises Failed."""
        return self.worker.ask(Request(instance, answer), Judged, REQUEST_S_MOST)

    def answer_to(self, candidate: Any) -> tuple[Any, Any]:
        """An instance that no family made, written down, and the right answer to it. Raises Failed, ValueError."""
        written = encoded(candidate)
        reply = self.worker.ask(AnswerGiven(written), Answered, REQUEST_S_MOST)
        if not reply.comparable:
            raise Failed("too large", "the answer has too many parts")
        return written, reply.answer

    def case(self, case: Case) -> tuple[Any, Any]:
        """The instance of a fixed case, and the right answer to it, both written down. Raises Failed, ValueError."""
        written, own = self.answer_to(case.instance)
        return written, own if case.answer is NO_ANSWER else described(case.answer)

    def imported(self, text: bytes) -> list[tuple[str, int]]:
        """The modules that a text imports, with their lines. Raises Failed."""
        return self.worker.ask(FindImports(text.decode("utf-8", "replace")), ImportsFound, REQUEST_S_MOST).imports

    def weaknesses(self, family: str, size: Number, seed: int) -> list[str]:
        """What the referee lets through although it is no answer to anything."""
        if self.study.judge is None:
            return []
        found = []
        with suppress(Failed):
            ((instance, right),) = self.expected(family, size, seed)
            for what, answer in NONSENSE.items():
                if not answers.agree(right, answer) and self.verdict(instance, answer).right:
                    found.append(what)
        return found

    def end(self) -> None:
        """Let the process go."""
        if self._worker is not None:
            self._worker.end()
