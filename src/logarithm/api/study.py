"""The study as Python users have it: it measures itself."""

from __future__ import annotations

from ..study.study import Study as Plan
from . import tasks
from .assessment import classes


class Study(Plan):
    """A question about several implementations of one job; see `logarithm.study.study.Study`.

    >>> study = Study("tide-gauge", sizes="8..64 *2")
    >>> study.name
    'tide-gauge'
    """

    measure = tasks.measure
    measure_on = tasks.measure_on
    rehearse = tasks.rehearse
    verify = tasks.verify
    history = tasks.history
    worst = tasks.worst
    walk = tasks.walk
    assess = classes.assess
