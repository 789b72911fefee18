"""Remakes every picture in docs/screenshots/ from the demo data.

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


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        run = partial(subprocess.run, cwd=room, check=True, stdout=subprocess.DEVNULL)
        run([COMMAND, "demo"])
        (figure,) = room.glob("logbooks/closest-buoys-*.png")
        shutil.copy(figure, SHOTS / "growth.png")
        run([COMMAND, "plot", "--view", "ratio", "--out", SHOTS / "ratio.png", "--overwrite"])
        run([COMMAND, "report", "--format", "html", "--out", "page.html"])
        browse("page", room / "page.html", 1280, 1000)
        photograph("report", "logarithm report | head -n 40", room)
        photograph("crossover", "logarithm crossover --only grid --only every_pair --family in_line", room)
        photograph("forecast", "logarithm forecast --within 1s && echo && logarithm verify", room)
        study = Path(closest_buoys.__file__)
        quicker = study.read_text(encoding="utf-8").replace("across = max(1, math.isqrt(len(buoys)))", QUICKER)
        (room / "study.py").write_text(quicker, encoding="utf-8")
        for file, out in ((study, "before.jsonl"), ("study.py", "after.jsonl")):
            run([COMMAND, "measure", file, "--ceiling", "70ms", "--budget", "20s", "--out", out])
        photograph("contrast", "logarithm contrast before.jsonl after.jsonl | head -n 40", room)
        remember(room / "project")
        words = [
            "history",
            "bench/study.py",
            "v1..HEAD",
            "--prepare",
            "python build.py",
            "--budget",
            "40s",
            "--figure",
            SHOTS / "history.png",
            "--overwrite",
        ]
        run([COMMAND, *words], cwd=room / "project")
        run([COMMAND, "demo", "lowest-tides"])
        run([COMMAND, "plot", "--view", "map", "--out", SHOTS / "map.png", "--overwrite"])
        run([COMMAND, "demo", "tides"])
        photograph("lines", "logarithm growth --lines --family gauge | head -n 44", room)
        (room / "walked.py").write_text(WALKED)
        run([COMMAND, "walk", "walked.py", "by_depth", "--size", "8", "--out", SHOTS / "walk.png", "--overwrite"])
        run([COMMAND, "walk", "walked.py", "in_halves", "--size", "8", "--out", "walk.html"])
        browse("walk_page", room / "walk.html", 1280, 800, at="#96")
        hand_in(room)
        photograph("class", "logarithm assess class.py --pages back", room)
        browse("class_page", room / "back" / "berta.html", 1280, 900)
        (room / "traps.py").write_text(TRAPS)
        photograph("rehearse", "logarithm rehearse traps.py", room)
        photograph("machine", "logarithm machine 2>/dev/null", room)
        photograph("help", "logarithm --help", room)
        photograph("live", "logarithm demo --budget 20s", room, after=9.5)
        soundings = Path(closest_buoys.__file__).with_name("soundings.py")
        searched = subprocess.run([COMMAND, "worst", soundings, "--figure", "worst.png"], cwd=room, check=False)
        assert searched.returncode in (0, 1)
        shutil.copy(room / "worst.png", SHOTS / "worst.png")


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


def photograph(name: str, command: str, folder: Path, after: float = 60.0) -> None:
    """Take a picture of what a command prints in a terminal of 1280 by 800 pixels, at its end or `after` so long."""
    missing = [tool for tool in NEEDED if shutil.which(tool) is None]
    if missing:
        print(f"{name}.png is left as it is: {', '.join(missing)} is not installed")
        return
    done = folder / f"{name}.done"
    script = folder / f"{name}.sh"
    shown = f"export PATH={shlex.quote(str(COMMAND.parent))}:$PATH CLICOLOR_FORCE=1 FORCE_COLOR=1 COLUMNS=124\n"
    script.write_text(f"{shown}tput civis\n{command}\ntouch {shlex.quote(str(done))}\nsleep 60\n")
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
        while not done.exists() and time.monotonic() < deadline:
            time.sleep(0.2)
        time.sleep(0.5)
        subprocess.run(["import", "-window", "root", str(SHOTS / f"{name}.png")], env=environment, check=True)
    finally:
        terminal.kill()
        screen.kill()


if __name__ == "__main__":
    main()
