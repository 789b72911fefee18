"""The pace during a long trial, read in the thread that works.

A trial of half a second goes through slow and quick moments that its two ends do not show. A second process cannot
read them for it: each core of a shared machine has slow moments of its own. So a timer interrupts the trial, and the
pace is read on the spot. The timer counts processor time, which leaves a contender that sleeps alone; its signal is
one that programs hardly use. What reading takes is told, so that it can be taken off the trial.
"""

from __future__ import annotations

import signal
from types import TracebackType
from typing import Any

from ...protocol import clock

EVERY = 0.01  # seconds of processor time from one reading to the next
LONG = 20_000_000  # nanoseconds: shorter trials are known by their ends
SEEN_LEAST = 0.5  # of the readings there should be: compiled code that is not interrupted hides the others


class SpeedReadings:
    """Reads the pace now and then while it is entered. `spent`: nanoseconds that all readings took so far."""

    def __init__(self) -> None:
        self.readings: list[int] = []
        self.spent = 0
        self.former: Any = None

    def __enter__(self) -> SpeedReadings:
        self.readings.clear()
        if hasattr(signal, "setitimer"):
            self.former = signal.signal(signal.SIGVTALRM, self._read)
            signal.setitimer(signal.ITIMER_VIRTUAL, EVERY, EVERY)
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        if hasattr(signal, "setitimer"):
            signal.setitimer(signal.ITIMER_VIRTUAL, 0)
            signal.signal(signal.SIGVTALRM, self.former or signal.SIG_DFL)

    def _read(self, number: int, frame: object) -> None:  # noqa: ARG002
        # In processor time: where others had the processor meanwhile, that is in the queue of the trial.
        begun = clock.busy_here()
        self.readings.append(clock.pace())
        self.spent += clock.busy_here() - begun

    def over(self, own: float) -> int:
        """The pace over a trial of so many nanoseconds of its own; 0 where too little of it was seen.

        Readings come at equal times, and work done in a time is the less the longer a fixed piece of it takes: so
        their harmonic mean.
        """
        if own < LONG or len(self.readings) < max(2.0, SEEN_LEAST * own * clock.NANO / EVERY):
            return 0
        return round(len(self.readings) / sum(1 / each for each in self.readings))
