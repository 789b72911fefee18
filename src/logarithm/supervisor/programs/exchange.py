"""What passes between a study and programs in other languages: instances as files, answers as text."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Sequence
from typing import Any

from ...errors import MeasuringError
from ...notation import encoding

OUTPUT_MOST = 16 * 2**20


def text_of(instance: Any, form: str) -> str:
    """An instance as text in its family's format.

    Args:
        instance: what the family made.
        form: json; lines, one value a line, the parts of a tuple with blanks between; csv, the same as RFC 4180 has it;
            text, as `str` has it.

    Raises:
        MeasuringError: where the instance cannot be written so.
    """
    try:
        if form == "json":
            return json.dumps(instance)
        if form == "text":
            return str(instance)
        write = _as_csv if form == "csv" else _as_lines
        return write([[_cell(part) for part in _parts(row)] for row in _rows(instance)])
    except (TypeError, ValueError) as error:
        raise MeasuringError(
            f"an instance of type {type(instance).__name__} cannot be written as {form}: {error}. "
            'Give the family another format=, one of "json", "lines", "csv", "text"'
        ) from None


def _rows(instance: Any) -> Iterable[Any]:
    if isinstance(instance, dict):
        return instance.items()
    return instance if isinstance(instance, Iterable) and not isinstance(instance, (str, bytes)) else [instance]


def _parts(row: Any) -> Sequence[Any]:
    return row if isinstance(row, (list, tuple)) else [row]


def _cell(part: Any) -> str:
    return repr(part) if isinstance(part, float) else str(part)


def _as_csv(rows: list[list[str]]) -> str:
    stream = io.StringIO()
    csv.writer(stream, lineterminator="\n").writerows(rows)
    return stream.getvalue()


def _as_lines(rows: list[list[str]]) -> str:
    for row in rows:
        if any("\n" in cell or " " in cell for cell in row):
            raise ValueError(f"the value {row!r} holds a line break or a blank")
    return "".join(" ".join(row) + "\n" for row in rows)


def read_answer(text: str) -> Any:
    r"""A program's answer as a written answer: JSON where it is JSON, else numbers, else text without outer blanks.

    >>> read_answer("0.25\n"), read_answer("1 2"), read_answer("calm sea")
    (0.25, ['list', [1, 2]], 'calm sea')
    """
    plain = text.strip()
    try:
        return encoding.described(json.loads(plain))
    except (ValueError, encoding.TooLargeError):
        pass
    numbers = [_number(word) for word in plain.split()]
    if numbers and all(number is not None for number in numbers):
        return numbers[0] if len(numbers) == 1 else ["list", numbers]
    return plain


def _number(word: str) -> float | int | None:
    for kind in (int, float):
        try:
            return kind(word)
        except ValueError:
            continue
    return None


def filled(command: Sequence[str], places: dict[str, str]) -> list[str]:
    """A command with {size}, {seed}, {file}, {build} and levels filled in, argument by argument; no shell reads it."""
    made = []
    for argument in command:
        for name, value in places.items():
            argument = argument.replace("{" + name + "}", value)
        made.append(argument)
    return made
