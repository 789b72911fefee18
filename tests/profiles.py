"""The number of examples that tests try: all in continuous integration (CI is set), a fifth of them in daily use."""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import TypeVar

from hypothesis import settings

IS_CI = bool(os.environ.get("CI"))
FIFTH = 5  # one case of so many is tried in daily use
T = TypeVar("T")
EXAMPLES = 100  # of a property, if its test does not say otherwise


def examples(many: int) -> settings:
    """Return the settings of a property that is tried with so many examples in continuous integration."""
    return settings(max_examples=many if IS_CI else max(5, many // FIFTH), deadline=None)


def load_profile() -> None:
    """Let all tests without settings of their own use this profile."""
    settings.register_profile("harbour", examples(EXAMPLES))
    settings.load_profile("harbour")


def some(cases: Iterable[T]) -> list[T]:
    """Return the cases of a parametrised test: all in continuous integration, every fifth one in daily use."""
    return [*cases][:: 1 if IS_CI else FIFTH]
