"""Imported once by the process that commands are forked from: loads what they will need."""

import importlib
import io
import pkgutil
import sys
from contextlib import redirect_stdout, suppress

import logarithm
import logarithm.one_thread  # before NumPy is loaded by anything else

AT_WORK = ("logarithm.worker", "logarithm.executors.cluster")  # patches what it finds, or takes an extra

for each in pkgutil.walk_packages(logarithm.__path__, "logarithm."):
    if not each.name.startswith(AT_WORK) and "__main__" not in each.name:
        importlib.import_module(each.name)

from logarithm.cli import main  # noqa: E402

sys.argv = ["logarithm", "demo", "--list"]
with redirect_stdout(io.StringIO()), suppress(SystemExit):
    main()
