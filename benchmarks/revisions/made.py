"""A made project of twelve commits: two that slow, one that mends an order, one that breaks, others without effect."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

LEVELS = '''"""Water levels."""

from .sums import added


def highest(levels):
    """The highest level."""
    best = levels[0]
    for level in levels:
        if level > best:
            best = level
    return best


def spread(levels):
    """By how much levels differ, on average."""
    total = 0.0
    for at, one in enumerate(levels):
        for other in levels[:at]:
            total += abs(one - other)
    return added([total])
'''
SUMS = '''"""Sums."""


def added(values):
    """The sum."""
    total = 0.0
    for value in values:
        total += value
    return total
'''
STUDY = '''"""How quickly levels are looked through."""

from logarithm import Study

from tides import _rise
from tides.levels import highest, spread

study = Study("levels", sizes="16..512 *2")


@study.family
def gauge(n, rng):
    return [rng.random() for _ in range(n)]


study.contender(highest)
study.contender(spread)


@study.contender
def rise(levels):
    return _rise.rise(levels)


@study.referee
def is_right(levels, answer):
    return answer > 0
'''
RISE = """/* By how much levels rise in all, from one to the next. */
#include <Python.h>

static PyObject *rise(PyObject *self, PyObject *levels)
{
    double total = 1.0;
    Py_ssize_t many = PyList_Size(levels);
    for (Py_ssize_t at = 1; at < many; at++) {
        double step = PyFloat_AsDouble(PyList_GetItem(levels, at)) - PyFloat_AsDouble(PyList_GetItem(levels, at - 1));
        if (step > 0)
            total += step;
    }
    return PyFloat_FromDouble(total);
}

static PyMethodDef methods[] = {{"rise", rise, METH_O, NULL}, {NULL}};
static struct PyModuleDef module = {PyModuleDef_HEAD_INIT, "_rise", NULL, -1, methods};

PyMODINIT_FUNC PyInit__rise(void)
{
    return PyModule_Create(&module);
}
"""
BUILD = '''"""Build the compiled part: python build.py"""

import subprocess
import sysconfig
from pathlib import Path

TIDES = Path(__file__).resolve().parent / "src" / "tides"
ending = sysconfig.get_config_var("EXT_SUFFIX")
subprocess.run(
    ["cc", "-O2", "-shared", "-fPIC", "-I", sysconfig.get_paths()["include"], "_rise.c", "-o", f"_rise{ending}"],
    cwd=TIDES,
    check=True,
)
'''
COPIED = """    levels = PyList_AsTuple(levels);
    PyObject *again = PySequence_List(levels);
    Py_DECREF(levels);
    levels = PySequence_List(again);
    Py_DECREF(again);
"""
PREPARE = "python build.py"
SLOWER = LEVELS.replace("        if level > best:\n", "        if level > best and float(level) > float(best):\n")
SLOWER = SLOWER.replace(
    "    for level in levels:\n", "    for level in levels:\n        level = min(level, abs(level) + 0.0)\n"
)
MENDED = """    ordered = sorted(levels)
    total = 0.0
    for at, level in enumerate(ordered):
        total += (2 * at - len(ordered) + 1) * level
    return added([total])
"""
SUMMED = SUMS.replace("    total = 0.0\n", "    total = 0.0\n    values = [float(value) + 0.0 for value in values]\n")


def mended(text: str) -> str:
    """The text of `levels.py` with a quicker way to the spread."""
    return text[: text.index("    total = 0.0\n    for at, one")] + MENDED


def steps() -> list[tuple[str, dict[str, str]]]:
    """What each commit says, and the files it changes: 2 slows highest, 4 breaks, 7 mends spread, 10 slows rise."""
    slow, quick = SLOWER, mended(SLOWER)
    built = {"src/tides/_rise.c": RISE, "build.py": BUILD, ".gitignore": "*.so\n*.jsonl\nlogbooks/\n"}
    return [
        ("Levels", {"src/tides/levels.py": LEVELS, "src/tides/sums.py": SUMS, "src/tides/__init__.py": "", **built}),
        ("Say what it is for", {"README.md": "Levels of the harbour.\n"}),
        ("Look twice at each level", {"src/tides/levels.py": slow}),
        (
            "A word on the module",
            {"src/tides/levels.py": slow.replace("Water levels.", "Levels of the water, in metres.")},
        ),
        ("Sums by another name", {"src/tides/sums.py": SUMS.replace("def added", "def summed")}),
        ("The old name again", {"src/tides/sums.py": SUMS}),
        ("A list of harbours", {"harbours.txt": "north\n"}),
        ("Order first", {"src/tides/levels.py": quick}),
        ("Another harbour", {"harbours.txt": "north\nsouth\n"}),
        ("Remarks", {"src/tides/sums.py": SUMS.replace("    total = 0.0\n", "    # from nothing\n    total = 0.0\n")}),
        ("Steps through a tuple", {"src/tides/_rise.c": RISE.replace("levels)\n{\n", "levels)\n{\n" + COPIED)}),
        ("A last word", {"README.md": "Levels of the harbour, in metres.\n"}),
    ]


SLOWS, MENDS, BREAKS = ("Look twice at each level", "Steps through a tuple"), "Order first", "Sums by another name"


def made_in(folder: Path) -> list[str]:
    """Make the repository in a folder. Returns its commits from the oldest on; the first one is tagged v1."""
    folder.mkdir(parents=True, exist_ok=True)
    who = {"GIT_AUTHOR_NAME": "harbour", "GIT_AUTHOR_EMAIL": "h@example.org"}
    who |= {"GIT_COMMITTER_NAME": "harbour", "GIT_COMMITTER_EMAIL": "h@example.org"}

    def git(*words: str) -> str:
        return subprocess.run(
            ["git", "-C", str(folder), *words], check=True, capture_output=True, text=True, env={**os.environ, **who}
        ).stdout

    git("init", "-q", "-b", "main")
    (folder / "src" / "tides").mkdir(parents=True)
    (folder / "bench").mkdir()
    text = STUDY.replace(
        "from logarithm", "import sys\nfrom pathlib import Path\n\nsys.path.insert(0, str(SRC))\n\nfrom logarithm"
    )
    text = text.replace("sys.path", 'SRC = Path(__file__).resolve().parents[1] / "src"\nsys.path', 1)
    (folder / "bench" / "study.py").write_text(text)
    made = []
    for number, (subject, files) in enumerate(steps()):
        for name, content in files.items():
            (folder / name).write_text(content)
        git("add", "-A")
        git("commit", "-q", "-m", subject)
        made.append(git("rev-parse", "HEAD").strip())
        if not number:
            git("tag", "v1")
    subprocess.run([sys.executable, "build.py"], cwd=folder, check=True)
    return made
