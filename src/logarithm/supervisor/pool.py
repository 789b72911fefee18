"""The workers of one process, asked by the names of their contenders."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..errors import MeasuringError
from ..protocol.requests import Calibrate, Limits, Timing
from ..study.parts import Contender
from ..study.study import Study
from .failed import Failed
from .programs.instances import InstanceFiles
from .programs.program import ProgramProcess
from .templates import Templates
from .validate import Kind
from .worker import Worker


class WorkerPool:
    """The workers of one process, one for each contender, started together and replaced where one is lost.

    `free` names who showed that it uses several processors; where there is one, nobody is kept to one. Those in Python
    are forked from `templates`, where there are any.
    """

    def __init__(
        self,
        study: Study,
        study_file: Path,
        contenders: list[Contender],
        hash_seed: int,
        limits: Limits,
        free: set[str],
        templates: Templates | None = None,
    ) -> None:
        self.study = study
        self.study_file = study_file
        self.hash_seed = hash_seed
        self.limits = limits
        self.free = free
        self.templates = templates
        self.instances = InstanceFiles(study)
        self.workers = {contender.name: self._start(contender) for contender in contenders}

    def end(self) -> None:
        """End every worker."""
        for worker in self.workers.values():
            worker.end()
        self.instances.end()

    def greet(self) -> None:
        """Wait until every worker is ready; one that is lost on the way is given a second start."""
        for name, worker in list(self.workers.items()):
            try:
                worker.greet()
            except MeasuringError as error:
                if not isinstance(error.__cause__, Failed):
                    raise
                self.workers[name] = self._start(worker.contender)
                self.workers[name].greet()

    def ask(self, contender: str, request: object, kind: type[Kind], limit: float, calls: int | None = None) -> Kind:
        """Ask a contender's worker; one that was lost, or that this process began without, is started."""
        worker = self.workers.get(contender)
        if worker is None or not worker.alive:
            if worker is not None:
                worker.end()
            worker = self.workers[contender] = self._start(self.study.the_contender(contender))
        reply = worker.ask(request, kind, limit, calls)
        if reply.helped and not self.free:
            # Whoever works in several threads or processes may use several processors. All are compared on the same,
            # so all are begun anew, and none is kept to one. What was timed on one is timed again: there its threads
            # stood in each other's way.
            self.free.add(contender)
            for each in self.workers.values():
                each.end()
            if isinstance(request, (Calibrate, Timing)):
                return self.ask(contender, request, kind, limit, calls)
        return reply

    def _start(self, contender: Contender) -> Worker | ProgramProcess:
        limits = replace(self.limits, processor=None) if self.free else self.limits
        if contender.program is not None:
            file = self.study_file if contender.revision is None else Path(contender.revision.file)
            folder = file.resolve().parent
            return ProgramProcess(self.study, folder, contender, limits, self.instances)
        return Worker(self.study_file, contender, self.hash_seed, limits, self.templates)
