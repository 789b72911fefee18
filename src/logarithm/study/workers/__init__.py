"""Workers around plain functions of an array of numbers, in C, C++, Rust and JavaScript: written and built by us.

This module needs nothing but the standard library, because a worker process imports what it writes beside the study.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ...errors import StudyError, there

HERE = Path(__file__).parent
COMPILERS = {".c": "cc", ".cc": "c++", ".cpp": "c++", ".cxx": "c++"}
SCRIPTS = {".js": "node", ".cjs": "node"}
RUST = ".rs"
ENDINGS = (*COMPILERS, RUST, *SCRIPTS)
REMARKS = re.compile(r"//[^\n]*|/\*.*?\*/|^\s*#[^\n]*", re.DOTALL | re.MULTILINE)
SIGNATURE = (
    r"(?P<returns>[A-Za-z_][\w\s]*?)\s+{name}\s*\("
    r"\s*(?P<numbers>[^,()]+?)\s*(?:\*\s*\w+|\w+\s*\[\s*\])\s*,\s*[\w\s]+\)\s*\{{"
)
RUST_DEFINED = r"\bfn\s+(\w+)"
RUST_SIGNATURE = (
    r"\bfn\s+{name}\s*\(\s*(?:mut\s+)?\w+\s*:\s*(?P<how>&\s*mut\b|&)?\s*"
    r"(?:\[\s*(?P<slice>\w+)\s*\]|Vec\s*<\s*(?P<vector>\w+)\s*>)\s*,?\s*\)"
)
DEFINED, NO_FUNCTIONS = r"\b(\w+)\s*\([^()]*\)\s*\{", ("if", "for", "while", "switch", "main")
SCRIPTED = r"\bfunction\s+(\w+)|\b(?:const|let|var)\s+(\w+)\s*=\s*(?:async\s*)?(?:\(|function|\w+\s*=>)"
GLUE = """\
static void put_{name}(char *values, size_t at, double value) {{ (({kind} *)values)[at] = ({kind})value; }}
static double get_{name}(const char *values, size_t at) {{ return (double)((const {kind} *)values)[at]; }}
static void call_{name}(char *values, size_t count) {{ {answer}{name}(({kind} *)values, count); }}"""


@dataclass(frozen=True, slots=True)
class Worker:
    """What starts the worker of a function, and what builds it; the same for all functions of a file."""

    name: str
    arguments: tuple[str, ...]
    build: tuple[str, ...]


def workers_of(file: Path, functions: Sequence[str], folder: Path) -> list[Worker]:
    """The workers around functions of a file, written into a folder.

    Raises:
        StudyError: where a function is not there, or is none of an array of numbers and how many there are.
    """
    if not file.is_file():
        raise StudyError(f"{file}: there is no such file")
    text = file.read_text(encoding="utf-8", errors="replace")
    if file.suffix in SCRIPTS:
        known = re.findall(
            r"\bfunction\s+(\w+)|\b(?:const|let|var)\s+(\w+)\s*=\s*(?:async\s*)?(?:\(|function|\w+\s*=>)", text
        )
        names = [one or other for one, other in known]
        _check(file, functions, names)
        script = str(HERE / "worker.js")
        return [Worker(name, (SCRIPTS[file.suffix], script, str(file.resolve()), name), ()) for name in functions]
    if file.suffix == RUST:
        written, out = folder / "worker.rs", "{build}/race"
        written.write_text(_around_rust(file, functions, text), encoding="utf-8")
        made = ("rustc", "-C", "opt-level=2", "--edition", "2021", "-o", out, str(written))
        return [Worker(name, (out, name), made) for name in functions]
    bare = REMARKS.sub(" ", text)
    _check(file, functions, [name for name in re.findall(DEFINED, bare) if name not in NO_FUNCTIONS])
    written = folder / f"worker{file.suffix}"
    written.write_text(_around(file, functions, bare), encoding="utf-8")
    out = "{build}/race"
    build = (COMPILERS[file.suffix], "-O2", "-o", out, str(written), "-lm")
    return [Worker(name, (out, name), build) for name in functions]


def _check(file: Path, functions: Sequence[str], known: Sequence[str]) -> None:
    for name in functions:
        if name not in known:
            raise StudyError(f"{file}: no function '{name}': {there(list(dict.fromkeys(known)))}")


def _around(file: Path, functions: Sequence[str], bare: str) -> str:
    """The text of a worker in C around functions of a file."""
    parts, rows = [], []
    for name in functions:
        returns, kind, is_changed = array_function(file, name, bare)
        changes = int(is_changed)
        answer = "" if returns == "void" else "answer = (double)"
        parts.append(GLUE.format(name=name, kind=kind, answer=answer))
        methods = f"put_{name}, get_{name}, call_{name}"
        rows.append(f'{{"{name}", sizeof({kind}), {changes}, {int(returns != "void")}, {methods}}}')
    text = (HERE / "worker.c").read_text(encoding="utf-8")
    filled = {"{file}": f'"{file.resolve()}"', "{functions}": "\n".join(parts), "{table}": "{" + ", ".join(rows) + "}"}
    for key, value in filled.items():
        text = text.replace(key, value)
    return text


def array_function(file: Path, name: str, text: str) -> tuple[str, str, bool]:
    """What a function of C returns, of which numbers its array is, and whether it may change them.

    Raises:
        StudyError: where it is no function of an array and how long that is.
    """
    found = re.search(SIGNATURE.format(name=re.escape(name)), REMARKS.sub(" ", text))
    if found is None:
        wanted = f"double {name}(const double *values, size_t many)"
        raise StudyError(f"{file.name}: {name} is no function of an array of numbers: write {wanted}")
    kept = {"static", "inline", "extern", "const"}
    kind, returns = (
        " ".join(word for word in found[part].split() if word not in kept) for part in ("numbers", "returns")
    )
    return returns, kind, "const" not in found["numbers"].split()


def _around_rust(file: Path, functions: Sequence[str], text: str) -> str:
    """The text of a worker in Rust around functions of a file."""
    bare = re.sub(r"//[^\n]*|/\*.*?\*/", " ", text, flags=re.DOTALL)
    _check(file, functions, [name for name in re.findall(RUST_DEFINED, bare) if name not in NO_FUNCTIONS])
    rows = []
    for name in functions:
        found = re.search(RUST_SIGNATURE.format(name=re.escape(name)), bare)
        if found is None:
            wanted = f"fn {name}(values: &[f64]) -> f64"
            raise StudyError(f"{file}: {name} is no function of an array of numbers: write {wanted}")
        how, kind = (found["how"] or "").replace(" ", ""), found["slice"] or found["vector"]
        given = "std::mem::take(values)" if not how else "values"
        changes = "false" if how == "&" else "true"
        call = f"|values: &mut Vec<{kind}>| {name}({given})"
        rows.append(
            f'            "{name}" => Some(Box::new(super::Function '
            f"{{ call: {call}, changes: {changes}, loaded: Vec::new(), next: 0 }})),"
        )
    made = (HERE / "worker.rs").read_text(encoding="utf-8")
    return made.replace("{file}", f'"{file.resolve()}"').replace("{functions}", "\n".join(rows))
