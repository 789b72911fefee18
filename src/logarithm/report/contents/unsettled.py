"""What is not settled, and what is measured now and why, in words."""

from __future__ import annotations

from collections.abc import Sequence

from ...notation.orders import pretty
from ...statistics.stopping.questions import CROSSOVER, LEAD, OPEN, ORDER, TIE, Question
from .. import units
from .sentences import place_said

ORDERS_MOST = 3


def asked_in_words(asked: Question) -> str:
    """A question that is not settled.

    >>> asked_in_words(Question("order", ("bay", None, "time"), ("sweep",), 8, 64, orders=("n", "n log n")))
    'n or n log n of sweep on bay'
    """
    names, where = [units.said(name) for name in asked.contenders], place_said(asked.place)
    span = f"n = {units.crossing(asked.start)}"
    span += "" if asked.start == asked.end else f" to {units.crossing(asked.end)}"
    if asked.kind == ORDER:
        return f"{' or '.join(pretty(order) for order in asked.orders[:ORDERS_MOST])} of {names[0]} on {where}"
    if asked.kind == CROSSOVER:
        interval = f"{units.crossing(asked.start)} to {units.crossing(asked.end)}"
        return f"where {names[1]} overtakes {names[0]} on {where} ({interval})"
    if asked.kind == TIE:
        return f"whether {names[0]} or {names[1]} leads on {where} ({span})"
    return f"whether {names[0]} surely leads {names[1]} on {where} ({span})"


def purpose(asked: Sequence[Question]) -> str:
    """What the next life is for: the first of the open questions, and how many more there are."""
    opened = [each for each in asked if each.state == OPEN]
    if not opened:
        return ""
    kinds = [kind for kind in (CROSSOVER, ORDER, LEAD, TIE) if any(each.kind == kind for each in opened)]
    first = next(each for each in opened if each.kind == kinds[0])
    more = f" and {len(opened) - 1} more" if len(opened) > 1 else ""
    return f"{asked_in_words(first)}{more}"
