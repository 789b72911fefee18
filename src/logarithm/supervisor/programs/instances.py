"""Instances as files for programs in other languages, made once for all programs of a process."""

from __future__ import annotations

import math
import tempfile
from pathlib import Path

from ...errors import MeasuringError
from ...protocol import clock
from ...protocol.requests import MAKING_MOST, PoolKey, seed_of
from ...study.study import Study
from .exchange import text_of

SEPARATOR = "\x1e"  # stands before each instance of a file that holds many, as RFC 7464 has it


class InstanceFiles:
    """The instances of a study, written down where a program needs them."""

    def __init__(self, study: Study) -> None:
        self.study = study
        self.room = tempfile.TemporaryDirectory(prefix="logarithm-")
        self.folder = Path(self.room.name)
        self.texts: dict[PoolKey, list[str]] = {}
        self.spent: dict[PoolKey, int] = {}
        self.files: dict[tuple[PoolKey, int, int], Path] = {}

    def hold(self, pool: PoolKey, count: int, within: float = MAKING_MOST) -> int:
        """Make as many instances as are asked for, or as time allows. Returns how many there are.

        Args:
            pool: whose instances.
            count: how many.
            within: nanoseconds that making those of this pool may take in all.
        """
        texts = self.texts.setdefault(pool, [])
        begun, before = clock.now(), self.spent.get(pool, 0)
        while len(texts) < count and (not texts or before + clock.now() - begun < within):
            family, size, seed = pool
            made = self.study.the_family(family)
            texts.append(text_of(made.instance(size, seed_of(seed, len(texts))), made.form))
        self.spent[pool] = before + clock.now() - begun
        return min(count, len(texts))

    def single(self, pool: PoolKey, number: int = 0) -> Path:
        """The file of one instance, as its family's format has it."""
        key = pool, number, number
        if key not in self.files:
            self.hold(pool, number + 1, math.inf)
            self._write(key, self.texts[pool][number])
        return self.files[key]

    def many(self, pool: PoolKey, first: int, end: int) -> Path:
        """The file of the instances from a first one to before another.

        Raises:
            MeasuringError: where an instance holds what stands between them.
        """
        key = pool, first, end
        if key not in self.files:
            self.hold(pool, end, math.inf)
            texts = self.texts[pool][first:end]
            if any(SEPARATOR in text for text in texts):
                raise MeasuringError(
                    f"an instance of family '{pool[0]}' holds the sign U+001E, which stands between two instances "
                    'of a file: give the family format="json"'
                )
            self._write(key, "".join(SEPARATOR + text + "\n" * (not text.endswith("\n")) for text in texts))
        return self.files[key]

    def empty(self) -> Path:
        """An empty file."""
        path = self.folder / "empty"
        path.touch()
        return path

    def _write(self, key: tuple[PoolKey, int, int], text: str) -> None:
        path = self.folder / f"instance-{len(self.files)}"
        path.write_text(text, encoding="utf-8")
        self.files[key] = path

    def end(self) -> None:
        """Remove all files."""
        self.room.cleanup()
