"""The installed command in a process of its own, forked from one that has loaded it: quicker than a new Python."""

from __future__ import annotations

import atexit
import multiprocessing
import os
import sys
from pathlib import Path

LOADED = ["tests.loaded", "tests.forked", "matplotlib.figure", "pandas"]
FORKS = multiprocessing.get_context("forkserver") if sys.platform != "win32" else None
if FORKS is not None:
    FORKS.set_forkserver_preload(LOADED)


def forked(words: list[str], folder: Path, environment: dict[str, str], room: Path, patience: float) -> int:
    """Run the command with such words in a folder; its output goes to `out` and `err` in `room`. Returns its code."""
    assert FORKS is not None
    process = FORKS.Process(target=_run, args=(words, folder, environment, room))
    process.start()
    process.join(patience)
    if process.is_alive():
        process.kill()
        process.join()
        raise TimeoutError(f"{' '.join(words)} takes more than {patience:g} s")
    assert process.exitcode is not None
    return process.exitcode


def _run(words: list[str], folder: Path, environment: dict[str, str], room: Path) -> None:
    from logarithm.cli import main

    for number, name in (1, "out"), (2, "err"):
        os.dup2(os.open(room / name, os.O_WRONLY | os.O_CREAT), number)
    os.chdir(folder)
    os.environ.clear()
    os.environ.update(environment)
    sys.argv = words
    try:
        main()
    finally:
        atexit._run_exitfuncs()
