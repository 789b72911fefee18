"""A study and what it needs, as bytes: it travels to other machines by content, and leaves no trace there."""

from __future__ import annotations

import ast
import hashlib
from pathlib import Path, PurePosixPath

import msgspec

from ..errors import MeasuringError
from ..study.study import Study

BYTES_MOST = 64 * 2**20


class Pack(msgspec.Struct, frozen=True):
    """Files by their path from the study's folder on, and which of them is the study."""

    study: str
    files: dict[str, bytes]

    @property
    def digest(self) -> str:
        """What tells this pack from others."""
        whole = hashlib.sha256()
        for name in sorted(self.files):
            whole.update(name.encode() + b"\0" + self.files[name] + b"\0")
        return whole.hexdigest()[:16]


def packed(study: Study, study_file: Path) -> Pack:
    """The study with what it imports from its folder, what was handed in, and the files its programs name.

    Raises:
        MeasuringError: where something lies outside its folder, or it is too much.
    """
    folder = study_file.resolve().parent
    wanted = [study_file.resolve()]
    for contender in study.contenders:
        if contender.source is not None:
            wanted.append(Path(contender.source.file).resolve())
        if contender.program is not None:
            named = (*contender.program.arguments, *contender.program.build)
            wanted += [folder / each for each in named if (folder / each).is_file()]
        code = getattr(contender.code, "__code__", None)
        if code is not None and Path(code.co_filename).is_file():
            file = Path(code.co_filename).resolve()
            wanted += [file] if file.is_relative_to(folder) else []
    found: dict[str, bytes] = {}
    while wanted:
        file = wanted.pop()
        if not file.is_relative_to(folder):
            raise MeasuringError(
                f"{file} lies outside the study's folder {folder}: put it there, so that it can travel"
            )
        name = PurePosixPath(*file.relative_to(folder).parts).as_posix()
        if name not in found:
            found[name] = file.read_bytes()
            if file.suffix == ".py":
                wanted += _imported(found[name], file.parent, folder)
    if sum(map(len, found.values())) > BYTES_MOST:
        raise MeasuringError(f"the study and its files are more than {BYTES_MOST >> 20} MiB: that is too much to send")
    return Pack(study_file.name, found)


def unpacked(pack: Pack, folder: Path) -> Path:
    """Write the files of a pack into a folder. Returns where the study is.

    Raises:
        MeasuringError: where a name leads out of the folder.
    """
    for name, content in pack.files.items():
        path = folder / name
        if not path.resolve().is_relative_to(folder.resolve()):
            raise MeasuringError(f"'{name}' leads out of the folder")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
    return folder / pack.study


def _imported(text: bytes, *folders: Path) -> list[Path]:
    """The files in these folders that a module imports."""
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError):
        return []
    names = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            names += [each.name for each in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            names += [node.module, *(f"{node.module}.{each.name}" for each in node.names)]
    paths = [folder / name.replace(".", "/") for folder in folders for name in names]
    return [each for path in paths for each in (path.with_suffix(".py"), path / "__init__.py") if each.is_file()]
