"""The command for continuous integration, which asks whether claims hold."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError
from .common import Overwrite, checked_settings, findings_of, guard, results, tell
from .measuring import Budget, Ceiling, Quiet, Telling, Verbose, run

if TYPE_CHECKING:
    from ..analysis.findings import ClaimFinding, Findings

FIRST = 0.45  # of the budget, for all claims; what is left is for those that seem contradicted


def verify(
    subject: Annotated[
        Path | None,
        typer.Argument(metavar="[LOGBOOK|STUDY]", help="A logbook, the newest if none is named, or a study."),
    ] = None,
    strict: Annotated[bool, typer.Option("--strict", help="Claims that are undecided or slower fail too.")] = False,
    budget: Budget = "60s",
    ceiling: Ceiling = "1s",
    junit: Annotated[Path | None, typer.Option("--junit", metavar="FILE", help="Also write JUnit XML.")] = None,
    overwrite: Overwrite = False,
    quiet: Quiet = False,
    verbose: Verbose = False,
) -> None:
    """Do the claims hold? The exit code is 1 where one is contradicted.

    Of a study, what seems contradicted is measured again, with what is left of the budget, before it is believed.
    """
    from ..report.contents.verdicts import Verdict, verdicts
    from ..report.text.junit import write_junit

    if junit is not None:
        guard(junit, overwrite)
    telling = Telling(quiet, verbose)
    is_study = subject is not None and subject.suffix in (".py", ".toml")
    findings = _measured(subject, budget, ceiling, None, telling) if is_study and subject else findings_of(subject)
    if not findings.claims:
        raise LogarithmError("no contender makes a claim: write @study.contender(claim='n log n')")
    claims = [(claim, findings) for claim in findings.claims]
    doubted = list(dict.fromkeys(each.contender for each in findings.claims if each.verdict == "contradicted"))
    if is_study and subject and doubted:
        if not quiet:
            tell(f"measured again, before it is believed: {', '.join(doubted)}")
        again = _measured(subject, budget, ceiling, doubted, telling)
        second = {_key(claim): (claim, again) for claim in again.claims}
        # Only what is contradicted twice is; what the longer run says of the others counts.
        claims = [
            second.get(_key(claim), (claim, found)) if claim.verdict == "contradicted" else (claim, found)
            for claim, found in claims
        ]
    failing = {"contradicted", "undecided", "slower"} if strict else {"contradicted"}
    rows = [Verdict.of(claim, found, claim.verdict in failing) for claim, found in claims]
    results().print(verdicts(rows))
    if junit is not None:
        write_junit(findings.study.name, rows, junit)
        tell(f"JUnit XML: {junit}")
    failing_rows = [row for row in rows if row.fails]
    if failing_rows:
        first = failing_rows[0]
        more = f", and {len(failing_rows) - 1} more" if len(failing_rows) > 1 else ""
        tell(f"exit code 1: {first.claim} of {first.contender} on {first.where} is {first.verdict}{more}")
        raise typer.Exit(1)


def _key(claim: ClaimFinding) -> tuple[str, str, str | None, str]:
    return claim.contender, claim.family, claim.stage, claim.metric


def _measured(study: Path, budget: str, ceiling: str, only: list[str] | None, telling: Telling) -> Findings:
    """The findings of a fresh run; of some contenders only, for longer."""
    from dataclasses import replace

    from ..study.loading import load

    loaded = load(study)
    settings = checked_settings(loaded, study, budget, ceiling, only=only)
    share, seed = (1 - FIRST, settings.seed + 1) if only else (FIRST, settings.seed)
    settings = replace(settings, budget=share * settings.budget, seed=seed)
    path = run(loaded, study, settings, None, telling)
    if not telling.quiet:
        tell(f"logbook: {path}")
    return findings_of(path)
