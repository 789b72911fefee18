"""What all messages between the supervisor and a worker share: each is a dataclass of plain values and a line of JSON.

A line is an object with the message's name under `kind` and every field by its name. This module and its neighbours
need the standard library alone: every worker loads them first.
"""

from __future__ import annotations

import json
from dataclasses import fields
from typing import Any

from ..counting.walk.event import Event


class Message:
    """What all messages can. A dataclass would write this for each of them, and a worker would start the later."""

    __slots__ = ()

    def __eq__(self, other: object) -> bool:
        return type(self) is type(other) and plain_of(self) == plain_of(other)

    def __hash__(self) -> int:
        return hash(repr(self))

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{key}={value!r}' for key, value in plain_of(self).items())})"


def line_of(message: Any) -> bytes:
    """A message as the line that is sent."""
    return json.dumps({"kind": type(message).__name__, **plain_of(message)}).encode() + b"\n"


def plain_of(message: Any) -> dict[str, Any]:
    """The fields of a message, and of messages in it or in lists of it; not of other values, which may be long."""
    made = {}
    for each in fields(message):
        value = getattr(message, each.name)
        if isinstance(value, list) and value and isinstance(value[0], Event):
            value = [plain_of(event) for event in value]
        elif isinstance(value, Message):
            value = plain_of(value)
        made[each.name] = value
    return made
