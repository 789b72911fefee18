"""Whether the parts of a study fit each other. Needs nothing but the standard library."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..errors import StudyError, guess, named, there
from ..notation.metrics import ASKED
from .second import check_where

if TYPE_CHECKING:
    from .parts import Contender
    from .study import Study

WORST_CLAIM = "worst"  # or on the worst case, which logarithm worst searches for


def check(study: Study) -> None:
    """Raise a StudyError where the parts of a study do not fit each other."""
    if not study.contenders:
        raise StudyError(f"the study '{study.name}' has no contender: put @study.contender above a function")
    if not study.families:
        raise StudyError(f"the study '{study.name}' has no family: put @study.family above a function of (n, rng)")
    baselines = [contender.name for contender in study.contenders if contender.options.baseline]
    if len(baselines) > 1:
        raise StudyError(f"{named(baselines)} are each called the baseline: keep one")
    study.check_sizes(study.sizes)
    if study.second is not None and study.second.is_size:
        study.check_sizes(study.second.values, study.second.name)
    if study.allowed is not None:
        if study.second is None:
            raise StudyError('where is for two sizes: Study("…", sizes={"n": "8..4096", "k": "1..64"})')
        check_where(study.allowed, study.sizes, study.second)
    _check_mixes(study)
    known = [contender.name for contender in study.contenders]
    for name in study.ladder:
        if name not in known:
            raise StudyError(f"versions name the contender '{name}', {unknown(known)}{guess(name, known)}")
    for contender in study.contenders:
        study.check_sizes(contender.options.sizes)
        _check_names(study, contender)


def _check_mixes(study: Study) -> None:
    """What a mix names must be operations of every contender that has any."""
    having = [each for each in study.contenders if each.options.operations]
    if study.mixes and not having:
        raise StudyError('mix needs contenders with operations: @study.contender(operations=["add", "find"])')
    for name, weights in study.mixes.items():
        for contender in having:
            known = list(contender.options.operations)
            for each in weights:
                if each not in known:
                    raise StudyError(f"mix '{name}' names {each}, which {contender.name} has not: {there(known)}")


def _check_names(study: Study, contender: Contender) -> None:
    """What a contender names must be there: families, and what its claims are for."""
    known = [family.name for family in study.families]
    for name in contender.options.families or ():
        if name not in known:
            raise StudyError(
                f"contender '{contender.name}' names the family '{name}', {unknown(known)}" + guess(name, known)
            )
    stages = [stage for stage in contender.stages if stage]
    for claim in contender.options.claims:
        places = [*known, *stages, *study.counted, *ASKED, "work", WORST_CLAIM]
        if claim.where is not None and claim.where not in places:
            raise StudyError(
                f"a claim of contender '{contender.name}' is for '{claim.where}', {unknown(known + stages)}; "
                "a tally is made known by study.count"
            )


def unknown(names: list[str]) -> str:
    """What there is, where something was named that is not."""
    return f"which does not exist: {there(names)}"
