from __future__ import annotations

import subprocess
import sys

import pytest

import logarithm


def test_the_version_and_the_public_names(harbour) -> None:
    assert harbour.installed("--version").out == f"logarithm {logarithm.__version__}\n"
    assert all(hasattr(logarithm, name) for name in logarithm.__all__)
    with pytest.raises(AttributeError):
        _ = logarithm.nothing


def test_asking_for_help_loads_nothing_heavy() -> None:
    code = (
        "import sys; sys.argv = ['logarithm', '--version']\n"
        "from logarithm.cli import main\n"
        "try: main()\nexcept SystemExit: pass\n"
        "heavy = {'numpy', 'scipy', 'matplotlib', 'msgspec', 'pandas', 'rich', 'psutil', 'logarithm.study'}\n"
        "sys.exit(', '.join(sorted(heavy & set(sys.modules))) or None)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert (done.returncode, done.stderr) == (0, "")


NAMES = [
    *("demo", "draft", "race", "rehearse", "measure", "report", "growth", "forecast", "verify", "plot", "machine"),
    "import",
]


@pytest.mark.parametrize("command", NAMES)
def test_every_command_helps_with_an_example(harbour, command: str) -> None:
    done = harbour.run(command, "--help")
    assert done.code == 0
    assert f"Example: logarithm {command}" in done.out


@pytest.mark.parametrize("arguments", [("sail",), ("measure",), ("report", "--format", "poem"), ("demo", "atlantis")])
def test_a_wrong_command_is_told_in_one_line(harbour, arguments: tuple[str, ...]) -> None:
    done = harbour.run(*arguments)
    assert (done.code, len(done.err.splitlines()), done.out) == (2, 1, "")


def test_the_demo_goes_from_start_to_figure(harbour) -> None:
    assert "closest-buoys" in harbour.run("demo", "--list").out
    done = harbour.installed("demo", "--budget", "8s")
    assert done.code == 0, done.err
    assert "Which two buoys have drifted closest?" in done.out
    assert "grows as" in done.out
    (figure,) = harbour.folder.glob("logbooks/*.png")
    assert f"figure:  {figure.relative_to(harbour.folder)}" in done.out
    assert "\x1b[" not in done.out  # no colours where there is no terminal
