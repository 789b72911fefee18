"""A cluster: the distributed scheduler of Dask, one that runs already or one that is started here.

What can be done without a clock is spread freely. What is timed needs the resource `clock`, of which each machine has
one, and runs while nothing else of ours does. A job whose worker is lost is done again elsewhere; one that takes three
workers down is lost itself, and no other with it.
"""

from __future__ import annotations

import logging
import os
import socket
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import msgspec

from ..errors import MeasuringError, one_line
from ..run.executor import Function, Lost
from ..study.study import Study
from ..version import __version__
from .bundle import packed
from .tasks import done, versions

CLOCK = "clock"
RETRIES = 2  # of a job whose function fails by no fault of the contender
ALLOWED_FAILURES = 2  # of workers by one job, and it is not tried again
ANSWERING = 5.0  # seconds for a scheduler to answer
STARTING = 30.0  # seconds for the first worker to come
# seconds between looks at what is done, at who is there; and until one is gone
WAITING, LOOKING, GONE = 0.05, 5.0, 30.0
NOWHERE: Mapping[Any, str] = {}


class Forgotten(Lost):
    """A job that the scheduler gave up, because what it works on is no longer there."""


class Cluster:
    """Does jobs on the workers of a scheduler."""

    def __init__(self, client: Any, study: Study, study_file: Path) -> None:
        self.client = client
        pack = packed(study, study_file)
        self.packed = msgspec.msgpack.encode(pack)
        self.pack = client.scatter(self.packed, broadcast=True)
        self.digest = pack.digest

    @property
    def clocks(self) -> int:
        """How many machines there are to time on."""
        return len(self.machines())

    @property
    def places(self) -> int:
        """How many jobs are done at once."""
        return sum(self.client.nthreads().values()) or 1

    def machines(self) -> dict[str, str]:
        """The workers that have a clock, by address, with the name of their machine.

        Raises:
            MeasuringError: where there is none.
        """
        workers = self.client.scheduler_info(n_workers=-1)["workers"]
        found = {each: about["host"] for each, about in workers.items() if about.get("resources", {}).get(CLOCK)}
        if not found:
            raise MeasuringError(
                "no worker of the cluster has a clock: start one on each machine with --resources clock=1"
            )
        return found

    def each(
        self, function: Function, jobs: Sequence[Any], kind: Any, alone: bool = False
    ) -> Iterator[tuple[Any, Any]]:
        """Each job with what came of it, or why nothing did."""
        if alone:
            self.machines()
        left, tries = list(jobs), 0
        while left:
            lost = []
            for job, came in self._gathered({self._sent(function, job, alone): job for job in left}, kind):
                if isinstance(came, Forgotten) and tries < RETRIES:
                    lost.append(job)
                else:
                    yield job, came
            if lost:  # the only worker that had the study is gone: the others get it anew
                self.pack = self.client.scatter(self.packed, broadcast=True)
            left, tries = lost, tries + 1

    def on_each_machine(self, function: Function, job: Any, kind: Any) -> Iterator[tuple[str, Any]]:
        """The same job once on each machine, with the address of its worker; two workers of a machine are one."""
        by_host = {host: address for address, host in reversed(self.machines().items())}
        sent = {self._sent(function, job, True, address): address for address in by_host.values()}
        yield from self._gathered(sent, kind, sent)

    def _sent(self, function: Function, job: Any, alone: bool, address: str | None = None) -> Any:
        name = f"{function.__module__}:{function.__qualname__}"
        return self.client.submit(
            done,
            name,
            self.pack,
            msgspec.json.encode(job),
            pure=False,
            retries=RETRIES,
            resources={CLOCK: 1} if alone else None,
            workers=[address] if address else None,
        )

    def _gathered(
        self, sent: dict[Any, Any], kind: Any, places: Mapping[Any, str] = NOWHERE
    ) -> Iterator[tuple[Any, Any]]:
        """What came of each job; lost is one whose worker, of `places` by job, has been gone for half a minute."""
        pending, gone, looked = set(sent), dict[Any, float](), time.monotonic()
        while pending:
            finished = {each for each in pending if each.done()}
            for future in finished:
                yield sent[future], _result_of(future, kind)
            pending -= finished
            if not finished:
                time.sleep(WAITING)
            if not pending or time.monotonic() - looked < LOOKING:
                continue
            looked = time.monotonic()
            there = self.client.scheduler_info(n_workers=-1)["workers"]
            for future in [each for each in pending if not there or places.get(each, next(iter(there))) not in there]:
                if time.monotonic() - gone.setdefault(future, time.monotonic()) > GONE:
                    future.cancel()
                    pending.discard(future)
                    yield sent[future], Lost("its worker is gone, and has not come back")


