"""Everything that reads is given random inputs made from valid ones: an answer or one clear line, and no hang.

python benchmarks/readers.py                 a minute of each reader's share
python benchmarks/readers.py --minutes 60    for longer; --seed to repeat a run
"""

from __future__ import annotations

import argparse
import json
import random
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from logarithm.errors import LogarithmError, is_harmless
from logarithm.logbook.exchange.importing import imported
from logarithm.logbook.reading import logbook_of, read_logbook
from logarithm.notation import durations, formulas, orders, sizes
from logarithm.protocol.message import line_of
from logarithm.protocol.replies import Answered, Counted, Searched, Timed
from logarithm.report.present import rendered
from logarithm.statistics.analysis import Analysis
from logarithm.study.files import toml
from logarithm.study.files.saved_instances import kept_instances
from logarithm.supervisor.failed import Failed
from logarithm.supervisor.validate import reply_of

SHOWN = 6  # faults of a reader that are shown
SLOW = 2.0  # seconds that a reader may take for an input of some kilobytes
PIECES = [
    *(b"NaN", b"Infinity", b"-1", b"1e999", b"0", b"null", b"true", b"[]", b"{}", b'""', b"\\ud83d", b"\x1b[31m"),
    *(b"[" * 300, b'{"a":' * 300, b"9" * 5000, b"\xff\xfe", b"\x00", b"\n", b",", b";", b'"', b"'", b"(ms)", b"^9^9"),
    *(b"\xe2\x80\xae", b"1_000", b"1,000.5", b"#", b"\r", b"\t", b"=1+1", b"n n", b"..", b"*", b"1e400", b"-0.0"),
]


def logbook() -> bytes:
    """A small logbook with every kind of record."""
    rows: list[dict[str, Any]] = [
        {"kind": "logbook", "format": "logarithm-logbook", "version": 2, "software": "logarithm"},
        {"kind": "machine", "system": "Linux", "processor": "tide", "cores": 2, "python": "CPython 3.11"},
        {"kind": "study", "name": "buoys", "sizes": [8, 16, 32, 64], "budget": 9.0, "ceiling": 1.0},
        {"kind": "contender", "name": "sweep", "claims": {"": "n log n"}, "baseline": True},
        {"kind": "contender", "name": "grid", "claims": {"": "n"}},
        {"kind": "family", "name": "calm"},
    ]
    for heat in range(1, 4):
        for size in (8, 16, 32, 64):
            for name, cost in (("sweep", 40 * size), ("grid", 900 + 9 * size)):
                rows.append(
                    {
                        **{
                            "kind": "trial",
                            "contender": name,
                            "family": "calm",
                            "size": size,
                            "heat": heat,
                            "process": 1,
                        },
                        **{"calls": 10, "elapsed": cost * 10 + heat, "overhead": 3.5, "pace": [900, 910]},
                    }
                )
    rows += [
        {"kind": "failure", "contender": "grid", "family": "calm", "size": 128, "reason": "ValueError", "detail": "x"},
        {"kind": "note", "topic": "trap", "text": "prints", "contender": "grid"},
        {"kind": "close", "reason": "finished", "elapsed": 3.5, "heats": 3, "lives": 1},
    ]
    return "".join(json.dumps(row) + "\n" for row in rows).encode()


TIDY = b"contender,size,value,unit,heat\n" + b"".join(
    b"%s,%d,%d.5,us,%d\n" % (name, n, n * 3, heat) for name in (b"a", b"b") for n in (8, 16, 32, 64) for heat in (1, 2)
)
WIDE = b"size;sweep (ms);grid\n8;1,5;2,25\n16;3;4\n32;6,5;1.000,5\n"
TOML = b"""name = "buoys"
sizes = "8..64 *2"
[[family]]
ready = "shuffled"
[[contender]]
name = "sweep"
command = ["sweep", "{size}", "{file}"]
claim = "n log n"
[agree]
within = 1e-9
"""
KEPT = json.dumps(
    {
        "format": "logarithm-instances",
        "version": 1,
        "study": "buoys",
        "instances": [
            {
                "contender": "sweep",
                "family": "calm",
                "kind": "worst",
                "size": 4,
                "count": 9,
                "instance": ["list", [1, 2.5]],
            }
        ],
    }
).encode()
REPLIES = [
    line_of(each)
    for each in (
        Answered(answer=["list", [1, "x"]]),
        Counted(values={"steps": 9}),
        Timed(calls=3, elapsed=900),
        Searched(typical=[1.0]),
    )
]
TEXTS = {
    "orders": (orders.parse, [b"n log n", b"n^1.5", b"2^n", b"O(n*n)", b"log log n", b"n!", b"n 2^n"]),
    "formulas": (formulas.parse, [b"n*(n-1)/2", b"ceil(log2(n+1))", b"2*n - 1", b"n**2"]),
    "sizes": (sizes.parse, [b"8..4096 *2", b"100..1000 +100", b"10, 100, 1000", b"1e3..1e6"]),
    "spans": (durations.seconds, [b"60s", b"1.5 min", b"200ms", b"1e3 us"]),
    "memory": (durations.capacity, [b"1GiB", b"512 MiB", b"100kB"]),
}


