"""Claims with their verdicts, and what makes a gate fail."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import ClassVar

from ...errors import LogarithmError
from ...notation.places import Keyed
from ...notation.sizes import Number
from ..base import Frames, Part, Result
from ..findings import ClaimFinding, Findings
from .gates import Breach, breaches

FAILING = ("contradicted",)
FAILING_STRICTLY = ("contradicted", "undecided", "slower")


class Verdict(Part, Keyed):
    """A claim, its verdict, what was found, and whether it `fails` the whole.

    `orders` are those that cannot be ruled out, `exact` the formula where there is one, and `advice` says why there is
    no order; a contradicted claim is so from size `since` on. One that fails is judged `until` the size that works.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    claim: str
    verdict: str
    fails: bool
    since: Number | None
    orders: list[str]
    exact: str | None
    advice: str
    until: Number | None = None


class Verdicts(Result):
    """Claims with their verdicts, and what is `broken`; `fails` says whether any of these fails the whole."""

    _frames: ClassVar[Frames] = {"rows": Verdict, "broken": Breach}

    study: str
    rows: list[Verdict]
    broken: list[Breach] = []

    def __iter__(self) -> Iterator[Verdict]:
        return iter(self.rows)

    @property
    def fails(self) -> bool:
        """Whether a claim fails, or a contender where it should work."""
        return bool(self.broken) or any(row.fails for row in self.rows)


def verdicts_of(findings: Findings, strict: bool = False) -> Verdicts:
    """The claims of what was measured, each with its verdict.

    Args:
        findings: of a logbook.
        strict: claims that are undecided or slower fail too.

    Raises:
        LogarithmError: where there is no claim.
    """
    broken = breaches(findings)
    if not findings.claims and not broken:
        raise LogarithmError("no contender makes a claim: write @study.contender(claim='n log n')")
    failing = FAILING_STRICTLY if strict else FAILING
    return Verdicts(findings.study.name, [verdict_of(claim, findings, failing) for claim in findings.claims], broken)


def verdict_of(claim: ClaimFinding, findings: Findings, failing: Sequence[str]) -> Verdict:
    """A claim with what was found beside it; verdicts that are `failing` fail."""
    key = claim.key
    growths = {each.key: each for each in findings.growth}
    growth = growths.get(key) or growths[(*key[:3], "time")]
    orders = [each.order for each in growth.plausible]
    fails, since = claim.verdict in failing, claim.since
    works = [each.works for each in findings.failures if (each.contender, each.family) == key[:2]]
    until = min((size for size in works if size is not None), default=None)
    return Verdict(*key, claim.claim, claim.verdict, fails, since, orders, growth.exact, growth.advice, until)
