"""Whatever is read gives an answer or one clear line."""

from __future__ import annotations

import random
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.errors import LogarithmError, is_harmless
from logarithm.supervisor.failed import Failed
from profiles import examples

sys.path.insert(0, str(Path(__file__).parents[3] / "benchmarks"))
import readers

NAMES = [name for name in readers.readers(Path()) if name != "logbook, reported"]


@pytest.mark.parametrize("name", NAMES)
def test_anything_may_be_read(tmp_path: Path, name: str) -> None:
    read, valid, _ = readers.readers(tmp_path)[name]

    @given(st.one_of(st.binary(max_size=300), st.integers(0, 2**32).map(lambda seed: _changed(valid, seed))))
    @examples(60)
    def check(raw: bytes) -> None:
        try:
            read(raw)
        except (LogarithmError, Failed) as error:
            assert "\n" not in str(error)
            assert is_harmless(str(error))
            assert len(str(error)) < 1000

    check()


def _changed(valid: list[bytes], seed: int) -> bytes:
    chance = random.Random(seed)
    return readers.changed(chance.choice(valid), chance)


def test_what_is_valid_is_read(tmp_path: Path) -> None:
    for read, valid, _ in readers.readers(tmp_path).values():
        for raw in valid:
            read(raw)
