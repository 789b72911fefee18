"""One slice of a logbook of two sizes: what it holds at one value of the second, as a logbook of one size."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from ..errors import LogbookError, StudyError
from ..notation import laws
from .memory import Logbook
from .records import ContenderRecord


def at_second(logbook: Logbook, value: float) -> Logbook:
    """What a logbook of two sizes holds at one value of the second: a logbook of one size.

    Raises:
        LogbookError: where it has one size, or was not measured there.
    """
    slices = logbook.slices
    if not slices:
        raise LogbookError(f"{logbook.path} has one size only: leave the second one out")
    name = logbook.study.names[1]
    taken = {called: each for called, each in slices.items() if each.second == value}
    if not taken:
        there = ", ".join(f"{each:g}" for each in sorted({each.second for each in slices.values()}))
        raise LogbookError(f"{logbook.path} was not measured at {name} = {value:g}: there are {name} = {there}")
    names = {called: each.family for called, each in taken.items()}
    trials = logbook.trials
    codes = [code for code, key in enumerate(trials.keys) if key[1] in names]
    rows = np.isin(trials.series, codes)
    new = np.full(len(trials.keys), -1, dtype=np.int32)
    new[codes] = np.arange(len(codes), dtype=np.int32)
    columns: dict[str, Any] = {
        column: None if (cells := getattr(trials, column)) is None else cells[rows]
        for column in ("size", "heat", "process", "cost", "cpu", "pace", "calls", "during", "wall", "queued")
    }
    keys = [(key[0], names[key[1]], *key[2:]) for code, key in enumerate(trials.keys) if code in set(codes)]

    def own(records: list[Any]) -> list[Any]:
        """The records of these slices, and those that are of no family."""
        made = []
        for record in records:
            if record.family is None or record.family in names:
                whole = None if record.family is None else names[record.family]
                made.append(msgspec.structs.replace(record, family=whole, second=None))
        return made

    return replace(
        logbook,
        study=msgspec.structs.replace(logbook.study, names=[], seconds=[]),
        trials=replace(trials, keys=keys, series=new[trials.series[rows]], **columns),
        contenders=[in_one(record, (logbook.study.names[0], name)) for record in logbook.contenders],
        slices={},
        workload=None,
        hidden=own(logbook.hidden),
        lines=own(logbook.lines),
        failures=own(logbook.failures),
        notes=own(logbook.notes),
    )


def in_one(record: ContenderRecord, names: laws.Names) -> ContenderRecord:
    """A contender whose claims in both sizes are what they say of the first alone."""
    made = []
    for claim in record.claims:
        try:
            law = laws.parse(claim.order, names)
        except StudyError:
            made.append(claim)
        else:
            order = max((term.first for term in law.terms), key=lambda order: order.rank)
            made.append(msgspec.structs.replace(claim, order=str(order)))
    return msgspec.structs.replace(record, claims=made)
