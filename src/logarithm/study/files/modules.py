"""The modules of a project that a file imports, packages and what these import included; libraries are left out."""

from __future__ import annotations

import ast
import sys
import sysconfig
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path

OWN = Path(__file__).resolve().parents[2]
LIBRARIES = ("site-packages", "dist-packages")
COMPILED = (".so", ".pyd")


def imported_by(file: Path, statements: Iterable[ast.stmt]) -> set[Path]:
    """The files of a project that some statements of a file import, and all that these import in turn."""
    found: set[Path] = set()
    inside = (each for node in statements for each in ast.walk(node) if isinstance(each, ast.stmt))
    waiting = [(file, *each) for node in inside for each in _names(node)]
    while waiting:
        where, level, name = waiting.pop()
        for path in _files(where, level, name):
            if path not in found and _is_of_project(path):
                found.add(path)
                waiting += [(path, *each) for each in _imports(path, path.stat().st_mtime_ns)]
    return found


@lru_cache(maxsize=512)
def _imports(file: Path, _changed: int) -> tuple[tuple[int, str], ...]:
    """What a file imports, within functions too, as (dots, dotted name)."""
    if file.suffix in COMPILED:
        return ()
    try:
        tree = ast.parse(file.read_bytes())
    except (OSError, SyntaxError, ValueError):
        return ()
    return tuple(each for node in ast.walk(tree) if isinstance(node, ast.stmt) for each in _names(node))


def _names(node: ast.stmt) -> Iterator[tuple[int, str]]:
    """The modules that a statement may import; what stands after `from … import` may be one, too."""
    if isinstance(node, ast.Import):
        yield from ((0, each.name) for each in node.names)
    elif isinstance(node, ast.ImportFrom):
        module = node.module or ""
        yield node.level, module
        yield from ((node.level, f"{module}.{each.name}".strip(".")) for each in node.names)


def _files(where: Path, level: int, name: str) -> Iterator[Path]:
    """The files behind a dotted name: the module, and the packages that it lies in."""
    parts = [part for part in name.split(".") if part and part != "*"]
    if level:
        roots = [where.parents[level - 1]]
    elif parts[:1] == [OWN.name]:
        return  # this package, of which there may be several copies on the path
    else:
        loaded = sys.modules.get(name)
        if loaded is not None and getattr(loaded, "__file__", None):
            yield Path(str(loaded.__file__)).resolve()
        roots = [where.parent, *(Path(each) for each in sys.path if not any(part in each for part in LIBRARIES))]
    for root in roots:
        folder = root
        for at, part in enumerate(parts):
            names, below = _listing(folder), folder / part
            if part in names and "__init__.py" in _listing(below):
                yield below / "__init__.py"
            if at == len(parts) - 1:
                endings = tuple(each for each in names if each.startswith(f"{part}.") and each.endswith(COMPILED))
                yield from (folder / each for each in (f"{part}.py", *endings) if each in names)
            if part not in names:
                break
            folder = below


def _listing(folder: Path) -> frozenset[str]:
    """The names in a folder; none where there is no such folder. A project's are looked up thousands of times."""
    try:
        return _listed(folder, folder.stat().st_mtime_ns)
    except OSError:
        return frozenset()


@lru_cache(maxsize=4096)
def _listed(folder: Path, _changed: int) -> frozenset[str]:
    return frozenset(each.name for each in folder.iterdir())


@lru_cache(maxsize=1)
def _standard() -> tuple[Path, ...]:
    paths = sysconfig.get_paths()
    return tuple(Path(paths[key]).resolve() for key in ("stdlib", "platstdlib"))


def _is_of_project(path: Path) -> bool:
    """Whether a file is one of the project: no library's, and none of this package."""
    if any(part in LIBRARIES for part in path.parts) or path.is_relative_to(OWN):
        return False
    return not any(path.is_relative_to(each) for each in _standard())


def files_within(folder: Path) -> set[Path]:
    """The files of the modules loaded in this process that lie in a folder, libraries left out."""
    top = folder.resolve()
    loaded = (getattr(module, "__file__", None) for module in list(sys.modules.values()))
    files = {Path(file).resolve() for file in loaded if isinstance(file, str)}
    return {file for file in files if file.is_relative_to(top) and _is_of_project(file)}


def loaded_within(folder: Path) -> tuple[Path, ...]:
    """The places in a folder from which its modules were loaded in this process, such as its `src`."""
    top, found = folder.resolve(), dict[Path, None]()
    for name, module in list(sys.modules.items()):
        file = getattr(module, "__file__", None)
        if not isinstance(file, str) or name == "__main__" or name.startswith("logarithm_"):
            continue
        path = Path(file).resolve()
        if not path.is_relative_to(top) or not _is_of_project(path):
            continue
        ups = name.count(".") + (path.name == "__init__.py")
        if len(path.parents) > ups and path.parents[ups].is_relative_to(top):
            found[path.parents[ups]] = None
    return tuple(found)
