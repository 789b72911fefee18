"""A study from a TOML file, for those who write no Python: it gives the same plan as its twin in Python."""

from __future__ import annotations

import builtins
import re
import tomllib
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from ...errors import StudyError, one_line, there
from .. import families
from ..options import Words
from ..second import read_sizes
from ..study import OF_PROGRAMS, Study

TOP = (
    "name",
    "question",
    "sizes",
    "varies",
    "where",
    "vary",
    "count",
    "versions",
    "agree",
    "run",
    "family",
    "contender",
)
FAMILY = ("name", "ready", "python", "format", "levels")
AGREE = ("within", "unordered")
CODE = ("name", "python", *(word for word in Words.__annotations__ if word != "finish"))
PROGRAM = ("name", "command", "worker", "build", *OF_PROGRAMS)

Functions = Callable[[Path, list[str]], list[Callable[..., Any]]]


def read(path: Path, functions: Functions) -> Study:
    """The study in a TOML file.

    Args:
        path: the file.
        functions: gives the functions of these names in a Python file.

    Raises:
        StudyError: naming the line and the key of what cannot be used.
    """
    try:
        text = path.read_text(encoding="utf-8")
        given = tomllib.loads(text)
    except UnicodeDecodeError:
        raise StudyError(f"{path} is not in UTF-8: save it as UTF-8") from None
    except tomllib.TOMLDecodeError as error:
        at = re.search(r"line (\d+)", str(error))
        place = f":{at[1]}" if at else ""
        raise StudyError(f"{path}{place}: this is not TOML: {str(error).split(' (at')[0]}") from None
    except (ValueError, RecursionError) as error:
        raise StudyError(f"{path}: this is not TOML that can be used: {one_line(error, 80)}") from None
    return _Reader(path, text, functions).study(given)


