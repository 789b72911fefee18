"""What the code of a study says in a copy of its project: `probe STUDY TOP COPY` prints it as JSON.

The fingerprint of each contender's code, the project's files behind it, and modules that come from the tree at TOP and
not from the COPY.
"""

from __future__ import annotations

import contextlib
import json
import sys
from pathlib import Path

from ..errors import LogarithmError
from ..study.files.fingerprints import fingerprint_of
from ..study.files.loading import load
from ..study.files.modules import files_within


def main() -> None:
    """Load the study of the command line, and print what its code says."""
    file, top, copy = sys.argv[1:4]
    found: dict[str, object] = {"fault": "", "codes": {}, "files": [], "strays": []}
    try:
        with contextlib.redirect_stdout(sys.stderr):
            study = load(file)
            codes = {each.name: fingerprint_of(each.code) for each in study.contenders if each.program is None}
    except LogarithmError as error:
        found["fault"] = str(error)
    else:
        inside, outside = files_within(Path(copy)), files_within(Path(top))
        found |= {"codes": codes, "files": sorted(str(each.relative_to(Path(copy).resolve())) for each in inside)}
        found["strays"] = sorted(each.name for each in outside - inside)
    sys.stdout.write(json.dumps(found))


if __name__ == "__main__":
    main()
