"""Texts of records made harmless: what stands in a logbook may come from anybody, and ends on terminals and pages."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import msgspec

from ...errors import harmless, is_harmless
from ..records import AnyRecord


def may_harm(lines: bytes) -> bool:
    """Whether lines of a logbook may hold what a terminal would obey; most hold none of it, which is seen at once."""
    if b"\\u" in lines or b"\x7f" in lines:
        return True
    return not lines.isascii() and not is_harmless(lines.decode("utf-8", "replace"))


def cleaned(records: Iterable[AnyRecord]) -> list[AnyRecord]:
    """The records with every text made harmless: a logbook may come from anybody."""
    made = list(records)
    for record in made:
        for name in record.__struct_fields__:
            setattr(record, name, _clean(getattr(record, name)))
    return made


def _clean(value: Any) -> Any:
    if isinstance(value, str):
        return harmless(value)
    if isinstance(value, list | tuple):
        return type(value)(map(_clean, value))
    if isinstance(value, dict):
        return {_clean(key): _clean(each) for key, each in value.items()}
    if isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            setattr(value, name, _clean(getattr(value, name)))
    return value
