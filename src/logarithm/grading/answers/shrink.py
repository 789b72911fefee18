"""Shrinking: from an instance on which an answer is wrong to a smaller one on which it still is.

The list is cut in halves, quarters and so on, and what can be left out is left out: the minimizing delta debugging of
Zeller and Hildebrandt, IEEE Transactions on Software Engineering 28 (2002), 183-200. Then values are made plainer.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...errors import one_line
from ...protocol import answers
from ...protocol.replies import Answered
from ...protocol.requests import AnswerGiven
from ...supervisor.failed import Failed
from ...supervisor.worker import Worker
from .judge import Judge

TRIES_MOST = 300
CEILING = 2.0  # seconds for a call while answers are compared


def counterexample(judge: Judge, worker: Worker, instance: Any, both: tuple[Any, Any]) -> str:
    """The smallest instance that shows a wrong answer, with both answers, in a sentence.

    Args:
        judge: who knows the right answers.
        worker: with the code that answers wrongly.
        instance: on which it does.
        both: the answer that was given, and the right one.
    """
    last = [*both]

    def is_wrong(candidate: Any) -> bool:
        try:
            written, right = judge.answer_to(candidate)
            reply = worker.ask(AnswerGiven(written), Answered, CEILING)
        except (Failed, ValueError):
            return False
        if reply.comparable and not judge.is_right(written, reply.answer, right):
            last[:] = [reply.answer, right]
            return True
        return False

    return wrong_said(judge, shrunk(instance, is_wrong), *last)


def wrong_said(judge: Judge, instance: Any, given: Any, right: Any) -> str:
    """A wrong answer in a sentence."""
    shown, expected = (answers.shown(each, 60) for each in (given, right))
    told = f"answers {shown} to {one_line(repr(instance), 120)}"
    return told if judge.study.judge is not None else f"{told}, where {expected} is right"


def shrunk(instance: Any, is_wrong: Callable[[Any], bool]) -> Any:
    """A smaller instance on which the answer is still wrong.

    Args:
        instance: one on which it is; only lists, alone or as the first part of a tuple, are made smaller.
        is_wrong: whether the answer to an instance is wrong; false for instances on which nobody can tell.

    >>> shrunk([5, 1, 7, 2, 9, 3], lambda levels: 7 in levels)
    [7]
    """
    tries = [0]

    def wrong(candidate: Any) -> bool:
        tries[0] += 1
        return tries[0] <= TRIES_MOST and is_wrong(candidate)

    if isinstance(instance, tuple) and instance and isinstance(instance[0], list):
        rest = instance[1:]
        return (_smaller(instance[0], lambda items: wrong((items, *rest))), *rest)
    return _smaller(instance, wrong) if isinstance(instance, list) else instance


def _smaller(items: list[Any], wrong: Callable[[list[Any]], bool]) -> list[Any]:
    chunk = max(len(items) // 2, 1)
    while items:
        at, shorter = 0, False
        while at < len(items):
            candidate = items[:at] + items[at + chunk :]
            if candidate and wrong(candidate):
                items, shorter = candidate, True
            else:
                at += chunk
        if chunk == 1 and not shorter:
            break
        chunk = max(chunk // 2, 1) if not shorter or chunk > 1 else 1
    for at, item in enumerate(items):
        for plainer in _plainer(item):
            candidate = [*items[:at], plainer, *items[at + 1 :]]
            if wrong(candidate):
                items = candidate
                break
    return items


def _plainer(item: Any) -> list[Any]:
    """Plainer values to try in place of one, the plainest first."""
    if isinstance(item, bool) or not isinstance(item, (int, float)):
        return []
    tried = [0, 1, round(item), round(item, 1) if isinstance(item, float) else item]
    return [value for value in dict.fromkeys(tried) if value != item]