def _result_of(future: Any, kind: Any) -> Any:
    """What came of a job that is done, or why nothing did."""
    try:
        return msgspec.json.decode(future.result(), type=kind)
    except Exception as error:  # whatever a cluster may raise is the end of this job only
        reason = str(error)
        if type(error).__name__ == "KilledWorker":
            reason = "it ended the process that looked at it, three times"
        made = Forgotten if type(error).__name__ in ("CancelledError", "FutureCancelledError") else Lost
        return made(one_line(reason, 200))


@contextmanager
def cluster(address: str, study: Study, study_file: Path) -> Iterator[Cluster]:
    """A cluster at an address, or one of this machine's processors where the address is "local".

    Raises:
        MeasuringError: where the extra is not installed, nobody answers, or versions differ.
    """
    try:
        import distributed as installed
    except ImportError:
        raise MeasuringError("--on needs the extra for clusters: pip install 'logarithm-cli[cluster]'") from None
    distributed: Any = installed
    logging.getLogger("distributed").setLevel(logging.CRITICAL)  # what matters is told in our own words
    local = None
    try:
        if address == "local":
            local = _local(distributed)
        else:
            _check_address(address)
        try:
            client = distributed.Client(local or address, timeout=STARTING, set_as_default=False)
            client.wait_for_workers(1, timeout=STARTING)
        except (OSError, TimeoutError, ValueError) as error:
            raise MeasuringError(f"no cluster answers at {address}: {one_line(error, 100)}") from None
        with client:
            _check_versions(client)
            yield Cluster(client, study, study_file)
    finally:
        if local is not None:
            local.close()


def _check_address(address: str) -> None:
    """Refuse at once what nobody listens at.

    Raises:
        MeasuringError: where that is so.
    """
    host, _, port = address.split("://")[-1].rpartition(":")
    try:
        socket.create_connection((host.strip("[]"), int(port)), timeout=ANSWERING).close()
    except (OSError, ValueError, OverflowError) as error:
        how = "write for example --on tcp://first:8786" if not host else one_line(error, 100)
        raise MeasuringError(f"no cluster answers at {address}: {how}") from None


def _local(distributed: Any) -> Any:
    """A worker process for each processor; one of them has the clock."""
    many = max(2, os.cpu_count() or 1)
    plain = {"nthreads": 1, "dashboard": False, "silence_logs": 50}
    workers = {
        number: {
            "cls": distributed.Nanny,
            "options": {**plain, **({"resources": {CLOCK: 1}} if number == 0 else {})},
        }
        for number in range(many)
    }
    options = {"port": 0, "dashboard": False, "allowed_failures": ALLOWED_FAILURES}
    scheduler = {"cls": distributed.Scheduler, "options": options}
    return distributed.SpecCluster(workers=workers, scheduler=scheduler, silence_logs=50)


def _check_versions(client: Any) -> None:
    own = versions()
    for address, there in client.run(versions).items():
        if there != own:
            raise MeasuringError(
                f"the worker at {address} has {' and '.join(there)}, and here it is {' and '.join(own)}: "
                f"install logarithm-cli {__version__} and the same Python there"
            )
