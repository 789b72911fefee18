"""Write docs/messages.md: every sentence that Logarithm can say, read from its source.

Run it from the project's folder, in the environment that Logarithm is installed in:

python docs/write_messages.py
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

PAGE = Path(__file__).with_name("messages.md")
SOURCE = Path(__file__).parents[1] / "src" / "logarithm"
WORDS_LEAST = 3
LEFT_OUT = ("demos", "drafts", "counting/code", "worker/sandbox/namespaces.py", "study/cells.py")  # code, not sentences


def sentences(path: Path) -> Iterator[str]:
    """The sentences of a module, in its order; what is filled in stands as {its name}."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    quiet = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            quiet |= {id(each) for part in ast.walk(node) for each in ast.iter_child_nodes(part)}
    found = [
        (node.lineno, _text(node))
        for node in ast.walk(tree)
        if isinstance(node, (ast.JoinedStr, ast.Constant)) and id(node) not in quiet
    ]
    for _, text in sorted(found):
        if len(re.findall(r"[a-z]{2,}", re.sub(r"\{.*?\}", "", text))) >= WORDS_LEAST and " " in text.strip():
            yield " ".join(text.split())


def _text(node: ast.JoinedStr | ast.Constant) -> str:
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else ""
    return "".join(str(p.value) if isinstance(p, ast.Constant) else f"{{{_name(p)}}}" for p in node.values)


def _name(part: ast.expr) -> str:
    """What is filled in, by the last name that its expression has."""
    names = [
        each.attr if isinstance(each, ast.Attribute) else each.id
        for each in ast.walk(part)
        if isinstance(each, (ast.Attribute, ast.Name))
    ]
    shown = [name for name in names if name not in ("units", "self", "each", "str", "len", "pretty", "one_line")]
    return (shown or ["…"])[0].strip("_")


def written() -> str:
    """The page."""
    lines = ["# Every message\n", "Written by `docs/write_messages.py` from the source. `{…}` is filled in.\n"]
    for path in sorted(SOURCE.rglob("*.py")):
        name = path.relative_to(SOURCE).with_suffix("").as_posix()
        if any(part in path.as_posix() for part in LEFT_OUT):
            continue
        found = list(dict.fromkeys(sentences(path)))
        if found:
            lines += [f"\n## {name}\n", *(f"- {text.replace('<', '&lt;')}" for text in found)]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(written(), encoding="utf-8")
    sys.stdout.write(f"{PAGE}\n")
