"""A filter of system calls for code that was handed in: what Python does not need for an exercise, it does not get.

Refused are keyrings, files of memory, further namespaces and mounts, tracing of and reaching into other processes,
asynchronous rings, shared segments that belong to nobody, and whatever changes the machine. The filter is a program of
the kernel's packet filter (see `man 2 seccomp`), and holds for everything that the process starts. This needs the
standard library alone.
"""

from __future__ import annotations

import ctypes
import errno
import os
import struct

SET_SECCOMP, MODE_FILTER = 22, 2
LOAD, EQUAL, AT_LEAST, ANY_BIT, RETURN = 0x20, 0x15, 0x35, 0x45, 0x06  # of <linux/bpf_common.h>
ALLOW, REFUSE, END = 0x7FFF0000, 0x00050000, 0x80000000
NUMBER_AT, MACHINE_AT, ARGUMENT_AT = 0, 4, 16  # in `struct seccomp_data`
WORLDS = 0x7E020000  # the flags of clone for namespaces
OTHER_WAY = 0x40000000  # from this number on, calls of another way to call an x86-64 system

# The numbers of <asm/unistd.h>, by machine: what the kernel calls it, clone, clone3, and what is refused.
NEW = (*range(425, 434), 438, 440, 442, 447)
MACHINES: dict[str, tuple[int, int, int, tuple[int, ...]]] = {
    "x86_64": (
        0xC000003E,
        56,
        435,
        (
            *(29, 64, 68, 71, 101, 103, 134, 135, 153, 154, 155, 156, 159, 161, 163, 164, 165, 166, 167, 168, 169, 170),
            *(171, 172, 173, 175, 176, 179, 180, 206, 212, 227, 246, 248, 249, 250, 272, 298, 300, 303, 304, 305, 308),
            *(310, 311, 312, 313, 319, 320, 321, 323, *NEW),
        ),
    ),
    "aarch64": (
        0xC00000B7,
        220,
        435,
        (
            *(0, 39, 40, 41, 51, 60, 89, 92, 97, 104, 105, 106, 112, 116, 117, 142, 161, 162, 170, 171, 186, 190, 194),
            *(217, 218, 219, 224, 225, 241, 262, 264, 265, 266, 268, 270, 271, 272, 273, 279, 280, 282, 294, *NEW),
        ),
    ),
}


def refuse_system_calls(library: ctypes.CDLL) -> None:
    """Refuse what no exercise needs, from now on and for good. Nothing happens on machines that are not known.

    Raises:
        OSError: where the system has no such filters.
    """
    known = MACHINES.get(os.uname().machine)
    if known is None:
        return
    program = filter_of(*known)
    count = len(program) // 8
    held = ctypes.create_string_buffer(program, len(program))
    # struct sock_fprog: a number of two bytes and, aligned, where the instructions are.
    described = ctypes.create_string_buffer(struct.pack("HxxxxxxP", count, ctypes.addressof(held)))
    if library.prctl(SET_SECCOMP, MODE_FILTER, described, 0, 0) != 0:
        number = ctypes.get_errno()
        raise OSError(number, f"filter of system calls: {os.strerror(number)}")


def filter_of(machine: int, clone: int, clone3: int, refused: tuple[int, ...]) -> bytes:
    """The filter, eight bytes an instruction.

    >>> len(filter_of(*MACHINES["x86_64"])) % 8
    0
    """
    no, absent = REFUSE | errno.EPERM, REFUSE | errno.ENOSYS
    lines = [
        (LOAD, 0, 0, MACHINE_AT),
        (EQUAL, 1, 0, machine),
        (RETURN, 0, 0, END),
        (LOAD, 0, 0, NUMBER_AT),
        (AT_LEAST, 0, 1, OTHER_WAY),
        (RETURN, 0, 0, no),
        # Its flags lie in memory, where no filter can look; the library then takes clone.
        (EQUAL, 0, 1, clone3),
        (RETURN, 0, 0, absent),
    ]
    for number in refused:
        lines += [(EQUAL, 0, 1, number), (RETURN, 0, 0, no)]
    lines += [
        (EQUAL, 0, 3, clone),
        (LOAD, 0, 0, ARGUMENT_AT),
        (ANY_BIT, 0, 1, WORLDS),
        (RETURN, 0, 0, no),
        (RETURN, 0, 0, ALLOW),
    ]
    return b"".join(struct.pack("HBBI", code, yes, otherwise, value) for code, yes, otherwise, value in lines)
