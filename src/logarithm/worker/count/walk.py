"""The worker's side of a walk: one call on a small counted instance, event by event, for teaching."""

from __future__ import annotations

import inspect
import sys
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
from ..bench import Bench
from .counts import called

ANSWER_MOST = 200


def walk(bench: Bench, request: Walk) -> Walked:
    """What a contender does on one small instance."""
    make = partial(bench.study.the_family(request.family).instance, request.size, request.seed)
    code = getattr(bench.contender.code, "func", bench.contender.code)
    stages = bench.contender.stages
    stage = None if stages == (None,) else stages[1]  # what follows build: use, or the first operation
    instance = counted(make())
    with rewritten(bench.contender.code, ITEMS):
        # A plain one is not called before to see whether it is lazy: it may raise, or never end.
        is_class = inspect.isclass(bench.contender.code)
        call = called(bench, instance, stage, make) if is_class else partial(bench.answer, instance)
        found = followed(call, _files(code))
    shown = state(found.answer)
    answer = in_words(shown) if shown is not None and shown[0] in ("chain", "tree") else repr(plain(found.answer))
    answer = answer if len(answer) <= ANSWER_MOST else f"{answer[:ANSWER_MOST]}…"
    source, first = _source(code, found)
    failure = found.failure
    answer = "" if failure else answer
    return Walked(events=found.events, answer=answer, failure=failure, source=source, first=first, cut=found.cut)


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
