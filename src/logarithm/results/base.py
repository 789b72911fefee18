"""What all results share: a JSON form, a table, and whoever shows them."""

from __future__ import annotations

import dataclasses
import types
from collections.abc import Iterable
from dataclasses import is_dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Protocol, Union, get_args, get_origin, get_type_hints

import msgspec

from ..errors import LogarithmError, there

if TYPE_CHECKING:
    import pandas as pd


class Part(msgspec.Struct):
    """A part of a result: a row of a table, or a piece of one."""

    def cell(self) -> str:
        """What stands for it in one cell of a table: its plain fields, with blanks between."""
        values = [getattr(self, name) for name in self.__struct_fields__]
        return " ".join(str(value) for value in values if value not in (None, "") and not isinstance(value, list))


class Interval(Part):
    """A value with its 95 % interval."""

    value: float
    low: float
    high: float


Frames = dict[str, type[Any]]


class Presenter(Protocol):
    """Shows results; `report` has one. Results themselves know of no terminal, page or figure."""

    def render(self, result: Result, form: str, **choices: Any) -> str:
        """A result as text, markdown or html."""

    def fragment(self, result: Result) -> str:
        """A result as a piece of HTML, for a notebook."""

    def draw(self, result: Result, **choices: Any) -> Any:
        """A result as a figure of Matplotlib."""

    def write_pages(self, result: Result, folder: Path) -> None:
        """A page for each part of a result that is handed to somebody of its own."""


class Result(Part):
    """Something that was concluded. Printed, it shows itself as the command does; its `repr` is short."""

    _presenter: ClassVar[Presenter | None] = None
    _frames: ClassVar[Frames] = {}
    """The parts that are tables, each with the kind of its rows; the first one is that of `to_frame()`."""

    def __str__(self) -> str:
        return self.render("text")

    def __repr__(self) -> str:
        rows = (f"{len(getattr(self, name))} {name}" for name in self._frames)
        return f"<{type(self).__name__}: {', '.join(rows)}>"

    def _repr_html_(self) -> str:
        return presenter().fragment(self)

    def render(self, form: str = "text") -> str:
        """The result as text, markdown, html (a page that needs nothing else) or json."""
        return self.json() + "\n" if form == "json" else presenter().render(self, form)

    def page(self, path: str | Path) -> Path:
        """Write the page: one HTML file that needs nothing else. Returns its path."""
        from ..logbook.files import write_file

        write_file(Path(path), self.render("html"))
        return Path(path)

    def json(self) -> str:
        """The result as JSON text: times in seconds, memory in bytes, the rest in counts."""
        return msgspec.json.format(msgspec.json.encode(self), indent=2).decode()

    def to_frame(self, part: str | None = None) -> pd.DataFrame:
        """A part of it as a table, a row each and one value a cell; the columns are there where no row is.

        An interval is three columns: its value, and the same name with `_low` and `_high`.

        Args:
            part: which one, where there are several; else the first.

        Raises:
            LogarithmError: where there is no such part.
        """
        name = next(iter(self._frames)) if part is None else part
        if name not in self._frames:
            raise LogarithmError(f"{type(self).__name__} has no part '{name}': {there(list(self._frames), 30)}")
        return frame_of(self._frames[name], getattr(self, name))


class Drawn(Result):
    """A result that has a figure."""

    def plot(self, **choices: Any) -> Any:
        """A figure of Matplotlib; `choices` are those of the command that draws it."""
        return presenter().draw(self, **choices)


def present_with(presenter: Presenter) -> None:
    """Say who shows results."""
    Result._presenter = presenter


def presenter() -> Presenter:
    """Who shows results."""
    if Result._presenter is None:
        raise LogarithmError("nobody shows results here: import logarithm.api")
    return Result._presenter


def frame_of(kind: type[Any], rows: Iterable[Any]) -> pd.DataFrame:
    """Rows of one kind as a table; see `Result.to_frame`."""
    import pandas as pd

    hints = get_type_hints(kind)
    columns: dict[str, list[Any]] = {}
    names = [each.name for each in dataclasses.fields(kind)] if is_dataclass(kind) else [*kind.__struct_fields__]
    wide = {name for name in names if Interval in _kinds(hints[name])}
    for name in names:
        for column in (name, f"{name}_low", f"{name}_high") if name in wide else (name,):
            columns[column] = []
    for row in rows:
        for name in names:
            value = getattr(row, name)
            if name not in wide:
                columns[name].append(_cell(value))
                continue
            ends = (value.value, value.low, value.high) if value is not None else (None, None, None)
            for column, end in zip((name, f"{name}_low", f"{name}_high"), ends, strict=True):
                columns[column].append(end)
    return pd.DataFrame(columns)


def _kinds(hint: Any) -> tuple[Any, ...]:
    """The types that a field may have."""
    return get_args(hint) if get_origin(hint) in (Union, types.UnionType) else (hint,)


def _cell(value: Any) -> Any:
    """One value for a cell: parts and lists as text."""
    if isinstance(value, Part):
        return value.cell()
    if isinstance(value, list | tuple):
        return ", ".join(str(_cell(each)) for each in value)
    if isinstance(value, dict):
        return ", ".join(f"{key}: {_cell(each)}" for key, each in value.items())
    return value
