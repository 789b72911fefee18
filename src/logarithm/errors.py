"""What can go wrong, each as one line that says what is wrong and what to do."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

_OBEYED = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")

TEXT_MOST = 600  # characters of an error
HERE = Path(__file__).parent


class LogarithmError(Exception):
    """An error that a person can correct. Its text is made one harmless line; the command exits with `exit_code`."""

    exit_code = 2

    def __init__(self, text: str) -> None:
        super().__init__(one_line(harmless(text), TEXT_MOST))

    def _render_traceback_(self) -> list[str]:
        """What a notebook shows in place of a long traceback: the line of the user's own code, and the error."""
        from traceback import extract_tb

        frames = [each for each in extract_tb(self.__traceback__) if not Path(each.filename).is_relative_to(HERE)]
        at = [f"line {each.lineno} of {each.name.strip('<>')}: {each.line}" for each in frames[-1:] if each.line]
        return [*at, f"{type(self).__name__}: {self}"]


class StudyError(LogarithmError):
    """A study that cannot be used."""


class FamilyError(StudyError):
    """A family that makes no instance."""


class LogbookError(LogarithmError):
    """A logbook that cannot be read or written."""


class TableError(LogarithmError):
    """A table that cannot be imported."""


class AnalysisError(LogarithmError):
    """Numbers from which nothing can be concluded."""


class MeasuringError(LogarithmError):
    """Measuring cannot begin or go on."""


class SandboxError(MeasuringError):
    """The system cannot keep what was handed in apart from everything else."""


class DisagreementError(LogarithmError):
    """Contenders give different answers to the same instance; a line for each that does."""

    exit_code = 1

    def __init__(self, text: str) -> None:
        Exception.__init__(self, "\n".join(one_line(harmless(line), TEXT_MOST) for line in text.splitlines()))


def one_line(text: object, limit: int = 300) -> str:
    r"""`text` on one line, shortened in the middle to at most `limit` characters.

    >>> one_line("two\n  lines")
    'two lines'
    >>> one_line("lighthouse", 5)
    'li…se'
    """
    joined = " ".join(str(text).split())
    if len(joined) <= limit:
        return joined
    half = (limit - 1) // 2
    return joined[:half] + "…" + joined[-(limit - 1 - half) :]


def harmless(text: str) -> str:
    r"""`text` without what a terminal or a page would obey: control characters, changes of direction, half characters.

    Line breaks and tabs stay; all others become the sign for a character that cannot be shown.

    >>> harmless("tide\x1b[31m\u202e\n"), harmless("Brandung, Ørsted, 岸")
    ('tide�[31m�\n', 'Brandung, Ørsted, 岸')
    """
    return _OBEYED.sub("\ufffd", text)


def is_harmless(text: str) -> bool:
    """Whether `harmless` would leave a text as it is."""
    return _OBEYED.search(text) is None


def named(names: list[str], most: int = 8) -> str:
    """The names in a sentence: "a, b and c", with the rest counted.

    >>> named(["tide", "berth", "buoy"])
    'tide, berth and buoy'
    """
    shown = names[:most]
    if len(names) > most:
        return ", ".join(shown) + f" and {len(names) - most} more"
    if len(shown) < 2:
        return "".join(shown)
    return ", ".join(shown[:-1]) + " and " + shown[-1]


def counted(number: int, one: str, many: str | None = None) -> str:
    """A number with what is counted, one or many.

    >>> counted(1, "size"), counted(3, "size"), counted(2, "process", "processes")
    ('1 size', '3 sizes', '2 processes')
    """
    return f"{number} {one}" if number == 1 else f"{number} {many or one + 's'}"


def there(names: list[str], most: int = 8) -> str:
    """What there is, in a sentence.

    >>> there(["berth"]), there(["berth", "tide"]), there([])
    ("there is only 'berth'", 'there are berth and tide', 'there is none')
    """
    if not names:
        return "there is none"
    return f"there is only '{names[0]}'" if len(names) == 1 else f"there are {named(names, most)}"


def guess(name: str, known: Iterable[str]) -> str:
    """What may have been meant, as the end of a sentence; empty where nothing is near.

    >>> guess("swep", ["sweep", "grid"])
    "; did you mean 'sweep'?"
    """
    from difflib import get_close_matches

    near = get_close_matches(name.lower(), {each.lower(): each for each in known}, n=1)
    found = next((each for each in known if near and each.lower() == near[0]), None)
    return f"; did you mean '{found}'?" if found else ""


def check_names(where: object, kind: str, wanted: Iterable[str] | None, known: list[str]) -> None:
    """Raise a LogarithmError for a name that is not there.

    Args:
        where: the study or logbook that should have it.
        kind: what it is, such as "contender".
        wanted, known: the names that were given, and those there are.
    """
    for name in wanted or ():
        if name not in known:
            raise LogarithmError(f"{where} has no {kind} '{name}': {there(known)}{guess(name, known)}")
