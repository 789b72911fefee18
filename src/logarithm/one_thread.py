"""NumPy on one thread, where it is ours: its linear algebra would start one for each processor, and let them spin.

Decompositions of a dozen rows gain nothing by threads; waiting threads take the processors that are being measured.
The library reads how many threads it may have when it is loaded. So it is loaded here, with the environment as it was
before right after: what contenders do in processes of their own is not touched, nor is a process that has loaded it.
"""

from __future__ import annotations

import importlib
import os
import sys

LIMITS = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS", "BLIS_NUM_THREADS", "VECLIB_MAXIMUM_THREADS")
"""Where linear algebra libraries read it."""


def load() -> None:
    """Load NumPy with one thread, unless it is loaded, somebody has said how many, or a contender runs here."""
    main = getattr(sys.modules.get("__main__"), "__spec__", None)
    is_worker = main is not None and main.name.startswith("logarithm.worker")
    if "numpy" in sys.modules or is_worker:
        return
    unsaid = [name for name in LIMITS if name not in os.environ]
    os.environ.update(dict.fromkeys(unsaid, "1"))
    try:
        importlib.import_module("numpy")
    finally:
        for name in unsaid:
            del os.environ[name]


load()
