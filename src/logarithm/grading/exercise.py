"""What students get of an exercise, and their own look at what they have before they hand it in.

The exercise holds what is asked, the cases that are shown with their answers, and samples of each family; neither the
reference nor its answers to anything else. Whoever checks with it is told in the same words as later.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

import msgspec

from ..errors import LogarithmError, MeasuringError, StudyError, counted, harmless, one_line
from ..logbook.memory import LogbookBuilder
from ..logbook.records import AnyRecord, Assessed, ContenderRecord, Failure, FamilyRecord, Note, StudyRecord, Trial
from ..notation.encoding import decoded, encoded
from ..notation.metrics import WORK
from ..notation.sizes import fixed
from ..protocol import answers
from ..protocol.replies import Answered, Counted, Done
from ..protocol.requests import AnswerGiven, Count, Give
from ..results.tasks.exercise import Exercise, Sample, ShownCase, Task
from ..results.tasks.grades import Grade, SelfCheck
from ..study.exercise.handed_in import imported, rule_broken, shown_name
from ..study.exercise.marks import Asked
from ..study.parts import Agreement, Contender, Family, Source
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from ..supervisor.sandboxed import SandboxedWorker
from .answers.inspect import FOREIGN
from .answers.judge import Judge, cases_for, handed_in_for, reference_of
from .answers.shrink import CEILING
from .grades import Worth, grades_of
from .handed_in import text_of
from .plan import PlanJob, plan_of

SAMPLES, PARTS_MOST = 8, 20_000  # sizes of each family of which there is a sample, and parts of all its samples
SEED = 1  # of the samples
STEPS_LONGEST, MEMORY = 4.0, 2**30


def exercise_of(study: Study, study_file: Path) -> Exercise:
    """What students get of a study.

    Raises:
        StudyError: where nothing is asked of anyone, or something of the instructor's is at fault.
    """
    if not study.asked:
        raise StudyError('nothing is asked for: write study.submissions("handed-in/*.py", function="…") in the study')
    endings = sorted({Path(each.source.file).suffix for each in study.contenders if each.source is not None})
    return Exercise(
        name=study.name,
        question=study.question,
        endings=endings,
        within=study.agreement.within,
        unordered=study.agreement.unordered,
        refereed=study.judge is not None,
        tasks=[_task(study, study_file, asked) for asked in study.asked.values()],
    )


def _task(study: Study, study_file: Path, asked: Asked) -> Task:
    plan = plan_of(study, study_file, PlanJob(MEMORY, 1, asked.function))
    if plan.fault:
        raise StudyError(plan.fault)
    judge = Judge(study, study_file, reference_of(study, asked), limits(2, MEMORY))
    cases = cases_for(study, asked)
    try:
        shown = [ShownCase(each.name, *judge.case(each), each.marks) for each in cases if each.is_shown]
    finally:
        judge.end()
    families = [study.the_family(each.name) for each in plan.families]
    return Task(
        function=asked.function,
        operations=list(asked.operations),
        require=next((each.require for each in handed_in_for(study, asked) if each.require), ""),
        imports=None if asked.imports is None else list(asked.imports),
        marks=asked.marks,
        families={each.name: each.doc for each in families},
        cases=shown,
        hidden=sum(not each.is_shown for each in cases),
        samples=_samples(study, families),
    )


def _samples(study: Study, families: Sequence[Family]) -> list[Sample]:
    """Instances of each family, from small to as large as a page can carry."""
    made = []
    for family in families:
        sizes = fixed(study.sizes) or (8, 16, 32, 64, 128, 256)
        room = PARTS_MOST
        for size in dict.fromkeys(sizes[round(at * (len(sizes) - 1) / (SAMPLES - 1))] for at in range(SAMPLES)):
            room -= int(size)
            if room > 0:
                made.append(Sample(family.name, size, encoded(family.instance(size, SEED))))
    return made


def read_exercise(path: Path) -> Exercise:
    """The exercise in a file.

    Raises:
        LogarithmError: where it is none.
    """
    try:
        return msgspec.json.decode(path.read_bytes(), type=Exercise)
    except FileNotFoundError:
        raise LogarithmError(
            f"{path}: there is no such exercise; name the file of the hand-out: --exercise FILE"
        ) from None
    except (OSError, msgspec.MsgspecError) as error:
        raise LogarithmError(f"{path} is no exercise of a hand-out: {one_line(error)}") from None


def self_check(exercise: Exercise, file: Path) -> SelfCheck:
    """What can be said of a file before it is handed in: the cases that are shown, and how its work grows.

    Raises:
        LogarithmError: where the file cannot be read.
    """
    rows: list[Grade] = []
    for task in exercise.tasks:
        name = shown_name(file.stem) + (f": {task.function}" if rows else "")
        source = Source(str(file), task.function, operations=tuple(task.operations))
        contender = Contender(name, len, source=source, doc=shown_name(file.name))
        own = ContenderRecord(name=name, doc=contender.doc, handed_in=True, require=task.require or None)
        own.function, own.person = task.function, shown_name(file.stem)
        builder = LogbookBuilder(Path(exercise.name))
        builder.add([StudyRecord(name=exercise.name, question=exercise.question), own])
        builder.add([FamilyRecord(name=each) for each in task.families])
        builder.add(_Check(exercise, task, contender).all(text_of(source)))
        builder.add([Assessed(contender=name)])
        worth = Worth(cases={each.name: each.marks for each in task.cases})
        rows += grades_of(builder.logbook(), {task.function: worth})
    for row in rows:
        row.marks = None
    hidden = sum(task.hidden for task in exercise.tasks)
    more = f"{counted(hidden, 'further case')}, " if hidden else ""
    left = f"Not looked at here: {more}answers on larger inputs, and time."
    return SelfCheck(exercise.name, exercise.question, "", rows, [left])


class _Check:
    """One look at one function of an own file. It is the student's own machine: nothing keeps the code apart."""

    def __init__(self, exercise: Exercise, task: Task, contender: Contender) -> None:
        self.exercise, self.task, self.contender = exercise, task, contender
        self.seen: list[AnyRecord] = []

    def all(self, text: bytes) -> list[AnyRecord]:
        """Rules, cases, and work."""
        exercise, language = self.exercise, self.contender.source.language if self.contender.source else ""
        if not language and (broken := rule_broken(imported(text.decode("utf-8", "replace")), self.task.imports)):
            self.note("rule", broken)
            return self.seen
        agreement = Agreement(exercise.within, exercise.unordered)
        families, folder = list(self.task.families), Path.cwd()
        worker = SandboxedWorker(self.contender, text, families, agreement, folder, MEMORY, trusted=True)
        try:
            worker.greet()
            right = [self.is_right(worker, case, agreement) for case in self.task.cases]
            if language:
                self.note("foreign", FOREIGN.format(language))
            elif all(right):
                self.count(worker)
        except (Failed, MeasuringError) as error:
            self.note("broken", str(error).removeprefix(f"the worker of '{self.contender.name}' did not start: "))
        finally:
            worker.end()
        return self.seen

    def is_right(self, worker: SandboxedWorker, case: ShownCase, agreement: Agreement) -> bool:
        """Whether the answer to a case is right."""
        try:
            given = answers.in_one_form(worker.ask(AnswerGiven(case.instance), Answered, CEILING).answer)
            is_right = answers.agree(case.answer, given, agreement.within, agreement.unordered)
            shown, right = answers.shown(given, 60), answers.shown(case.answer, 60)
            told = f"answers {shown} to {one_line(repr(decoded(case.instance)), 120)}, where {right} is right"
            why = "" if is_right else told
            if not is_right and self.exercise.refereed:
                why, is_right = "", True  # another answer may be right, too
        except Failed as failed:
            why, is_right = one_line(f"{failed.reason}: {failed.detail}".rstrip(": ")), False
        except ValueError:
            why, is_right = "answers nothing that can be compared", False
        self.seen.append(
            Note(topic="case", text=one_line(harmless(why)), contender=self.contender.name, cause=case.name)
        )
        return is_right

    def count(self, worker: SandboxedWorker) -> None:
        """The work on each sample, as far as that is quick."""
        late: set[str] = set()
        for number, sample in enumerate(self.task.samples, start=1):
            if sample.family in late:
                continue
            try:
                worker.ask(Give(sample.family, sample.size, number, sample.instance), Done, CEILING)
                asked = Count(sample.family, sample.size, number, None, "lines")
                reply = worker.ask(asked, Counted, STEPS_LONGEST)
            except Failed as failed:
                late.add(sample.family)
                if not failed.is_late:
                    made = Failure(
                        contender=self.contender.name, family=sample.family, size=sample.size, reason="", detail=""
                    )
                    made.reason, made.detail = failed.reason, failed.detail
                    self.seen.append(made)
                continue
            for metric in ("steps", WORK):
                trial = Trial(self.contender.name, sample.family, sample.size, 1, metric=metric)
                with suppress(KeyError):
                    trial.value = reply.values["steps" if metric == "steps" else "work"]
                    self.seen.append(trial)

    def note(self, topic: str, text: str) -> None:
        """Take down what is to be said."""
        self.seen.append(Note(topic=topic, text=one_line(harmless(text)), contender=self.contender.name))
