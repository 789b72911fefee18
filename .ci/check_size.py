"""Check that the package has no more lines than `.ci/largest_size` allows, and print the lines of each room.

The file must not allow over 200 lines more than there are: whoever removes lines lowers it.

    python .ci/check_size.py
"""

from __future__ import annotations

from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PACKAGE = ROOT / "src" / "logarithm"
EXAMPLES = ("demos", "drafts")  # data that ships, counted apart
SLACK = 200  # lines that the file may allow beyond those that there are


def lines_by_room() -> tuple[Counter[str], Counter[str], int]:
    """Return lines and files of each room, and the lines of the examples."""
    lines, files, examples = Counter[str](), Counter[str](), 0
    for path in sorted(PACKAGE.rglob("*.py")):
        room, *deeper = path.relative_to(PACKAGE).parts
        own = len(path.read_text(encoding="utf-8").splitlines())
        if room in EXAMPLES:
            examples += own
            continue
        room = room if deeper else "package"
        lines[room] += own
        files[room] += 1
    return lines, files, examples


def main() -> int:
    """Print the table. Returns the exit code."""
    lines, files, examples = lines_by_room()
    for room, own in lines.most_common():
        print(f"{room:12}{own:7,}{files[room]:5} files")
    tests = sum(len(path.read_text(encoding="utf-8").splitlines()) for path in (ROOT / "tests").rglob("*.py"))
    total, allowed = lines.total(), int((ROOT / ".ci" / "largest_size").read_text(encoding="utf-8"))
    print(f"{'all':12}{total:7,}{files.total():5} files; {allowed:,} lines are allowed")
    print(f"{'examples':12}{examples:7,}, counted apart")
    print(f"{'tests':12}{tests:7,}, {100 * tests / total:.0f} % of the package")
    if total > allowed:
        print(f"the package has {total - allowed} lines too many: remove lines, the largest size is not raised")
        return 1
    if allowed > total + SLACK:
        print(f"lower .ci/largest_size to {total}: it allows over {SLACK} lines more than there are")
        return 1
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
