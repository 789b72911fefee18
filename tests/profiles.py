"""How many examples Hypothesis tries: all in continuous integration (where CI is set), a fifth in daily use."""

from __future__ import annotations

import os

from hypothesis import settings

IS_CI = bool(os.environ.get("CI"))
EXAMPLES = 100  # of a property, if its test does not say otherwise


def examples(many: int) -> settings:
    """Return the settings of a property that is tried with so many examples in continuous integration."""
    return settings(max_examples=many if IS_CI else max(5, many // 5), deadline=None)


def load_profile() -> None:
    """Let all tests without settings of their own use this profile."""
    settings.register_profile("harbour", examples(EXAMPLES))
    settings.load_profile("harbour")
