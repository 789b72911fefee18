"""What array operations do with so many elements, by their names and the shapes of what they are given and return.

NumPy is never imported here: where a contender uses it, it is there. An operation that is not in the table is taken to
touch the largest of its arrays once, and is named as unknown where it is none of those that do so.
"""

from __future__ import annotations

import math
import sys
from typing import Any

from ...notation.kinds import ASKED, CALLS, ELEMENTS
from .kinds import did, did_unknown

SORTING = {"sort", "argsort", "unique", "lexsort", "sort_complex", "unique_values", "unique_counts"}
SETS = {"intersect1d", "union1d", "setdiff1d", "setxor1d", "in1d", "isin"}
SEARCHING = {"searchsorted", "digitize", "interp", "histogram"}
PRODUCTS = {"dot", "matmul", "inner", "vdot", "vecdot", "tensordot", "multi_dot", "outer", "kron", "__matmul__"}
TRANSFORMS = {"fft", "ifft", "rfft", "irfft", "hfft", "ihfft", "fft2", "ifft2", "rfft2", "irfft2", "fftn", "ifftn"}
CUBES = {
    *("inv", "solve", "det", "slogdet", "qr", "svd", "eig", "eigh", "eigvals", "eigvalsh", "cholesky", "pinv"),
    *("lstsq", "matrix_rank", "svdvals"),
}
VIEWS = {
    *("reshape", "ravel", "transpose", "view", "squeeze", "swapaxes", "moveaxis", "rollaxis", "expand_dims"),
    *("broadcast_to", "item", "diagonal", "split", "array_split", "asarray", "asanyarray", "atleast_1d"),
    *("atleast_2d", "default_rng", "dtype", "shape", "ndim", "size", "empty", "errstate", "finfo", "iinfo"),
    "result_type",
}
KNOWN = {"convolve", "correlate", "einsum", "partition", "argpartition", "median", "percentile", "quantile", "cumsum"}


def numpy() -> Any:
    """NumPy, where somebody has imported it; else None."""
    return sys.modules.get("numpy")


def is_array(value: Any) -> bool:
    """Whether a value is an array of NumPy's."""
    found = numpy()
    return found is not None and isinstance(value, found.ndarray)


def is_of_arrays(function: Any) -> bool:
    """Whether a function is one of NumPy's, or a method of one of its arrays."""
    found = numpy()
    if found is None:
        return False
    own = getattr(function, "__self__", None)
    if isinstance(own, found.ndarray):
        return True
    module = getattr(function, "__module__", None) or getattr(type(function), "__module__", "")
    return isinstance(module, str) and module.split(".")[0] == "numpy" and not isinstance(function, type)


def _sizes(values: Any) -> list[int]:
    """How many elements each array has among some values, and lists of arrays."""
    found = []
    for value in values:
        if is_array(value):
            found.append(int(value.size))
        elif isinstance(value, (list, tuple)):
            found.append(max(sum(_sizes(value)), len(value)))
    return found


def _log(many: float) -> float:
    return math.log2(max(many, 2))


def did_array(name: str, given: tuple[Any, ...], made: Any) -> None:
    """Count what an array operation did.

    Args:
        name: of the function or method.
        given: what it was given, the array itself first.
        made: what it returned.
    """
    sizes, out = _sizes(given), _sizes(made if isinstance(made, tuple) else (made,))
    most = max([*sizes, *out], default=1)
    did(CALLS, 1)
    if name in VIEWS:
        return None
    if name in SORTING:
        return did(ASKED, most * _log(most))
    if name in SETS:
        return did(ASKED, sum(sizes) * _log(sum(sizes)))
    if name in SEARCHING:
        first, second = (*sizes, 1, 1)[:2]
        many = (first, second) if name == "searchsorted" else (second, first)
        return did(ASKED, max(many[1], 1) * _log(many[0]))
    if name in PRODUCTS:
        return did(ELEMENTS, _product(given, made, most))
    if name in TRANSFORMS:
        return did(ELEMENTS, most * _log(most))
    if name in CUBES:
        side = max((value.shape[-1] for value in given if is_array(value) and value.ndim), default=1)
        return did(ELEMENTS, float(most * side))
    if name in ("convolve", "correlate"):
        first, second = (*sizes, 1, 1)[:2]
        return did(ELEMENTS, first * second)
    if name == "einsum":
        return did(ELEMENTS, _einsum(given))
    if name not in KNOWN and not _is_plain(name):
        did_unknown(f"numpy.{name}")
    return did(ELEMENTS, most)


def _product(given: tuple[Any, ...], made: Any, most: int) -> float:
    """A product: each element of the result takes as many as the axes that are summed over have."""
    arrays = [value for value in given if is_array(value)]
    out = float(made.size) if is_array(made) else 1.0
    if len(arrays) < 2 or not arrays[0].ndim:
        return float(most)
    if arrays[0].ndim == arrays[1].ndim == 1 and out > 1:
        return out
    return out * float(arrays[0].shape[-1])


def _einsum(given: tuple[Any, ...]) -> float:
    """The product of the lengths of all letters."""
    text, arrays = given[0], [value for value in given[1:] if is_array(value)]
    if not isinstance(text, str):
        return float(max(_sizes(given), default=1))
    lengths: dict[str, int] = {}
    for letters, value in zip(text.split("->")[0].split(","), arrays, strict=False):
        lengths |= dict(zip(letters.strip(), value.shape, strict=False))
    return float(math.prod(lengths.values()))


def _is_plain(name: str) -> bool:
    """Whether an operation is one of those that go through their arrays once."""
    found = numpy()
    function = getattr(found, name, None)
    return isinstance(function, found.ufunc) or name in ONCE


ONCE = {
    *("sum", "prod", "mean", "std", "var", "min", "max", "amin", "amax", "argmin", "argmax", "any", "all", "ptp"),
    *("diff", "cumprod", "count_nonzero", "nonzero", "argwhere", "flatnonzero", "where", "select", "clip"),
    *("round", "copy", "array", "zeros", "ones", "full", "zeros_like", "ones_like", "full_like", "empty_like"),
    *("arange", "linspace", "eye", "tile", "repeat", "concatenate", "stack", "vstack", "hstack", "column_stack"),
    *("append", "insert", "delete", "roll", "flip", "take", "choose", "compress", "extract", "put", "fill"),
    *("astype", "tolist", "tobytes", "flatten", "bincount", "trace", "meshgrid", "indices", "pad", "gradient"),
    *("trapezoid", "nan_to_num", "array_equal", "allclose", "isclose", "frombuffer", "random", "integers"),
    *("normal", "uniform", "shuffle", "permutation", "choice", "standard_normal", "norm", "triu", "tril"),
    *("average", "nansum", "nanmean", "nanmin", "nanmax", "resize", "rot90", "fliplr", "flipud", "reduce"),
    *("accumulate", "at", "fromiter", "ascontiguousarray", "geomspace", "logspace", "identity", "diag", "cross"),
}
