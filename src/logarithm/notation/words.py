"""Names of contenders and families, as they are written for people."""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import named
from .places import Place

JOINING = frozenset(
    (
        *("all", "as", "at", "both", "for", "from", "in", "is", "it", "never", "no", "not", "of", "on", "only"),
        *("over", "than", "that", "the", "this", "to", "up", "where", "with"),
    )
)
JOINING_TWO = frozenset(("and", "or", "leads", "overtakes", "against"))  # join two names


def name(text: str) -> str:
    """A contender's or family's name for people: underscores are spaces, control characters are gone."""
    return "".join(letter if letter.isprintable() else "�" for letter in text).replace("_", " ")


def said(text: str) -> str:
    """A name within a sentence: in quotation marks where it reads like a part of the sentence.

    >>> said("sweep"), said("every_pair"), said("as_table"), said("scan_and_keep")
    ('sweep', 'every pair', "'as table'", "'scan and keep'")
    """
    plain = name(text)
    words = plain.lower().split(" ")
    return f"'{plain}'" if words[0] in JOINING or JOINING_TWO & set(words) else plain


def as_written(shown: str, known: Sequence[str]) -> str:
    """The known name that one is, as it is written or as it is shown; the one that was given where there is none.

    >>> as_written("every pair", ["sweep", "every_pair"]), as_written("ebb", ["sweep"])
    ('every_pair', 'ebb')
    """
    if shown in known:
        return shown
    plain = shown.strip("'").replace("_", " ").casefold()
    return next((each for each in known if name(each).casefold() == plain), shown)


def axis(varied: str) -> str:
    """What is varied, as people read it: sizes are n.

    >>> axis("size"), axis("position")
    ('n', 'position')
    """
    return "n" if varied == "size" else varied


def listed(names: Sequence[str], most: int = 8) -> str:
    """Names in a sentence, at most so many: "sweep, grid and every pair"."""
    return named([said(each) for each in names], most)


def place(where: Place) -> str:
    """A family, with stage and metric where they are worth a word, as a heading or in a table.

    >>> place(("calm_bay", "use", "time")), place(("calm_bay", None, "steps"))
    ('calm bay, use', 'calm bay, steps')
    """
    return _place(name(where[0]), where)


def place_said(where: Place) -> str:
    """The same within a sentence."""
    return _place(said(where[0]), where)


def _place(family: str, where: Place) -> str:
    _, stage, metric = where
    return ", ".join([family, *([stage] if stage else []), *([metric] if metric != "time" else [])])
