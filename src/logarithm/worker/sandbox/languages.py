"""Functions that were handed in, in C, JavaScript or Java, as functions of Python: built and run inside the sandbox.

A function of C is called in this process, with an array made of the instance. Programs of the other two run beside it;
instances and answers go to and fro as lines of JSON. An instance may be handed over before it is called on, so that
this is no part of a timed call. The work of none of them is counted.
"""

from __future__ import annotations

import ctypes
import json
import re
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ...errors import StudyError, one_line
from ...study.workers import array_function

HERE = Path(__file__).parent
BUILD_S_MOST = 8.0
FEW = (
    *("-XX:+UseSerialGC", "-Xlog:disable", "-Xshare:auto", "-Xss8m", "-Xmx512m", "-XX:ReservedCodeCacheSize=48m"),
    "-XX:CompressedClassSpaceSize=32m",
)
"""Java within bounds of memory and threads; its compiler is Java, too."""
NUMBERS: dict[str, Any] = {
    **{"double": ctypes.c_double, "float": ctypes.c_float, "int": ctypes.c_int, "unsigned": ctypes.c_uint},
    **{"long": ctypes.c_long, "long long": ctypes.c_longlong, "size_t": ctypes.c_size_t, "int64_t": ctypes.c_int64},
    **{
        "int32_t": ctypes.c_int32,
        "unsigned int": ctypes.c_uint,
        "unsigned long": ctypes.c_ulong,
        "bool": ctypes.c_bool,
    },
    "_Bool": ctypes.c_bool,
}
ONE_NUMBER = r"([A-Za-z_][\w\s]*?)\s+{name}\s*\(\s*([A-Za-z_][\w\s]*?)\s+\w+\s*\)\s*\{{"


class ProgramError(Exception):
    """What a program in another language raised, in its own words."""


class Handed:
    """An instance that the other language has already."""

    __slots__ = ("value",)

    def __init__(self, value: Any) -> None:
        self.value = value


class Function:
    """A function in another language.

    Args:
        hand_over: gives it an instance, in its own form.
        answer: its answer to one that was handed over.
    """

    def __init__(self, hand_over: Callable[[Any], Any], answer: Callable[[Any], Any]) -> None:
        self._hand_over, self._answer = hand_over, answer

    def hand_over(self, instance: Any) -> Handed:
        """Give it an instance, to be called on later. Raises ProgramError."""
        return Handed(self._hand_over(instance))

    def __call__(self, instance: Any) -> Any:
        """Its answer to an instance, handed over or not. Raises ProgramError."""
        handed = instance if isinstance(instance, Handed) else self.hand_over(instance)
        return self._answer(handed.value)


def function_in(file: Path, name: str) -> Function:
    """A function of a file in another language.

    Raises:
        StudyError: where it cannot be built, or has no such function.
    """
    made = {".c": _in_c, ".js": _in_javascript, ".java": _in_java}[file.suffix]
    return made(file.resolve(), name)


def _in_c(file: Path, name: str) -> Function:
    text = file.read_text(encoding="utf-8", errors="replace")
    library = file.with_suffix(".so")
    _build("C", ["cc", "-O2", "-std=gnu11", "-shared", "-fPIC", "-lm", "-o", str(library), str(file)])
    try:
        called = getattr(ctypes.CDLL(str(library)), name)
    except AttributeError:
        raise StudyError(f"{file.name}: no function '{name}'") from None
    one = re.search(ONE_NUMBER.format(name=re.escape(name)), text)
    if one is not None and one[2] in NUMBERS and one[1] in NUMBERS:
        called.restype, called.argtypes = NUMBERS[one[1]], [NUMBERS[one[2]]]
        return Function(lambda instance: instance, called)
    returns, kind, _ = array_function(file, name, text)
    if kind not in NUMBERS or returns not in (*NUMBERS, "void"):
        raise StudyError(f"{file.name}: {name} is a function of {kind} that returns {returns}: neither is known here")
    part = NUMBERS[kind]
    called.restype = NUMBERS.get(returns)
    called.argtypes = [ctypes.POINTER(part), ctypes.c_size_t]

    def hand_over(instance: Any) -> Any:
        try:
            return (part * len(instance))(*instance)
        except TypeError:
            raise ProgramError(f"the instance is no array of {kind}") from None

    def answer(given: Any) -> Any:
        answered = called(given, len(given))
        return list(given) if returns == "void" else answered

    return Function(hand_over, answer)


def _in_javascript(file: Path, name: str) -> Function:
    return _Program("JavaScript", ["node", str(HERE / "answer.js"), str(file), name]).function()


def _in_java(file: Path, name: str) -> Function:
    text = file.read_text(encoding="utf-8", errors="replace")
    found = re.search(r"\bpublic\s+(?:final\s+)?class\s+(\w+)", text) or re.search(r"\bclass\s+(\w+)", text)
    if found is None:
        raise StudyError(f"{file.name}: no class")
    own = file.with_name(f"{found[1]}.java")
    own.write_text(text, encoding="utf-8")
    few = [f"-J{each}" for each in FEW]
    _build("Java", ["javac", *few, "-proc:none", "-d", str(file.parent), str(HERE / "Answer.java"), str(own)])
    run = ["java", *FEW, "-cp", str(file.parent), "Answer", found[1], name]
    return _Program("Java", run).function()


def _build(language: str, command: list[str]) -> None:
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=BUILD_S_MOST, check=False)
    except FileNotFoundError:
        raise StudyError(f"this machine has no {command[0]}, which {language} needs") from None
    except subprocess.TimeoutExpired:
        raise StudyError(f"{command[0]} takes more than {BUILD_S_MOST:g} s") from None
    if done.returncode:
        lines = [line for line in done.stderr.splitlines() if "error" in line] or done.stderr.splitlines()
        said = lines[0].removeprefix(f"{Path(command[-1]).parent}/") if lines else "no reason given"
        raise StudyError(one_line(f"{command[0]} refuses it: {said}", 200))


class _Program:
    """A program that answers a line with a line, in a process of its own."""

    def __init__(self, language: str, command: list[str]) -> None:
        try:
            self.process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
            )
        except FileNotFoundError:
            raise StudyError(f"this machine has no {command[0]}, which {language} needs") from None
        started = self.reply()
        if "error" in started:
            raise StudyError(one_line(str(started["error"]), 200))

    def function(self) -> Function:
        """The function that it answers with."""
        return Function(self.hand_over, lambda number: self.asked(f"={number}"))

    def hand_over(self, instance: Any) -> Any:
        """Give it an instance; its number."""
        try:
            return self.asked("+" + json.dumps(instance, allow_nan=False))
        except (TypeError, ValueError):
            raise ProgramError("such an instance cannot be handed to another language") from None

    def asked(self, line: str) -> Any:
        """What it answers to a line. Raises ProgramError."""
        assert self.process.stdin is not None
        try:
            self.process.stdin.write(line.encode() + b"\n")
            self.process.stdin.flush()
        except OSError:
            raise ProgramError("its program has ended") from None
        found = self.reply()
        if "error" in found:
            raise ProgramError(one_line(str(found["error"]), 200))
        return found.get("answer")

    def reply(self) -> dict[str, Any]:
        """The next line that it writes."""
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        try:
            found = json.loads(line)
        except ValueError:
            found = {"error": "its program has ended" if not line else "its program writes no answer"}
        return found if isinstance(found, dict) else {"error": "its program writes no answer"}
