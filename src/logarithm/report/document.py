"""A document: what is to be read of a result, as plain sentences and tables, whatever it is then written as.

All wording is made where documents are made; whoever lays one out as text, Markdown or a page knows no words.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from .units import NOTHING

GOOD, BAD, DOUBT, DIM, STRONG, SEEN = "good", "bad", "doubt", "dim", "strong", "seen"
"""Tones: how a piece of text is meant. Each kind of output shows them in its own way, or not at all."""
VERDICTS = {"contradicted": BAD, "slower": BAD, "holds": GOOD, "faster": GOOD, "undecided": DOUBT}
"""The tones of verdicts."""
UNMEASURED = f"{NOTHING} not measured there: the notes say where each ends, and why"


@dataclass(frozen=True, slots=True)
class Span:
    """A piece of text in a tone."""

    text: str
    tone: str = ""


Line = str | Span | tuple[str | Span, ...]
"""A sentence, or what stands in a cell: plain, in one tone, or of several pieces."""


def pieces(line: Line) -> tuple[Span, ...]:
    """A line as its pieces."""
    parts = line if isinstance(line, tuple) else (line,)
    return tuple(part if isinstance(part, Span) else Span(part) for part in parts)


def plain(line: Line) -> str:
    """A line without its tones."""
    return "".join(piece.text for piece in pieces(line))


@dataclass(slots=True)
class Table:
    """Cells in rows.

    Attributes:
        headings: of the columns; None for a table without any, whose first column is one of names.
        rows: of cells.
        title: above it.
        numbers: from this column on there are numbers, which stand to the right.
        spare: headings of columns that a narrow terminal can do without, what is missed least first.
        whole: headings of columns that are never wrapped.
        foot: below it; where a dash stands for what was not measured, that is said.
    """

    headings: tuple[str, ...] | None
    rows: list[tuple[Line, ...]] = field(default_factory=list)
    title: str = ""
    numbers: int = 99
    spare: tuple[str, ...] = ()
    whole: tuple[str, ...] = ()
    foot: str = ""

    @property
    def below(self) -> str:
        """What stands below it."""
        return self.foot or (UNMEASURED if any(NOTHING in row for row in self.rows) else "")


@dataclass(slots=True)
class Section:
    """A part of a document: sentences first, then tables, or the other way round.

    `is_small` where it is small print; `text` stands as it is, letter by letter.
    """

    name: str
    title: str
    lines: list[Line] = field(default_factory=list)
    tables: list[Table] = field(default_factory=list)
    tables_first: bool = False
    is_small: bool = False
    text: str = ""

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to say."""
        return not (self.lines or self.text or any(table.rows for table in self.tables))


@dataclass(slots=True)
class Document:
    """What is to be read: a title, what it is about, facts in a line, and sections."""

    title: Line
    subtitle: str = ""
    facts: str = ""
    sections: list[Section] = field(default_factory=list)

    def only(self, section: str | None) -> Document:
        """A single section of it, without the heading; all of it where none is named."""
        if section is None:
            return self
        return Document("", sections=[each for each in self.sections if each.name == section])


def sections_of(*made: Section) -> list[Section]:
    """The sections that have something to say."""
    return [each for each in made if not each.is_empty]


def told(lines: Iterable[Line]) -> Section:
    """A section of sentences without a title."""
    return Section("", "", list(lines))
