"""What a search for worst cases found, as text."""

from __future__ import annotations

from collections.abc import Sequence

from rich.console import Group, RenderableType
from rich.text import Text

from ...results.findings import Findings
from .. import units
from ..contents.verdicts import Verdict, verdicts
from ..contents.worst import Case, sentences

COUNTED = {"work": "steps and counted operations", "memory": "bytes of memory"}


def render(cases: Sequence[Case], findings: Findings) -> RenderableType:
    """Lay out what was found, case by case, and the claims beside it."""
    metric = cases[0].metric if cases else "work"
    tries = sum(case.tries for case in cases)
    title = f"{units.name(findings.study.name)} · most {COUNTED.get(metric, metric)} · {tries} tries"
    parts: list[RenderableType] = [Text(title, style="bold")]
    for case in cases:
        parts.append("")
        for number, sentence in enumerate(sentences(case, findings)):
            parts.append(Text(f"  {sentence}" if number else sentence))
    parts.append(
        Text("\nA search finds what is bad; that it found no worse does not say that there is none.", style="dim")
    )
    if findings.claims:
        parts += ["", verdicts([Verdict.of(claim, findings, False) for claim in findings.claims])]
    return Group(*parts)
