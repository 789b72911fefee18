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
from pathlib import Path

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


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        subprocess.run([COMMAND, "demo"], cwd=room, check=True, stdout=subprocess.DEVNULL)
        (figure,) = room.glob("logbooks/closest-buoys-*.png")
        shutil.copy(figure, SHOTS / "growth.png")
        photograph("report", "logarithm report | head -n 40", room)
        photograph("growth_in_depth", "logarithm growth --only sweep --family clumped | head -n 40", room)
        photograph("forecast", "logarithm forecast --within 1s && echo && logarithm verify", room)
        (room / "traps.py").write_text(TRAPS)
        photograph("rehearse", "logarithm rehearse traps.py", room)
        photograph("machine", "logarithm machine 2>/dev/null", room)
        photograph("help", "logarithm --help", room)


def photograph(name: str, command: str, folder: Path) -> None:
    """Take a picture of what a command prints in a terminal of 1280 by 800 pixels."""
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
        deadline = time.monotonic() + 60
        while not done.exists() and time.monotonic() < deadline:
            time.sleep(0.2)
        time.sleep(0.5)
        subprocess.run(["import", "-window", "root", str(SHOTS / f"{name}.png")], env=environment, check=True)
    finally:
        terminal.kill()
        screen.kill()


if __name__ == "__main__":
    main()
