"""Candidates: every order in every form of it, fitted at once and ranked by how well it describes some costs.

The model and its sources are in `fit`.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ...notation.orders import Order, parse
from ..readings.arrays import Floats, median, median_of
from .catalogue import COMMON_TIMED, RARE_TIMED, log_values, shape
from .exponent import DRIFT, DRIFT_LENGTH, FREEDOM, SIZE_MISFIT
from .least_squares import weights_to_one

CONSTANT, LINEAR = parse("1"), parse("n")
# steps are looked for at so many places, no nearer to the ends
STEP_PLACES, STEP_WIDTH, STEP_EDGE, STEP_SIZES = 6, 0.5, 3, 8
STEPPED = 0.1  # how common an order must be to be tried with a step
STEP_MOST, STEP_RARITY = 7.0, 0.3  # a full cache makes no more than so many times as much again; and it is rare
SMOOTH = 1.5  # the length of a drift in log n, Matérn 3/2
HEIGHTS = {0.05: 0.2, 0.1: 0.2, 0.2: 0.25, 0.4: 0.2, 0.8: 0.15}  # of the drift, and how likely each is
LATE, LATE_RISE, SEEN, NOTHING = 0.3, 0.03, 0.25, 0.1  # see `_of_last_only`
LOG_COST_MOST = 100.0  # in the logarithm of the cost
LEADS, LEADING = 0.5, 25.0  # a term that is less than half of the cost at the largest size needs better evidence


@dataclass(frozen=True, slots=True)
class Fit:
    """One candidate fitted: cost(n) = fixed + linear · n + scale · f(n), in the units of the costs.

    `step` is (size, height) where around that size the leading term comes to cost (1 + height) times as much,
    None where there is no step. `miss` is the typical and `misfit` the largest relative error, `score` what
    candidates are compared by.
    """

    order: Order
    fixed: float
    linear: float
    scale: float
    miss: float
    score: float
    step: tuple[float, float] | None = None
    misfit: float = 0.0

    def times(self, factor: float) -> Fit:
        """The same law for costs that are all so many times as high."""
        return replace(self, fixed=self.fixed * factor, linear=self.linear * factor, scale=self.scale * factor)

    def cost(self, sizes: ArrayLike) -> Floats:
        """The fitted cost at each size, shape like `sizes`."""
        at = np.atleast_1d(np.asarray(sizes, dtype=np.float64))
        with np.errstate(over="ignore"):
            leading = np.exp(log_values(self.order, at) + math.log(max(self.scale, 1e-300)))
        if self.step is not None:
            place, height = self.step
            leading = leading * (1 + height / (1 + np.exp(-(np.log(at) - math.log(place)) / STEP_WIDTH)))
        return np.asarray(self.fixed + self.linear * at + leading, dtype=np.float64)


@dataclass(frozen=True, slots=True)
class Costs:
    """Typical costs at sizes, their relative errors, and what makes the logarithm of cost over law white noise.

    `whiten` does so for the usual drift, by which laws are fitted; `drifts` for each drift there may be, by which laws
    are compared, with minus twice the logarithm of how likely such a drift is, and that of its determinant.
    """

    x: Floats
    y: Floats
    error: Floats
    whiten: Floats
    drifts: tuple[tuple[Floats, float], ...] = ()

    @classmethod
    def of(cls, x: Floats, y: Floats, error: Floats) -> Costs:
        """Costs `y` at sizes `x` with relative errors, all of shape (m,), and the drift that is expected of them."""
        log_x = np.log(x)
        apart = np.abs(log_x[:, None] - log_x[None, :])
        noise = np.diag(error**2 + SIZE_MISFIT**2)
        usual = np.linalg.inv(np.linalg.cholesky(DRIFT**2 * np.exp(-apart / DRIFT_LENGTH) + noise))
        far = math.sqrt(3) * apart / SMOOTH
        smooth = (1 + far) * np.exp(-far)
        drifts = []
        for height, likely in HEIGHTS.items():
            root = np.linalg.cholesky(height**2 * smooth + noise)
            drifts.append((np.linalg.inv(root), 2 * float(np.log(np.diag(root)).sum()) - 2 * math.log(likely)))
        return cls(x, y, error, usual, tuple(drifts))


def fits(
    orders: Sequence[Order], series: Costs, extra: int = 0, has_begun: bool = False, most: int | None = None
) -> list[Fit]:
    """The best form of each order that fits at all, the best order first.

    The forms are: the leading term alone; with a fixed cost; for steep orders with a linear part; and each of
    these with a step, from which on the leading term costs more, as when a cache is full. All are solved at
    once, in groups of equally many terms.

    Args:
        orders: the candidates.
        series: costs with their covariance.
        extra: how many parameters of the orders themselves were fitted too.
        has_begun: whether a fixed part may be less than nothing, because growth began at a size.
        most: how many of the best are wanted; None for all.
    """
    best: dict[int, tuple[float, _Weighed, int]] = {}
    for forms, columns in _groups(tuple(map(float, series.x)), tuple(orders)):
        found = _weighed(forms, columns, series, has_begun)
        if found is None:
            continue
        scores = _scored(found, series, extra)
        for at in np.argsort(scores, kind="stable"):
            score, index = float(scores[at]), found.forms[at].index
            if score < best.get(index, (math.inf,))[0]:
                best[index] = score, found, int(at)
    ranked = sorted(best.items(), key=lambda item: item[1][0])[:most]
    return [_fit(found, at, orders[index], score, float(series.x[-1])) for index, (score, found, at) in ranked]


@dataclass(frozen=True, slots=True)
class _Form:
    """A choice of terms for one order: columns of shape (m, k), the leading one first; where a step is, if any.

    `rare` is what its score has to make good, because it is rare.
    """

    index: int
    rare: float
    columns: Floats
    has_fixed: bool
    has_linear: bool
    step: float | None


@lru_cache(maxsize=64)
def _groups(sizes: tuple[float, ...], orders: tuple[Order, ...]) -> list[tuple[list[_Form], Floats]]:
    """The forms by how many terms they have, with their columns, shape (f, m, k). Many series share their sizes."""
    forms = list(_forms(orders, np.array(sizes)))
    made = []
    for width in sorted({form.columns.shape[1] for form in forms}):
        group = [form for form in forms if form.columns.shape[1] == width]
        made.append((group, np.stack([form.columns for form in group])))
    return made


def _forms(orders: Sequence[Order], x: Floats) -> Iterator[_Form]:
    ones, linear = np.ones_like(x), x / x[-1]
    log_x = np.log(x)
    inner = log_x[STEP_EDGE : len(x) - STEP_EDGE + 1]
    places = np.linspace(inner[0], inner[-1], STEP_PLACES) if len(x) >= STEP_SIZES and len(inner) > 1 else np.array([])
    steps = [1 / (1 + np.exp(-(log_x - place) / STEP_WIDTH)) for place in places]
    for index, order in enumerate(orders):
        if order.log_value(float(x[-1])) - order.log_value(float(x[0])) > LOG_COST_MOST:
            continue  # no cost that anyone has measured rises so far: the term would be nil but at the last size
        leading, rare, rarer = shape(order, x), _rarity(order, False), _rarity(order, True)
        fixed = (False,) if order == CONSTANT else (False, True)
        straight = (False, True) if order.rank > LINEAR.rank else (False,)
        for has_fixed in fixed:
            for has_linear in straight:
                terms = [leading, *([ones] if has_fixed else []), *([linear] if has_linear else [])]
                yield _Form(index, rare, np.stack(terms, axis=1), has_fixed, has_linear, None)
            # What is rare already is not tried with a step as well.
            if order == CONSTANT or order.base or order.factorial or COMMON_TIMED.get(str(order), RARE_TIMED) < STEPPED:
                continue
            for place, step in zip(places, steps, strict=True):
                terms = [leading, *([ones] if has_fixed else []), leading * step]
                yield _Form(index, rarer, np.stack(terms, axis=1), has_fixed, False, float(np.exp(place)))


def _rarity(order: Order, has_step: bool) -> float:
    """Minus twice the logarithm of how common an order is, with a step or without."""
    return -2 * math.log(COMMON_TIMED.get(str(order), RARE_TIMED) * (STEP_RARITY if has_step else 1.0))


def _scored(found: _Weighed, series: Costs, extra: int) -> Floats:
    """The score of each form, infinite where there are too few sizes for so many terms, shape (f,)."""
    # How high the drift is nobody knows: laws are compared by their likelihood over all heights.
    parameters = found.weights.shape[1] + extra + found.stepped
    each = np.stack([_scores(found.whitened(whiten), parameters) + less for whiten, less in series.drifts])
    return np.asarray(-2 * np.logaddexp.reduce(-each / 2, axis=0) + _handicaps(found), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class _Weighed:
    """Forms that fit: weights of their terms, shape (f, k), and the logarithm of law over cost, shape (f, m)."""

    forms: list[_Form]
    weights: Floats
    log_miss: Floats

    @property
    def stepped(self) -> NDArray[np.bool_]:
        """Which of them have a step."""
        return np.array([form.step is not None for form in self.forms])

    def whitened(self, whiten: Floats) -> Floats:
        """The misfits as white noise, whatever their common level, shape (f, m)."""
        white, level = self.log_miss @ whiten.T, whiten.sum(axis=1)
        return np.asarray(white - np.outer(white @ level, level) / float(level @ level), dtype=np.float64)


def _weighed(forms: list[_Form], terms: Floats, series: Costs, has_begun: bool) -> _Weighed | None:
    """Solve some forms of equally many terms; those with a negative part, or too high a step, are dropped."""
    columns = terms / series.y[None, :, None]
    weights = weights_to_one(columns, series.whiten)
    stepped = np.array([form.step is not None for form in forms])
    high = stepped & (weights[:, -1] > STEP_MOST * weights[:, 0])
    allowed = weights > 0
    if has_begun and columns.shape[2] > 1:
        fixed = np.array([form.has_fixed for form in forms])
        allowed[fixed, 1] = (np.einsum("fmk,fk->fm", columns[fixed], weights[fixed]) > 0).all(axis=1)
    kept = np.flatnonzero(allowed.all(axis=1) & ~_of_last_only(columns, weights, series.y) & ~high)
    if not len(kept):
        return None
    own = weights[kept]
    log_miss = np.log(np.einsum("fmk,fk->fm", columns[kept], own))
    # Where neighbours miss alike, least squares cares little for the level: the curve is put amid the points.
    amid = median(log_miss)
    return _Weighed([forms[at] for at in kept], own * np.exp(-amid)[:, None], log_miss - amid[:, None])


def _of_last_only(columns: Floats, weights: Floats, y: Floats) -> NDArray[np.bool_]:
    """Whether a leading term is what the last size has of its own, and no law, shape (f,).

    That is where it is a small share of the cost at the last size but two, and the rise from there to the last but one,
    which it would make, is hardly seen; or where it is next to nothing at the last but one.
    """
    laws = np.einsum("fmk,fk->fm", columns[:, -3:-1], weights)
    share, later = (weights[:, :1] * columns[:, -3:-1, 0] / np.where(laws > 0, laws, np.inf)).T
    with np.errstate(divide="ignore", invalid="ignore"):
        foretold = np.log(laws[:, 1] / laws[:, 0]) + math.log(y[-2] / y[-3])
    is_unseen = (foretold > LATE_RISE) & (math.log(y[-2] / y[-3]) < SEEN * foretold)
    return np.asarray(((share < LATE) & is_unseen) | (later < NOTHING), dtype=np.bool_)


def _handicaps(found: _Weighed) -> Floats:
    """What the score of each form has to make good: how rare its order and a step are, how little its term leads."""
    own, stepped = found.weights, found.stepped
    leading = own[:, 0] + np.where(stepped, own[:, -1], 0.0)
    led = LEADING * np.maximum(0.0, np.log(LEADS * own.sum(axis=1) / leading))
    return np.asarray(led + [form.rare for form in found.forms], dtype=np.float64)


def _fit(found: _Weighed, at: int, order: Order, score: float, last: float) -> Fit:
    """One of the forms, whose weights are relative to the largest size, as a fit."""
    form, own, log_miss = found.forms[at], found.weights[at], found.log_miss[at]
    scale = math.log(own[0]) - order.log_value(last)
    return Fit(
        order=order,
        fixed=float(own[1]) if form.has_fixed else 0.0,
        linear=float(own[1 + form.has_fixed]) / last if form.has_linear else 0.0,
        scale=math.exp(max(scale, -700.0)),
        step=None if form.step is None else (form.step, float(own[-1] / own[0])),
        miss=median_of(np.abs(np.expm1(log_miss))),
        score=score,
        misfit=float(np.abs(log_miss).max()),
    )


def plain_score(fit: Fit, series: Costs) -> float:
    """The score of a fit under the usual drift, with its order's rarity: what a kink is held against."""
    miss = series.whiten @ np.log(fit.cost(series.x) / series.y)
    level = series.whiten.sum(axis=1)
    miss = miss - level * float(miss @ level) / float(level @ level)
    terms = 1 + (fit.fixed != 0) + (fit.linear > 0) + 2 * (fit.step is not None)
    return float(_scores(miss[None], np.array([terms]))[0]) + _rarity(fit.order, fit.step is not None)


def _scores(whitened: Floats, parameters: NDArray[np.int_]) -> Floats:
    """Minus twice the log likelihood of a multivariate t, with the penalty on parameters; lower is better.

    Args:
        whitened: misfits, shape (forms, sizes).
        parameters: of each form, shape (forms,).
    """
    count = whitened.shape[1]
    misfit = np.einsum("fm,fm->f", whitened, whitened)
    spare = count - parameters - 1
    penalty = 2 * parameters * count / np.maximum(spare, 1)
    return np.asarray(np.where(spare > 0, (FREEDOM + count) * np.log1p(misfit / FREEDOM) + penalty, np.inf))
