"""Remake every picture in docs/screenshots/ from the demo data, and stop at the first command that fails.

Figures are drawn by the installed command. What the command prints is photographed in a real terminal on a
virtual screen, for which Xvfb, xterm and ImageMagick must be there; without them those pictures are left as
they are, with a word.

    python docs/remake_screenshots.py
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

from logarithm.demos import closest_buoys

SHOTS = Path(__file__).parent / "screenshots"
COMMAND = Path(sys.executable).with_name("logarithm")
NEEDED = ("Xvfb", "xterm", "import")
TERMINAL = [
    *("xterm", "-fa", "DejaVu Sans Mono", "-fs", "12", "-geometry", "126x41+0+0", "-bg", "#101418", "-fg", "#e6e6e6"),
    *("-xrm", "XTerm*scrollBar: false", "-tn", "xterm-256color"),
]

# Contenders with something wrong with each, so that the picture shows what a rehearsal finds.
TRAPS = """
from logarithm import Study
study = Study("foghorns", sizes="8..4096")
heard = {}
@study.family
def blasts(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def loudest(blasts):
    best = 0.0
    for blast in blasts:
        if blast > best: best = blast
    return best
@study.contender
def in_order(blasts):
    blasts.sort()
    return blasts[-1]
@study.contender
def remembered(blasts):
    if id(blasts) not in heard: heard[id(blasts)] = loudest(blasts), blasts
    return heard[id(blasts)][0]
@study.contender
def promised(blasts): return (blast for blast in blasts if blast > 0.99)
@study.contender
def shouted(blasts):
    print(max(blasts))
    return max(blasts)
@study.contender
def by_pairs(blasts): return next(b for b in blasts if all(b >= other for other in blasts))
"""


# Something to walk through: a list that changes in place, and a function that calls itself.
WALKED = """
from logarithm import Study
study = Study("moorings", sizes="4..64")
@study.family
def depths(n, rng): return [rng.randrange(2, 30) for _ in range(n)]
@study.contender
def by_depth(depths):
    for last in range(len(depths) - 1, 0, -1):
        for at in range(last):
            if depths[at] > depths[at + 1]:
                depths[at], depths[at + 1] = depths[at + 1], depths[at]
    return depths
@study.contender
def in_halves(depths):
    if len(depths) < 2:
        return depths
    middle = len(depths) // 2
    left, right = in_halves(depths[:middle]), in_halves(depths[middle:])
    merged = []
    while left and right:
        shallow = left if left[0] <= right[0] else right
        merged.append(shallow.pop(0))
    return merged + left + right
"""

QUICKER = "across = max(1, math.isqrt(len(buoys) // 2))"  # larger cells, so that something has changed

CLASS = """
from logarithm import Study
study = Study("rising-water", question="Which stretch of days brought the most water?", sizes="8..512 *2")
@study.family
def gauge(n, rng): return [rng.randrange(-50, 51) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n")
"""
ONE_PASS = """
def best(rises):
    top = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        top = max(top, total)
    return top
"""
HANDED_IN = {
    "abel": ONE_PASS,
    "berta": """
def best(rises):
    top = 0
    for start in range(len(rises)):
        total = 0
        for rise in rises[start:]:
            total += rise
            top = max(top, total)
    return top
""",
    "carla": "def best(rises):\n    return max(0, sum(rises))\n",
    "dirk": ONE_PASS.replace("    return", "    rises.clear()\n    return"),
    "edda": ONE_PASS.replace("    top =", "    while len(rises) > 4: pass\n    top =", 1),
    "finn": "import seafaring\n",
    "greta": "def most(rises):\n    return 0\n",
}


READING = {
    "report": ("closest-buoys", "logarithm report"),
    "crossover": ("closest-buoys", "logarithm crossover grid every_pair --family in_line"),
    "forecast": ("closest-buoys", "logarithm forecast --within 1s"),
    "contrast": ("closest-buoys", "logarithm contrast before.jsonl after.jsonl"),
    "ratio": ("closest-buoys", "logarithm plot --view ratio --out ratio.png --overwrite"),
    "page": ("closest-buoys", "logarithm report --format html --out page.html --overwrite"),
    "map": ("lowest-tides", "logarithm plot --view map --out map.png --overwrite"),
    "lines": ("tides", "logarithm growth --lines --family gauge"),
}
"""The commands that only read, each with the demo that they read of. A test runs them on stored logbooks."""
LINES = 38  # that a terminal shows with its prompt


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        run = partial(subprocess.run, cwd=room, check=True, stdout=subprocess.DEVNULL)
        run([COMMAND, "demo"])
        (figure,) = room.glob("logbooks/closest-buoys-*.png")
        shutil.copy(figure, SHOTS / "growth.png")
        read("ratio", room)
        shutil.copy(room / "ratio.png", SHOTS)
        read("page", room)
        browse("page", room / "page.html", 1280, 1000)
        for name in ("report", "crossover", "forecast"):
            photograph(name, READING[name][1], room)
        study = Path(closest_buoys.__file__)
        quicker = study.read_text(encoding="utf-8").replace("across = max(1, math.isqrt(len(buoys)))", QUICKER)
        (room / "study.py").write_text(quicker, encoding="utf-8")
        for file, out in ((study, "before.jsonl"), ("study.py", "after.jsonl")):
            run([COMMAND, "measure", file, "--ceiling", "70ms", "--budget", "20s", "--out", out])
        photograph("contrast", READING["contrast"][1], room)
        remember(room / "project")
        words = shlex.split("history bench/study.py v1..HEAD --prepare 'python build.py' --budget 40s --overwrite")
        run([COMMAND, *words, "--figure", SHOTS / "history.png"], cwd=room / "project")
        run([COMMAND, "demo", "lowest-tides"])
        read("map", room)
        shutil.copy(room / "map.png", SHOTS)
        run([COMMAND, "demo", "tides"])
        photograph("lines", READING["lines"][1], room)
        (room / "walked.py").write_text(WALKED)
        run([COMMAND, "walk", "walked.py", "by_depth", "--size", "8", "--out", SHOTS / "walk.png", "--overwrite"])
        run([COMMAND, "walk", "walked.py", "in_halves", "--size", "8", "--out", "walk.html"])
        browse("walk_page", room / "walk.html", 1280, 800, at="#96")
        hand_in(room)
        photograph("class", "logarithm assess class.py --pages back", room)
        browse("class_page", room / "back" / "berta.html", 1280, 900)
        (room / "traps.py").write_text(TRAPS)
        photograph("rehearse", "logarithm rehearse traps.py", room, code=1)
        photograph("machine", "logarithm machine 2>/dev/null", room)
        photograph("help", "logarithm --help", room)
        photograph("live", "logarithm demo --budget 20s", room, after=9.5)  # taken while it runs
        soundings = Path(closest_buoys.__file__).with_name("soundings.py")
        searched = subprocess.run([COMMAND, "worst", soundings, "--figure", "worst.png"], cwd=room, check=False)
        if searched.returncode not in (0, 1):  # 1: a claim is contradicted
            raise SystemExit(f"logarithm worst ended with exit code {searched.returncode}")
        shutil.copy(room / "worst.png", SHOTS / "worst.png")


def read(name: str, room: Path) -> None:
    """Run a command that only reads."""
    subprocess.run([COMMAND, *shlex.split(READING[name][1])[1:]], cwd=room, check=True, stdout=subprocess.DEVNULL)


def remember(folder: Path) -> None:
    """A small project with a history."""
    sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks" / "revisions"))
    from made import made_in

    made_in(folder)


def hand_in(room: Path) -> None:
    """A small class with something wrong with some of what it handed in."""
    (room / "handed-in").mkdir()
    for name, text in HANDED_IN.items():
        (room / "handed-in" / f"{name}.py").write_text(text)
    (room / "class.py").write_text(CLASS)


def browse(name: str, page: Path, width: int, height: int, dark: bool = False, at: str = "") -> None:
    """Take a picture of a page in a browser without a screen."""
    browser = shutil.which("chromium") or shutil.which("google-chrome")
    if browser is None:
        print(f"{name}.png is left as it is: no Chromium is installed")
        return
    with tempfile.TemporaryDirectory() as profile:
        switches = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--hide-scrollbars"]
        switches += [f"--user-data-dir={profile}", f"--window-size={width},{height}"]
        switches += [f"--blink-settings=preferredColorScheme={0 if dark else 1}"]
        command = [browser, *switches, f"--screenshot={SHOTS / name}.png", page.resolve().as_uri() + at]
        subprocess.run(command, check=True, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)


def photograph(name: str, command: str, folder: Path, after: float = 60.0, code: int = 0) -> None:
    """Take a picture of the output of a command in a terminal of 1280 by 800 pixels.

    Args:
        name: of the picture.
        command: as it is typed.
        folder: where it runs.
        after: seconds after which the picture is taken, if the command still runs.
        code: the exit code that is expected.
    """
    missing = [tool for tool in NEEDED if shutil.which(tool) is None]
    if missing:
        print(f"{name}.png is left as it is: {', '.join(missing)} is not installed")
        return
    done = folder / f"{name}.done"
    script = folder / f"{name}.sh"
    shown = f"export PATH={shlex.quote(str(COMMAND.parent))}:$PATH CLICOLOR_FORCE=1 FORCE_COLOR=1 COLUMNS=124\n"
    # A terminal shows the first lines only: what is below does not scroll them away.
    output, ended = shlex.quote(str(folder / f"{name}.txt")), shlex.quote(str(done))
    kept = command if after < 60 else f"({command}) > {output}; code=$?; head -n {LINES} {output}"
    script.write_text(f"{shown}tput civis\n{kept}\necho ${{code:-$?}} > {ended}\nsleep 60\n")
    read, write = os.pipe()
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    environment = {**os.environ, "DISPLAY": f":{os.read(read, 20).decode().strip()}"}
    terminal = subprocess.Popen([*TERMINAL, "-e", "bash", str(script)], cwd=folder, env=environment)
    try:
        deadline = time.monotonic() + after
        while not (done.exists() and done.read_text()) and time.monotonic() < deadline:
            time.sleep(0.2)
        time.sleep(0.5)
        if done.exists() and int(done.read_text()) != code:
            raise SystemExit(f"{command} ended with exit code {done.read_text().strip()}")
        if not done.exists() and after == 60:
            raise SystemExit(f"{command} takes more than {after:g} s")
        subprocess.run(["import", "-window", "root", str(SHOTS / f"{name}.png")], env=environment, check=True)
    finally:
        terminal.kill()
        screen.kill()


if __name__ == "__main__":
    main()
