"""The command for continuous integration, which asks whether claims hold."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .common import Overwrite, findings_of, guard, results, tell
from .measure import Budget, Ceiling, Quiet, Telling, Verbose, run

if TYPE_CHECKING:
    from ..report.contents.verdicts import Verdict
    from ..results.findings import Findings
    from ..run.plan.settings import Settings


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
    from ..api.verify import verdicts_in
    from ..report.contents.verdicts import verdicts
    from ..report.text.junit import write_junit

    if junit is not None:
        guard(junit, overwrite)
    if subject is not None and subject.suffix in (".py", ".toml"):
        name, rows = _measured(subject, budget, ceiling, strict, Telling(quiet, verbose))
    else:
        findings = findings_of(subject)
        name, rows = findings.study.name, verdicts_in(findings, strict)
    results().print(verdicts(rows))
    if junit is not None:
        write_junit(name, rows, junit)
        tell(f"JUnit XML: {junit}")
    failing_rows = [row for row in rows if row.fails]
    if failing_rows:
        first = failing_rows[0]
        more = f", and {len(failing_rows) - 1} more" if len(failing_rows) > 1 else ""
        tell(f"exit code 1: {first.claim} of {first.contender} on {first.where} is {first.verdict}{more}")
        raise typer.Exit(1)


def _measured(study: Path, budget: str, ceiling: str, strict: bool, telling: Telling) -> tuple[str, list[Verdict]]:
    """The name of a study and its claims, measured now."""
    from ..api.options import settings_of
    from ..api.verify import verified
    from ..study.loading import load

    loaded = load(study)

    def measure(settings: Settings) -> Findings:
        path = run(loaded, study, settings, None, telling)
        if not telling.quiet:
            tell(f"logbook: {path}")
        return findings_of(path)

    def doubting(names: list[str]) -> None:
        if not telling.quiet:
            tell(f"measured again, before it is believed: {', '.join(names)}")

    return loaded.name, verified(settings_of(loaded, study, budget, ceiling), measure, doubting, strict)
