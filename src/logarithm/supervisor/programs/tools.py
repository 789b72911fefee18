"""Tools that contenders need beside Python: compilers, interpreters; which of them are here, and in which version."""

from __future__ import annotations

import shutil
import subprocess

from ...errors import one_line
from ...study.parts import Contender
from ...study.study import Study
from .build import version_of


def needed(contender: Contender) -> tuple[str, ...]:
    """The tools that a contender needs, as they are looked for on the search path."""
    own = contender.program.tools if contender.program is not None else ()
    return (*own, *([contender.options.interpreter] if contender.options.interpreter else []))


def absent(study: Study) -> dict[str, str]:
    """The contenders that have to be left out, each with the tool that it lacks, and why."""
    missing: dict[str, str] = {}
    for contender in study.contenders:
        for tool in needed(contender):
            if shutil.which(tool) is None:
                missing.setdefault(contender.name, f"{tool} is not installed")
        # A name on the search path may stand for an interpreter that is not there.
        if contender.options.interpreter and contender.name not in missing:
            why = _fails(contender.options.interpreter)
            if why:
                missing[contender.name] = f"{contender.options.interpreter} does not run: {why}"
    return missing


def _fails(interpreter: str) -> str:
    """What an interpreter says where it does not run; empty where it does."""
    try:
        done = subprocess.run(
            [interpreter, "-c", ""],
            capture_output=True,
            stdin=subprocess.DEVNULL,
            timeout=30,
            text=True,
            errors="replace",
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        return one_line(error, 100)
    return one_line(done.stderr or f"exit code {done.returncode}", 100) if done.returncode else ""


def versions(contender: Contender) -> dict[str, str]:
    """What each tool of a contender says of its version."""
    return {tool: version_of(tool) for tool in needed(contender)}
