"""A template: an interpreter that has loaded a study, and is forked for each process of a contender.

It is told on a socket, by a line with the contender and its limits and the pipes of the new process; it answers
`forked PID`, and says `ended PID CODE` of each that ends. Its first line is `ready SECONDS MODULE`, with what loading
the study took, and which import most of it; or `unsafe` where something runs in it that no fork would survive. Before
anything is made, a new process fills memory at random, so that processes of one template differ as those do that are
started anew.
"""

from __future__ import annotations

import builtins
import contextlib
import gc
import importlib
import json
import os
import random
import signal
import socket
import sys
import threading
import time
from collections.abc import Iterator
from typing import Any

from ..protocol.requests import Limits
from ..study.files.loading import load
from ..study.study import Study
from .limits import die_with_parent, threads_now
from .serve import serve_study

ORDER_MOST, PIPES = 2**16, 3
UNSAFE = ("torch", "tensorflow", "jax", "pyarrow", "cupy", "ray", "distributed")
"""Libraries that hold devices, or threads that a fork would lose."""
LATE = {"numpy": ("numpy.random", "numpy.fft")}
BLOCKS, BLOCK_MOST, PADDING_MOST = 2000, 700, 2**20  # how many pieces of memory are filled, and their bytes

_PADDING: list[bytearray] = []


def main() -> None:
    """Load the study of the command line, and fork for whoever asks until nobody does."""
    die_with_parent()
    control = socket.socket(fileno=os.dup(0))
    nowhere = os.open(os.devnull, os.O_RDWR)
    os.dup2(nowhere, 0)
    imports: dict[str, float] = {}
    begun = time.monotonic()
    try:
        with timed_imports(imports):
            study = load(sys.argv[1])
            load_late_parts()
    except (Exception, SystemExit):  # whoever starts anew will say why
        control.sendall(b"unsafe\n")
        return
    took = time.monotonic() - begun
    if not is_safe():
        control.sendall(b"unsafe\n")
        return
    gc.collect()
    gc.freeze()
    signal.signal(signal.SIGCHLD, lambda *_: tell_ended(control))
    control.sendall(f"ready {took:.3f} {dearest(imports, took)}\n".encode())
    while True:
        order, pipes, _, _ = socket.recv_fds(control, ORDER_MOST, PIPES)
        if not order:
            return
        child = os.fork()
        if not child:
            begin(study, json.loads(order), pipes, control)
            os._exit(0)
        for each in pipes:
            os.close(each)
        with contextlib.suppress(OSError):
            control.sendall(b"forked %d\n" % child)


def load_late_parts() -> None:
    """Load what libraries load at their first use only, where the study has loaded these: once for all processes."""
    for library, parts in LATE.items():
        for part in parts if library in sys.modules else ():
            with contextlib.suppress(ImportError):
                importlib.import_module(part)


@contextlib.contextmanager
def timed_imports(seconds: dict[str, float]) -> Iterator[None]:
    """Take down what the imports of a study take meanwhile, by the library, those inside others left out."""
    importing, depth = builtins.__import__, 0

    def timed(name: str, *given: Any, **named: Any) -> Any:
        nonlocal depth
        depth += 1
        begun = time.monotonic()
        try:
            return importing(name, *given, **named)
        finally:
            depth -= 1
            if not depth:
                library = name.partition(".")[0]
                seconds[library] = seconds.get(library, 0.0) + time.monotonic() - begun

    builtins.__import__ = timed
    try:
        yield
    finally:
        builtins.__import__ = importing


def dearest(imports: dict[str, float], took: float) -> str:
    """The library whose import took most of some seconds; empty where none took half of them."""
    name, most = max(imports.items(), key=lambda each: each[1], default=("", 0.0))
    return name if most > took / 2 else ""


def is_safe() -> bool:
    """Whether nothing runs in this process that a fork would lose: threads of Python's, children, devices.

    Threads of linear algebra libraries come again by themselves.
    """
    if threading.active_count() > 1 or any(name in sys.modules for name in UNSAFE):
        return False
    try:
        os.waitpid(-1, os.WNOHANG)
        return False
    except ChildProcessError:
        return threads_now() == 1 or "numpy" in sys.modules


def tell_ended(control: socket.socket) -> None:
    """Say of each process that has ended how it did."""
    with contextlib.suppress(ChildProcessError, OSError):
        while (ended := os.waitpid(-1, os.WNOHANG))[0]:
            control.sendall(b"ended %d %d\n" % (ended[0], os.waitstatus_to_exitcode(ended[1])))


def begin(study: Study, order: dict[str, Any], pipes: list[int], control: socket.socket) -> None:
    """Become a contender's process, and serve it until there are no more requests."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.setsid()
    control.close()
    for number, pipe in enumerate(pipes):
        os.dup2(pipe, number)
        os.close(pipe)
    pad()
    serve_study(lambda: study, order["contender"], Limits(**order["limits"]))


def pad() -> None:
    """Fill memory at random, and give half of it back."""
    chance = random.SystemRandom()
    blocks = [bytearray(chance.randrange(16, BLOCK_MOST)) for _ in range(chance.randrange(BLOCKS))]
    del blocks[::2]
    _PADDING.extend([*blocks, bytearray(chance.randrange(1, PADDING_MOST))])


if __name__ == "__main__":
    main()
