"""A part of a logbook: what it holds at one value of a second size, or of some contenders and families."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from ..errors import LogbookError, StudyError
from ..notation import laws
from .memory import Logbook, Trials
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
    kept = kept_trials(trials, codes)
    keys = [(key[0], names[key[1]], *key[2:]) for key in kept.keys]

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
        trials=replace(kept, keys=keys),
        contenders=[in_one(record, (logbook.study.names[0], name)) for record in logbook.contenders],
        slices={},
        workload=None,
        hidden=own(logbook.hidden),
        lines=own(logbook.lines),
        failures=own(logbook.failures),
        notes=own(logbook.notes),
    )


def part_of(logbook: Logbook, contenders: Collection[str] = (), families: Collection[str] = ()) -> Logbook:
    """What a logbook holds of some contenders and families, of all where none is named: a logbook of these alone."""

    def is_asked(contender: str | None, family: str | None) -> bool:
        whole = logbook.slices[family].family if family in logbook.slices else family
        return (not contenders or contender is None or contender in contenders) and (
            not families or whole is None or whole in families
        )

    if not contenders and not families:
        return logbook
    codes = [code for code, key in enumerate(logbook.trials.keys) if is_asked(key[0], key[1])]
    records: dict[str, Any] = {
        name: [each for each in getattr(logbook, name) if is_asked(each.contender, each.family)]
        for name in ("hidden", "lines", "failures", "notes")
    }
    return replace(
        logbook,
        trials=kept_trials(logbook.trials, codes),
        contenders=[each for each in logbook.contenders if not contenders or each.name in contenders],
        families=[each for each in logbook.families if not families or each.name in families],
        slices={name: each for name, each in logbook.slices.items() if not families or each.family in families},
        **records,
    )


def kept_trials(trials: Trials, codes: Sequence[int]) -> Trials:
    """The trials of some series, by their numbers."""
    rows = np.isin(trials.series, codes)
    new = np.full(len(trials.keys), -1, dtype=np.int32)
    new[list(codes)] = np.arange(len(codes), dtype=np.int32)
    columns: dict[str, Any] = {
        column: None if (cells := getattr(trials, column)) is None else cells[rows]
        for column in ("size", "heat", "process", "cost", "cpu", "pace", "calls", "during", "wall", "queued")
    }
    keys = [trials.keys[code] for code in codes]
    return replace(trials, keys=keys, series=new[trials.series[rows]], **columns)


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
