"""Random programs on lists, texts, dictionaries, sets, deques, tuples and numbers, to compare behaviour with."""

from __future__ import annotations

import importlib.util
import random
import sys
from collections.abc import Callable
from pathlib import Path
from types import ModuleType
from typing import Any

from logarithm.counting.items.counted import plain

HEAD = """import heapq
from bisect import bisect_left, insort
from collections import Counter, defaultdict, deque
"""
STATEMENTS = (
    "a.append(x)",
    "a.insert({i}, y)",
    "x = a[{i}]",
    "a[{i}] = x",
    "a[{i}], a[{j}] = a[{j}], a[{i}]",
    "x = a.pop({i})",
    "del a[{i}]",
    "b = a[{i}:{j}]",
    "a[{i}:{j}] = [x, y]",
    "b = list(a)",
    "b = [value for value in a if value > x]",
    "b = sorted(a)",
    "b = sorted(a, key=lambda value: -value)",
    "a.sort()",
    "a.sort(reverse=True)",
    "a.reverse()",
    "a.extend(b)",
    "a += b",
    "a = a + b",
    "a = b * 2",
    "a = [x] * {k}",
    "x = min(a)",
    "y = max(b, default=x)",
    "x = max(x, y)",
    "x = sum(a)",
    "x = len(a)",
    "x = a.index(y)",
    "x = a.count(y)",
    "a.remove(x)",
    "a = b.copy()",
    "a.clear()",
    "x = y in a",
    "x = a == b",
    "x = a < b",
    "x = x + y * 2",
    "x = y - x",
    "x = -x",
    "x = x // {k}",
    "x = y % {k}",
    "x = y / {k}",
    "x = abs(x)",
    "x = round(x)",
    "x = int(y)",
    "x = float(y)",
    "x = x if x < y else y",
    "x, y = divmod(x, {k})",
    "x = x ** 2 % 97",
    "x = y << {k} & 255",
    "s = str(x)",
    "s = s + str(y)",
    "s = f'{{x}}-{{y}}'",
    "s = '-' + s",
    "s = s[{i}:{j}]",
    "x = s[{i}]",
    "s = ''.join(reversed(s))",
    "b = s.split('-')",
    "x = s.find('1')",
    "x = int(s)",
    "s = s.replace('1', '22')",
    "s = s.upper()",
    "x = s < 'b'",
    "x = ord(s[{i}])",
    "b = [ord(sign) for sign in s]",
    "s = '%s:%s' % (x, y)",
    "d[x] = y",
    "x = d[y]",
    "x = d.get(y, 0)",
    "d.setdefault(x, []).append(y)",
    "x = x in d",
    "b = list(d)",
    "b = [key for key, value in d.items()]",
    "b = sorted(d.values(), key=str)",
    "d = {{key: value for value, key in enumerate(a)}}",
    "d = dict.fromkeys(a)",
    "d = dict(zip(a, b))",
    "x = d.pop(y)",
    "del d[x]",
    "d.update({{x: y}})",
    "b = sorted(d.keys() & set(a))",
    "t.add(x)",
    "t.discard(y)",
    "x = y in t",
    "t = set(a)",
    "t = {{value % {k} for value in a}}",
    "t = t | set(b)",
    "t = t - {{x}}",
    "b = sorted(t)",
    "x = t <= set(a)",
    "p = (x, y)",
    "x = p < (y, x)",
    "x, y = p",
    "b = sorted([(value % {k}, value) for value in a])",
    "p = tuple(a)",
    "x = p[{i}]",
    "x = hash(p) == hash(tuple(p))",
    "q.append(x)",
    "q.appendleft(y)",
    "x = q.pop()",
    "x = q.popleft()",
    "q = deque(a, {k})",
    "b = list(q)",
    "q.rotate({k})",
    "heapq.heapify(a)",
    "heapq.heappush(a, x)",
    "x = heapq.heappop(a)",
    "x = heapq.heappushpop(a, y)",
    "b = heapq.nsmallest({k}, a)",
    "x = bisect_left(a, y)",
    "insort(a, x)",
    "c = Counter(a); b = sorted(c.items())",
    "g = defaultdict(list); g[x].append(y); d = dict(g)",
    "b = [[value] for value in a]; b[{i}].append(x)",
    "b = list(map(str, a))",
    "b = list(enumerate(a, {k}))",
    "b = list(reversed(a))",
    "x = any(value == y for value in a)",
    "x = all(value <= y for value in a)",
    "x = type(x) is int",
    "x = isinstance(a, list)",
    "x = str(a)",
    "s = repr(x)",
    "for value in a:\n        if value > x: x = value",
    "while x > 0 and len(b) < 20:\n        x -= {k}\n        b.append(x)",
    "for at in range(1, len(a)):\n        if a[at - 1] > a[at]: a[at - 1], a[at] = a[at], a[at - 1]",
    "try:\n        x = a[99]\n    except IndexError:\n        x = 1",
)
RETURN = "return a, b, x, y, s, d, sorted(t, key=repr), p, list(q)"


def instance(chance: random.Random) -> tuple:
    """Something of every kind."""
    values = [chance.randrange(-5, 30) for _ in range(chance.randrange(0, 9))]
    return (
        values,
        [chance.randrange(9) for _ in range(3)],
        chance.randrange(9),
        chance.choice([chance.randrange(9), chance.randrange(90) / 4]),
        "".join(chance.choice("01-ab") for _ in range(chance.randrange(6))),
        {chance.randrange(9): chance.randrange(9) for _ in range(3)},
        {chance.randrange(9) for _ in range(4)},
        (chance.randrange(9), chance.randrange(9)),
    )


def statement(chance: random.Random) -> str:
    """A statement with its numbers filled in."""
    return filled(chance.choice(STATEMENTS), chance)


def filled(text: str, chance: random.Random) -> str:
    """A statement's text with numbers in it."""
    return text.format(i=chance.randrange(-2, 4), j=chance.randrange(0, 6), k=chance.randrange(1, 4))


def program(name: str, statements: list[str]) -> str:
    """A function of these statements."""
    body = "\n    ".join(["a, b, x, y, s, d, t, p = given", "q = deque(b)", *statements, RETURN])
    return f"def {name}(given):\n    {body}\n"


def loaded(path: Path, name: str) -> ModuleType:
    """A file of programs as a module."""
    spec = importlib.util.spec_from_file_location(name, path)
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules[name] = module
    spec.loader.exec_module(module)
    return module


def outcome(function: Callable[[Any], Any], instance: Any) -> tuple[str, Any]:
    """What a program does with an instance: its answer, or its error with the text."""
    try:
        return "answers", plain(function(instance))
    except Exception as error:
        return type(error).__name__, str(error)
