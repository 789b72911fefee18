"""The examples in the docstrings do what they say."""

from __future__ import annotations

import doctest
import importlib
import pkgutil

import pytest

import logarithm

NAMES = [each.name for each in pkgutil.walk_packages(logarithm.__path__, "logarithm.")]


@pytest.mark.parametrize("name", NAMES)
def test_examples(name: str) -> None:
    assert doctest.testmod(importlib.import_module(name)).failed == 0
