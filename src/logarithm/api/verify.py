"""Do the claims hold? What seems contradicted is measured again before it is believed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ..errors import LogarithmError
from ..report.contents.verdicts import Verdict
from ..results.findings import ClaimFinding, Findings
from ..run.plan.settings import Settings

FIRST = 0.45  # of the budget, for all claims; what is left is for those that seem contradicted


def verified(
    settings: Settings, measure: Callable[[Settings], Findings], doubting: Callable[[list[str]], None], strict: bool
) -> list[Verdict]:
    """The claims of a study, measured now, each with its verdict.

    Args:
        settings: of the whole.
        measure: measures the study with settings.
        doubting: called with the contenders that are measured again.
        strict: whether claims that are undecided or slower fail too.

    Raises:
        LogarithmError: where there is no claim.
    """
    first = measure(replace(settings, budget=FIRST * settings.budget))
    claims = [(claim, first) for claim in claims_of(first)]
    doubted = tuple(dict.fromkeys(claim.contender for claim, _ in claims if claim.verdict == "contradicted"))
    if doubted:
        doubting(list(doubted))
        rest = replace(settings, budget=(1 - FIRST) * settings.budget, seed=settings.seed + 1, contenders=doubted)
        again = measure(rest)
        second = {_key(claim): (claim, again) for claim in again.claims}
        # Only what is contradicted twice is; what the longer run says of the others counts.
        claims = [
            second.get(_key(claim), (claim, found)) if claim.verdict == "contradicted" else (claim, found)
            for claim, found in claims
        ]
    return [_verdict(claim, found, strict) for claim, found in claims]


def verdicts_in(findings: Findings, strict: bool) -> list[Verdict]:
    """The claims of what was measured before, each with its verdict.

    Raises:
        LogarithmError: where there is no claim.
    """
    return [_verdict(claim, findings, strict) for claim in claims_of(findings)]


def claims_of(findings: Findings) -> list[ClaimFinding]:
    """The claims that contenders make.

    Raises:
        LogarithmError: where there is none.
    """
    if not findings.claims:
        raise LogarithmError("no contender makes a claim: write @study.contender(claim='n log n')")
    return findings.claims


def _verdict(claim: ClaimFinding, findings: Findings, strict: bool) -> Verdict:
    failing = {"contradicted", "undecided", "slower"} if strict else {"contradicted"}
    return Verdict.of(claim, findings, claim.verdict in failing)


def _key(claim: ClaimFinding) -> tuple[str, str, str | None, str]:
    return claim.contender, claim.family, claim.stage, claim.metric
