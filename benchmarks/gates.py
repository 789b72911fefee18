"""Whether every gate stops what is broken or gone: kinds of broken code against the commands with an exit code.

    python benchmarks/gates.py [--budget 5s] [--only KIND]

Each kind is a study of two contenders of which one is broken in one way. Every command must end with an exit code that
is not 0, and say why in one line. What was measured before is the same study, unbroken.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

COMMAND = str(Path(sys.executable).with_name("logarithm"))
STUDY = """
import asyncio, ctypes, os, random, sys, time
from logarithm import Study

study = Study("highest-tide", sizes="8..512 *4")


@study.family
def tides(n, rng):
    return [rng.randrange(1000) for _ in range(n)]


@study.contender(claim="n", baseline=True)
def by_step(tides):
    best = tides[0]
    for tide in tides:
        if tide > best:
            best = tide
    return best


@study.contender(claim="n")
def broken(tides):
    {body}
    return max(tides)
"""
BODIES = {
    "raises at every size": "raise ValueError('no tide')",
    "raises above 100": "if len(tides) > 100: raise ValueError('too many')",
    "raises at one size": "if len(tides) == 128: raise KeyError(128)",
    "divides by zero": "1 / (len(tides) // 512 - 1)",
    "asks for what is not there": "tides[len(tides)]",
    "needs a module that is gone": "import harbour_of_old",
    "calls what is gone": "highest_of(tides)",
    "recursion too deep": "(lambda f: f(f, len(tides)))(lambda f, n: n and f(f, n + 1 - 2 * (n < 400)))",
    "fills the memory": "if len(tides) > 100: [0] * 10**11",
    "never ends": "while True: pass",
    "sleeps for ever": "time.sleep(1000)",
    "leaves by exit": "sys.exit(0)",
    "ends its process": "if len(tides) > 100: os._exit(0)",
    "ends with an error": "os._exit(3)",
    "breaks down": "if len(tides) > 100: ctypes.string_at(0)",
    "kills itself": "os.kill(os.getpid(), 9)",
    "interrupts": "raise KeyboardInterrupt",
    "answers wrongly": "return -1",
    "answers wrongly above 100": "if len(tides) > 100: return 0",
    "answers by chance": "return random.random()",
    "answers nothing": "return None",
    "answers a promise that fails": "return (1 // 0 for _ in tides)",
    "changes the clock and leaves": "time.perf_counter = None; raise SystemExit(0)",
    "asserts": "assert len(tides) < 100, 'too many'",
}
GONE = STUDY[: STUDY.index('@study.contender(claim="n")\ndef broken')]
SOUND = STUDY.format(body="pass")
MAKES = "    return [rng"
WHOLE = {
    "is gone": GONE,
    "has another name": SOUND.replace("def broken", "def mended"),
    "the file cannot be read": STUDY.format(body="return ("),
    "the file cannot be imported": "import harbour_of_old\n" + SOUND,
    "its family raises": STUDY.replace("    return [rng", "    raise OSError('no gauge')\n    return [rng").format(
        body="pass"
    ),
    "its family returns nothing": SOUND.replace(MAKES, "    [rng"),
    "its family takes other chance": SOUND.replace("rng.randrange", "random.randrange"),
    "its program is gone": GONE + '\nstudy.program("broken", worker=["./no-such-program"], claim="n")\n',
    "its worker dies": GONE + '\nstudy.program("broken", worker=["false"], claim="n")\n',
    "its program fails": GONE + '\nstudy.program("broken", command=["false", "{file}"], claim="n")\n',
    "its build fails": GONE
    + '\nstudy.program("broken", worker=["./b"], build=["cc", "gone.c", "-o", "{build}"], claim="n")\n',
}
NEEDS_BEFORE = ("is gone", "has another name")  # of these, only what was measured before tells


def ended(folder: Path, *words: str) -> tuple[int, str]:
    """The exit code of a command, and its last line of errors."""
    try:
        done = subprocess.run([COMMAND, *words], cwd=folder, capture_output=True, text=True, timeout=120)
    except subprocess.TimeoutExpired:
        return 0, "it does not end"
    lines = [line for line in done.stderr.splitlines() if line.strip()]
    return done.returncode, lines[-1] if lines else ""


def tried(kind: str, text: str, before: Path, budget: str) -> dict[str, tuple[int, str]]:
    """What each command ends with."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "study.py").write_text(text)
        made: dict[str, tuple[int, str]] = {}
        long = ("--budget", budget, "--ceiling", "0.3s")
        measured = ended(folder, "measure", "study.py", *long, "-q", "--out", "after.jsonl")
        if kind not in NEEDS_BEFORE:
            made["rehearse"] = ended(folder, "rehearse", "study.py", *long)
            made["measure"] = measured
            made["verify"] = ended(folder, "verify", "study.py", "-q", *long)
            if "@study.contender" in text and kind in BODIES:
                (folder / "tides.py").write_text(text.replace("@study.", "# @study."))
                made["race"] = ended(
                    folder, "race", "tides.py", "by_step", "broken", "--family", "shuffled", "-q", *long
                )
        if (folder / "after.jsonl").exists():
            made["contrast"] = ended(folder, "contrast", str(before), "after.jsonl")
            made["across"] = ended(folder, "across", str(before), "after.jsonl")
        return made


def main() -> None:
    """Print a row for each kind."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--budget", default="5s")
    parser.add_argument("--only")
    parser.add_argument("-v", action="store_true")
    asked = parser.parse_args()
    kinds = {**{kind: STUDY.format(body=body) for kind, body in BODIES.items()}, **WHOLE}
    chosen = {kind: text for kind, text in kinds.items() if asked.only in (None, kind)}
    with tempfile.TemporaryDirectory() as name, ThreadPoolExecutor(2) as pool:
        before = Path(name) / "before.jsonl"
        (Path(name) / "study.py").write_text(STUDY.format(body="pass"))
        code, said = ended(Path(name), "measure", "study.py", "--budget", asked.budget, "-q", "--out", str(before))
        assert code == 0, said
        rows = pool.map(lambda item: (item[0], tried(*item, before, asked.budget)), chosen.items())
        stopped = asked_in_all = 0
        for kind, made in rows:
            passed = [command for command, (code, _) in made.items() if code == 0]
            stopped, asked_in_all = stopped + len(made) - len(passed), asked_in_all + len(made)
            codes = ", ".join(f"{command} {code}" for command, (code, _) in made.items())
            print(f"{kind:30} {codes}{'   PASSED: ' + ', '.join(passed) if passed else ''}", flush=True)
            for command, (_, said) in made.items() if asked.v else ():
                print(f"    {command}: {said}")
    print(f"{len(chosen)} kinds of broken code: {stopped} of {asked_in_all} commands stopped")


if __name__ == "__main__":
    main()
