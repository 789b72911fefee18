"""All commands, and how they end: an error is one line, and the exit code says what became of it."""

from __future__ import annotations

import os
import sys
import warnings
from typing import Annotated

import typer

from ..errors import LogarithmError, one_line
from ..version import __version__
from .commands.assess import assess, check
from .commands.read import across, contrast, crossover, forecast, growth, plot, report
from .commands.run import demo, history, measure, race, rehearse, verify, worst
from .commands.walk import walk
from .prepare import draft, export, import_table, machine

WORDS = (
    "Words. A study asks one question of several contenders, each an implementation of the same job. A family makes "
    "instances, inputs of a size n. A trial times some calls; a heat is one pass over all contenders and sizes; each "
    "contender runs in several processes, one after the other. All goes into a logbook. A crossover is the size at "
    "which one contender overtakes another; a tie is two that the data cannot tell apart. An order says how cost "
    "grows: n, n log n, n^2; a claim is the order that you expect."
)
app = typer.Typer(
    name="logarithm",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="How the cost of each of several implementations grows, and at which size one overtakes another.",
    epilog=f"{WORDS}\n\nExample: logarithm demo",
)


def _version(wanted: bool) -> None:
    if wanted:
        sys.stdout.write(f"logarithm {__version__}\n")
        raise typer.Exit


@app.callback()
def _common(
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", callback=_version, is_eager=True)
    ] = False,
    debug: Annotated[bool, typer.Option("--debug", help="On an error, show where it came from.")] = False,
) -> None:
    pass


app.command(epilog="Example: logarithm demo closest-buoys")(demo)
app.command(epilog="Example: logarithm draft study.py")(draft)
app.command(epilog="Example: logarithm race harbour.py look_ahead keep_waiting --family decimals")(race)
app.command(epilog="Example: logarithm rehearse study.py")(rehearse)
app.command(epilog="Example: logarithm measure study.py --budget 30s")(measure)
app.command(epilog="Example: logarithm report --format json")(report)
app.command(epilog="Example: logarithm plot --out growth.png")(plot)
app.command(epilog="Example: logarithm growth sweep")(growth)
app.command(epilog="Example: logarithm crossover logbooks/run.jsonl sweep grid")(crossover)
app.command(epilog="Example: logarithm contrast before.jsonl after.jsonl")(contrast)
app.command(epilog="Example: logarithm history study.py v1..HEAD")(history)
app.command(epilog="Example: logarithm across here.jsonl there.jsonl")(across)
app.command(epilog="Example: logarithm forecast --at 20000")(forecast)
app.command(epilog="Example: logarithm verify")(verify)
app.command(epilog="Example: logarithm assess study.py --pages handed-back")(assess)
app.command(epilog="Example: logarithm check mine.py --exercise exercise.json")(check)
app.command(epilog="Example: logarithm walk study.py hour_by_hour --size 6")(walk)
app.command(epilog="Example: logarithm worst study.py --keep worst.json")(worst)
app.command(epilog="Example: logarithm machine")(machine)
app.command("import", epilog="Example: logarithm import times.csv --unit ms")(import_table)
app.command(epilog="Example: logarithm export --wide --out times.csv")(export)

INTERRUPTED = 130


def run() -> None:
    """Run the command line. Errors are one line on standard error; exit codes are 0, 1, 2 and 130."""
    # --debug is understood wherever it stands, because it is an afterthought when something went wrong.
    debug = "--debug" in sys.argv
    if not debug:
        warnings.simplefilter("ignore")  # what a library warns of is no message of ours
    arguments = [argument for argument in sys.argv[1:] if argument != "--debug"]
    try:
        code = app(arguments, standalone_mode=False)
        sys.stdout.flush()
        if code == INTERRUPTED:
            _told("interrupted", INTERRUPTED)
    except BrokenPipeError:
        # Whoever read our output has had enough; nothing more can be said there.
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        code = 0
    except (KeyboardInterrupt, typer.Abort):
        code = _told("interrupted", INTERRUPTED)
    except LogarithmError as error:
        if debug:
            raise
        code = _told(str(error), error.exit_code)
    except Exception as error:
        if debug:
            raise
        usage = getattr(error, "format_message", None)
        if usage is not None:
            code = _told(f"{one_line(usage()).rstrip('.')}. Try logarithm --help", 2)
        else:
            told = one_line(f"{type(error).__name__}: {error}")
            code = _told(f"this is a fault in Logarithm itself: {told}. Run it again with --debug to see where", 2)
    sys.exit(code or 0)


def _told(message: str, code: int) -> int:
    for line in message.splitlines():
        sys.stderr.write(f"logarithm: {line}\n")
    return code
