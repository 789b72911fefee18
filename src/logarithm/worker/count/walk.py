"""The worker's side of a walk: one call on a small counted instance, event by event, for teaching."""

from __future__ import annotations

import inspect
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from ...counting.code.item_counting import ITEMS
from ...counting.code.rewriting import rewritten
from ...counting.items.counted import counted, plain
from ...counting.walk.follow import Followed, followed
from ...counting.walk.pictures import in_words, state
from ...protocol.replies import Walked
from ...protocol.requests import Walk
from ..timing.bench import Bench
from ..timing.operations import built, pairs_on, turns_of
from .counts import called

ANSWER_MOST = 200


def walk(bench: Bench, request: Walk) -> Walked:
    """What a contender does on one small instance."""
    make = partial(bench.study.the_family(request.family).instance, request.size, request.seed)
    code = getattr(bench.contender.code, "func", bench.contender.code)
    instance = counted(make())
    with rewritten(bench.contender.code, ITEMS):
        found = followed(_call(bench, instance, make), _files(code))
    shown = state(found.answer)
    answer = in_words(shown) if shown is not None and shown[0] in ("chain", "tree") else repr(plain(found.answer))
    answer = answer if len(answer) <= ANSWER_MOST else f"{answer[:ANSWER_MOST]}…"
    source, first = _source(code, found)
    failure = found.failure
    answer = "" if failure else answer
    return Walked(events=found.events, answer=answer, failure=failure, source=source, first=first, cut=found.cut)


def _call(bench: Bench, instance: Any, make: Callable[[], Any]) -> Callable[[], Any]:
    """What is followed: one call; of a class, `use`, or each of its operations once, in turn, on one object."""
    contender = bench.contender
    if contender.options.operations and isinstance(instance, dict):
        turns = [turns_of(contender, name, instance)[0] for name in contender.options.operations]
        pairs = pairs_on(built(contender, instance), turns)
        return lambda: [operation(argument) for operation, argument in pairs]
    if inspect.isclass(contender.code):
        return called(bench, instance, "use", make)
    # It is not called before to see whether it is lazy: it may raise, or never end.
    return partial(bench.answer, instance)


def _files(code: Any) -> set[str]:
    """The contender's file, and the modules that lie beside it."""
    try:
        own = inspect.getfile(code)
    except TypeError:
        return set()
    folder = Path(own).resolve().parent
    library = Path(__file__).resolve().parents[2]
    beside = {getattr(module, "__file__", None) or "" for module in list(sys.modules.values())}
    near = {file for file in beside if file and Path(file).resolve().parent == folder}
    return {own} | (near if not folder.is_relative_to(library) else set())


def _source(code: Any, found: Followed) -> tuple[list[str], int]:
    """The lines that were at work: from the first function to the last one of the contender's file."""
    try:
        whole = Path(inspect.getfile(code)).read_text(encoding="utf-8").splitlines()
        own, first = inspect.getsourcelines(code)
    except (OSError, TypeError, ValueError):
        return [], 1
    last = first + len(own) - 1
    lines = [event.line for event in found.events if 0 < event.line <= len(whole)]
    begin, end = min([first, *lines]), max([last, *lines])
    return whole[begin - 1 : end], begin