class _Reader:
    def __init__(self, path: Path, text: str, functions: Functions) -> None:
        self.path, self.functions = path, functions
        self.lines = text.splitlines()

    def study(self, given: Mapping[str, Any]) -> Study:
        self.known(given, TOP, "the study", 1)
        study: Study = self.at(1, "name", lambda: Study(given.get("name", ""), given.get("question", "")))
        if "sizes" in given or "varies" in given:
            key = "sizes" if "sizes" in given else "varies"
            study.sizes, study.second = self.at(1, key, lambda: read_sizes(given.get("sizes"), given.get("varies")))
        if "where" in given:
            study.where(self.code(given["where"], 1, "where"))
        if "vary" in given:
            names = list(given["vary"]) if isinstance(given["vary"], dict) else []
            if len(names) != 1:
                self.wrong(self.line(1, "vary"), 'vary names one axis and its values: vary = { position = "0..99 +1" }')
            self.at(1, "vary", lambda: study.vary(names[0], given["vary"][names[0]]))
        for number, table in enumerate(self.tables(given, "family")):
            self.family(study, table, self.header("family", number))
        for number, table in enumerate(self.tables(given, "contender")):
            self.contender(study, table, self.header("contender", number))
        agree = given.get("agree", {})
        begin = next((at for at, line in enumerate(self.lines, 1) if line.strip().startswith("[agree]")), 1)
        if agree:
            self.known(agree, AGREE, "[agree]", begin)
            self.at(begin, "within", lambda: study.agree(**agree))
        if "run" in given:
            begin = next((at for at, line in enumerate(self.lines, 1) if line.strip().startswith("[run]")), 1)
            self.at(begin, "run", lambda: study.defaults(**given["run"]))
        if "versions" in given:
            self.at(1, "versions", lambda: study.versions(*given["versions"]))
        if "count" in given:
            self.at(1, "count", lambda: study.count(*given["count"]))
        return study

    def family(self, study: Study, table: Mapping[str, Any], begin: int) -> None:
        self.known(table, FAMILY, "[[family]]", begin)
        options = {key: table[key] for key in ("levels", "format") if key in table}
        if ("ready" in table) == ("python" in table):
            self.wrong(begin, '[[family]] needs either ready = "shuffled" or python = "harbour.py:berths"')
        if "ready" in table:
            ready = {make.__name__: make for make in families.ALL}
            if not isinstance(table["ready"], str) or table["ready"] not in ready:
                line = self.line(begin, "ready")
                self.wrong(line, f"there is no ready-made family '{table['ready']}': {there(list(ready), 20)}")
            code: Any = ready[table["ready"]]
        else:
            code = self.code(table["python"], begin)
        self.at(begin, "name", lambda: study.family(code, name=table.get("name"), **options))

    def contender(self, study: Study, table: Mapping[str, Any], begin: int) -> None:
        kinds = [kind for kind in ("python", "command", "worker") if kind in table]
        if len(kinds) != 1:
            self.wrong(begin, '[[contender]] needs one of python = "harbour.py:sweep", command = [...], worker = [...]')
        self.known(table, CODE if kinds == ["python"] else PROGRAM, "[[contender]]", begin)
        options = {key: value for key, value in table.items() if key not in ("python", "name")}
        if kinds == ["python"]:
            code = self.code(table["python"], begin)
            self.at(
                begin, next(iter(options), "name"), lambda: study.contender(code, name=table.get("name"), **options)
            )
        else:
            if not table.get("name"):
                self.wrong(begin, "[[contender]] that is a program needs a name")
            self.at(begin, kinds[0], lambda: study.program(table["name"], **options))

    def code(self, text: Any, begin: int, key: str = "python") -> Any:
        """The function that FILE:FUNCTION names."""
        line = self.line(begin, key)
        file, colon, name = str(text).rpartition(":")
        if not colon or not file or not name:
            self.wrong(line, f"{key} = {text!r} names no function: write FILE:FUNCTION, as in harbour.py:sweep")
        if file == "builtins" and callable(getattr(builtins, name, None)):
            return getattr(builtins, name)
        try:
            return self.functions(self.path.resolve().parent / file, [name])[0]
        except StudyError as error:
            raise StudyError(f"{self.path}:{line}: {key}: {error}") from error

    def tables(self, given: Mapping[str, Any], key: str) -> list[Mapping[str, Any]]:
        found: Any = given.get(key, [])
        if not isinstance(found, list) or not all(isinstance(each, dict) for each in found):
            self.wrong(self.line(1, key), f"{key} is a list of tables: write [[{key}]] above each")
        return list(found)

    def known(self, given: Mapping[str, Any], keys: tuple[str, ...], where: str, begin: int) -> None:
        for key in given:
            if key not in keys:
                self.wrong(self.line(begin, key), f"{where} has no key '{key}': {there(list(keys), 20)}")

    def at(self, begin: int, key: str, make: Callable[[], Any]) -> Any:
        """Make something of a key, naming its line where it cannot be used."""
        try:
            return make()
        except StudyError as error:
            raise StudyError(f"{self.path}:{self.line(begin, key)}: {key}: {error}") from error
        except TypeError as error:
            raise StudyError(f"{self.path}:{self.line(begin, key)}: {key}: {error}") from error

    def header(self, key: str, number: int) -> int:
        """The line of the n-th table of a kind."""
        found = [at for at, line in enumerate(self.lines, 1) if re.match(rf"\s*\[\[\s*{key}\s*\]\]", line)]
        return found[number] if number < len(found) else 1

    def line(self, begin: int, key: str) -> int:
        """The line at which a key stands, from `begin` on; `begin` where it is not there."""
        for at in range(begin, len(self.lines) + 1):
            if re.match(rf"\s*[\"']?{re.escape(key)}[\"']?\s*=", self.lines[at - 1]):
                return at
        return begin

    def wrong(self, line: int, what: str) -> None:
        raise StudyError(f"{self.path}:{line}: {what}")