def changed(raw: bytes, chance: random.Random) -> bytes:
    """A valid input with some things wrong."""
    made = bytearray(raw)
    for _ in range(chance.choice((1, 1, 2, 3, 8))):
        at = chance.randrange(len(made) + 1)
        end = min(len(made), at + chance.choice((0, 1, 1, 2, 5, 20, 200)))
        match chance.randrange(6):
            case 0:
                made[at:end] = b""
            case 1:
                made[at:at] = chance.choice(PIECES)
            case 2:
                made[at:end] = chance.choice(PIECES)
            case 3:
                made[at:at] = made[at:end] * chance.choice((1, 2, 50))
            case 4:
                made[at:end] = bytes(chance.randrange(256) for _ in range(end - at))
            case 5:
                other = chance.randrange(len(made) + 1)
                made[at:end] = made[other : other + end - at]
    return bytes(made[:100_000])


def readers(folder: Path) -> dict[str, tuple[Callable[[bytes], Any], list[bytes], float]]:
    """What reads, valid inputs for it, and its share of the time."""

    def from_file(read: Callable[[Path], Any], ending: str) -> Callable[[bytes], Any]:
        path = folder / f"input{ending}"

        def of(raw: bytes) -> Any:
            path.write_bytes(raw)
            return read(path)

        return of

    def reported(raw: bytes) -> str:
        shown = rendered(Analysis(logbook_of("tide.jsonl", raw)).findings(), "text", 100)
        from rich.console import Console

        console = Console(width=100, color_system=None, markup=False, emoji=False, highlight=False)
        with console.capture() as captured:
            console.print(shown)
        if not is_harmless(captured.get()):
            raise AssertionError("the report holds what a terminal obeys")
        return captured.get()

    plain = {
        name: (lambda raw, read=read: read(raw.decode("utf-8", "replace")), valid, 0.08)
        for name, (read, valid) in TEXTS.items()
    }
    return {
        "logbook": (from_file(read_logbook, ".jsonl"), [logbook()], 0.15),
        "logbook, reported": (reported, [logbook()], 0.2),
        "table": (from_file(lambda path: imported(path), ".csv"), [TIDY, WIDE], 0.15),
        "study in TOML": (from_file(lambda path: toml.read(path, lambda *_: []), ".toml"), [TOML], 0.05),
        "kept instances": (from_file(lambda path: list(kept_instances(path, None, "worst")), ".json"), [KEPT], 0.05),
        "replies": (reply_of, REPLIES, 0.1),
        **plain,
    }


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=1.0)
    parser.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**6))
    asked = parser.parse_args()
    chance = random.Random(asked.seed)
    print(f"seed {asked.seed}\n\n| reader | inputs | read | refused in a line | faults | slowest |")
    print("|---|---|---|---|---|---|")
    total, faults = 0, 0
    with tempfile.TemporaryDirectory() as place:
        for name, (read, valid, share) in readers(Path(place)).items():
            counts: Counter[str] = Counter()
            slowest = 0.0
            until = time.monotonic() + 60 * asked.minutes * share
            while time.monotonic() < until:
                raw = changed(chance.choice(valid), chance)
                begun = time.monotonic()
                try:
                    read(raw)
                    counts["read"] += 1
                except (LogarithmError, Failed) as error:
                    is_line = "\n" not in str(error) and len(str(error)) < 1000
                    counts["refused" if is_line else "fault"] += 1
                    if not is_line and counts["fault"] < SHOWN:
                        print(f"  {name}: more than a line: {str(error)[:200]!r}")
                except Exception as error:
                    counts["fault"] += 1
                    if counts["fault"] < SHOWN:
                        frame = traceback.extract_tb(error.__traceback__)[-1]
                        place = f"{frame.filename}:{frame.lineno}"
                        print(f"  {name}: {type(error).__name__}: {error} at {place}: {raw[-120:]!r}")
                took = time.monotonic() - begun
                slowest = max(slowest, took)
                if took > SLOW:
                    counts["fault"] += 1
                    print(f"  {name}: {took:.1f} s for {raw[:80]!r}")
            every = counts["read"] + counts["refused"] + counts["fault"]
            total, faults = total + every, faults + counts["fault"]
            print(
                f"| {name} | {every} | {counts['read']} | {counts['refused']} | {counts['fault']} | {slowest:.2f} s |",
                flush=True,
            )
    print(f"\n{total} inputs, {faults} faults")


if __name__ == "__main__":
    main()
