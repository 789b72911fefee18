"""What a worker of a cluster does: unpack the study into a folder of its own, and do a job of it."""

from __future__ import annotations

import atexit
import importlib
import platform
import shutil
import tempfile
from pathlib import Path
from typing import Any, get_type_hints

import msgspec

from ..study.files.loading import load
from ..study.study import Study
from ..version import __version__
from .bundle import Pack, unpacked

_STUDIES: dict[str, tuple[Study, Path]] = {}


def versions() -> tuple[str, str]:
    """What must be the same on all machines."""
    return f"logarithm {__version__}", f"Python {platform.python_version()}"


def done(name: str, raw: bytes, job: bytes) -> bytes:
    """Do a job of a study.

    Args:
        name: the function that does it, as module:name.
        raw: the study and its files.
        job: written down as JSON.

    Returns:
        what came of it, as JSON.
    """
    module, _, called = name.partition(":")
    if not module.startswith("logarithm."):
        raise ValueError(f"'{name}' is not a function of Logarithm")
    function = getattr(importlib.import_module(module), called)
    study, file = _study(msgspec.msgpack.decode(raw, type=Pack))
    kind: Any = get_type_hints(function)["job"]
    return msgspec.json.encode(function(study, file, msgspec.json.decode(job, type=kind)))


def _study(pack: Pack) -> tuple[Study, Path]:
    """The study of a pack, unpacked once in this process; its folder is removed when the process ends."""
    if pack.digest not in _STUDIES:
        folder = Path(tempfile.mkdtemp(prefix="logarithm-study-"))
        atexit.register(shutil.rmtree, folder, ignore_errors=True)
        file = unpacked(pack, folder)
        _STUDIES[pack.digest] = load(file), file
    return _STUDIES[pack.digest]
