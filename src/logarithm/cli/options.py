"""What commands share: arguments and options, each in one place, and those of a run from the list that Python has."""

from __future__ import annotations

import enum
import inspect
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import typer

from ..errors import LogarithmError
from ..study.run_options import RunOptions


class Inputs(enum.StrEnum):
    """How a trial takes its inputs."""

    FRESH = "fresh"
    SAME = "same"


class Form(enum.StrEnum):
    """What every result can be written as."""

    TEXT = "text"
    MARKDOWN = "markdown"
    HTML = "html"
    JSON = "json"


CEILING_USUAL = "a tenth of the budget, at least 1s"


def completed(incomplete: str) -> list[str]:
    """What a name that is being typed may become: a logbook of this folder, or a contender of the newest one."""
    from ..errors import LogarithmError
    from ..logbook.folder import newest
    from ..logbook.reading import read_logbook

    books = [str(each) for folder in (Path(), Path("logbooks")) for each in sorted(folder.glob("*.jsonl"))]
    try:
        names = [each.name for each in read_logbook(newest()).contenders]
    except LogarithmError:
        names = []
    return [each for each in (*names, *books) if each.startswith(incomplete)]


Named = Annotated[
    list[str] | None,
    typer.Argument(
        metavar="[LOGBOOK] [CONTENDER…]",
        help="A logbook, the newest in logbooks/ if none is named; and contenders, all if none is named.",
        autocompletion=completed,
    ),
]
StudyArgument = Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python or TOML file.")]
StudyOrFile = Annotated[Path, typer.Argument(metavar="STUDY|FILE", help="A study, or a file of plain functions.")]
Given = Annotated[
    str | None, typer.Option("--input", metavar="FILE|VALUE", help="Your own input: a file, or such as '[1, 4, 2]'.")
]
Format = Annotated[Form, typer.Option("--format", help="How to write it.")]
Out = Annotated[Path | None, typer.Option("--out", help="A file to write it to, not standard output.")]
LogbookOut = Annotated[Path | None, typer.Option("--out", help="The logbook to write; else one in logbooks/.")]
Overwrite = Annotated[bool, typer.Option("--overwrite", help="Replace the file if it exists.")]
Family = Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")]
Budget = Annotated[str | None, typer.Option("--budget", help="How long it may take at most.", show_default="60s")]
Sizes = Annotated[
    list[str] | None,
    typer.Option("--sizes", help="The sizes, such as 8..4096; of two sizes each by its name, n=8..4096."),
]
Pixels = Annotated[
    str | None, typer.Option("--size", metavar="WIDExHIGH", help="Pixels of the figure, such as 1280x720.")
]
Dark = Annotated[bool, typer.Option("--dark", help="On dark paper, for a dark room.")]
At = Annotated[
    str | None,
    typer.Option("--at", metavar="PLACE", help="Of two sizes, one value of the second, such as k=64."),
]
FailOnSlower = Annotated[
    list[str] | None,
    typer.Option(
        "--fail-on-slower",
        metavar="SHARE",
        help="Exit with 1 where a real slowdown exceeds this: 10%, or of one metric steps=0%; may be repeated.",
    ),
]
Seed = Annotated[int, typer.Option("--seed", min=0, help="The same seed gives the same result.")]
Anyway = Annotated[bool, typer.Option("--anyway", help="Go on even where it is doubtful.")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="Say nothing but the result.")]
Verbose = Annotated[bool, typer.Option("--verbose", "-v", help="Log what is decided, and why.")]
On = Annotated[
    str | None, typer.Option("--on", metavar="ADDRESS", help="A cluster's scheduler, or local to start one here.")
]


def with_run_options(*names: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Give a command the options of a run, all of them or those that are named; it gets those that were typed.

    The command's last parameter is `**options`.
    """
    hints = get_type_hints(RunOptions, include_extras=True)
    chosen = names or tuple(hints)

    def decorate(command: Callable[..., None]) -> Callable[..., None]:
        @wraps(command)
        def called(**given: Any) -> None:
            options = {name: given.pop(name) for name in chosen}
            command(**given, **{name: _plain(each) for name, each in options.items() if each not in (None, False)})

        own = get_type_hints(command, include_extras=True)
        parameters = [
            each.replace(annotation=own.get(each.name, each.annotation), kind=inspect.Parameter.KEYWORD_ONLY)
            for each in inspect.signature(command).parameters.values()
            if each.kind is not inspect.Parameter.VAR_KEYWORD
        ]
        parameters += [_parameter(name, *get_args(hints[name])) for name in chosen]
        called.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
        called.__annotations__ = {each.name: each.annotation for each in parameters}
        del called.__wrapped__
        return called

    return decorate


def _parameter(name: str, kind: Any, about: str) -> inspect.Parameter:
    """One option of a run as Typer wants it. What is not typed is None or False, and left to the study."""
    flag = f"--{name.replace('_', '-')}"
    kinds = get_args(kind)
    default: Any = None
    if kind is bool:
        typed, default, option = bool, False, typer.Option(flag, help=about)
    elif kind is int:
        typed, option = int | None, typer.Option(flag, min=0, help=about, show_default="1")  # type: ignore[assignment]
    elif str(get_origin(kind)) == "typing.Literal":
        choice = Inputs
        typed, option = choice | None, typer.Option(flag, help=about, show_default=kinds[0])  # type: ignore[assignment]
    elif "may be repeated" in about:
        typed, option = list[str] | None, typer.Option(flag, help=about)  # type: ignore[assignment]
    else:
        usual = CEILING_USUAL if name == "ceiling" else None
        typed, option = str | None, typer.Option(flag, help=about, show_default=usual or False)  # type: ignore[assignment]
    return inspect.Parameter(name, inspect.Parameter.KEYWORD_ONLY, default=default, annotation=Annotated[typed, option])


def _plain(value: Any) -> Any:
    return value.value if isinstance(value, enum.Enum) else value


def pixels_of(text: str | None) -> tuple[int, int] | None:
    """Pixels as they were typed: 1280x720.

    Raises:
        LogarithmError: where they are none, or too few or many for a figure.
    """
    if text is None:
        return None
    wide, _, high = text.lower().replace("×", "x").partition("x")
    if not (wide.strip().isdecimal() and high.strip().isdecimal()):
        raise LogarithmError(f"--size {text} is not a size in pixels: write for example --size 1280x720")
    pixels = int(wide), int(high)
    if not all(300 <= each <= 8000 for each in pixels):
        raise LogarithmError(f"--size {text}: a figure is 300 to 8000 pixels wide and high")
    return pixels
