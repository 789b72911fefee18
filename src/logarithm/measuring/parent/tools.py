"""Tools that contenders need beside Python: compilers, interpreters; which of them are here, and in which version."""

from __future__ import annotations

import shutil
import subprocess

from ...study.parts import Contender
from ...study.study import Study
from .building import version_of


def needed(contender: Contender) -> tuple[str, ...]:
    """The tools that a contender needs, as they are looked for on the search path."""
    own = contender.program.tools if contender.program is not None else ()
    return (*own, *([contender.options.interpreter] if contender.options.interpreter else []))


def absent(study: Study) -> dict[str, str]:
    """The contenders that have to be left out, each with the tool that is not installed."""
    missing: dict[str, str] = {}
    for contender in study.contenders:
        for tool in needed(contender):
            if shutil.which(tool) is None:
                missing.setdefault(contender.name, tool)
        # A name on the search path may stand for an interpreter that is not there.
        if contender.options.interpreter and contender.name not in missing and not _runs(contender.options.interpreter):
            missing[contender.name] = contender.options.interpreter
    return missing


def _runs(interpreter: str) -> bool:
    done = subprocess.run([interpreter, "-c", ""], capture_output=True, stdin=subprocess.DEVNULL, timeout=30)
    return done.returncode == 0


def versions(contender: Contender) -> dict[str, str]:
    """What each tool of a contender says of its version."""
    return {tool: version_of(tool) for tool in needed(contender)}
