"""A sandbox for code that was handed in: what it cannot see, it cannot read, change, call or end.

Linux gives a process a world of its own (namespaces, see `man 7 namespaces`): a file system that shows Python and its
libraries to be read and one small folder to be written, no network, and no process but its own. When the first process
in there ends, the system ends all others. The user that runs there owns nothing. This needs the standard library alone.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import random
import signal
import stat
import struct
import sys
from collections.abc import Iterable
from pathlib import Path

from .system_calls import refuse_system_calls

OWN_FOLDER = "/handed-in"  # the one folder that can be written
OWN_BYTES, SHELL_BYTES, SHARED_BYTES = 32 * 2**20, 2**20, 16 * 2**20
FILES_MOST = 2000  # in that folder, and in the one that locks of processes are made in
SYSTEM = ("/usr", "/bin", "/lib", "/lib64", "/lib32", "/nix/store", "/etc/ld.so.cache", "/etc/localtime", "/etc/ssl")
COMPILERS = ("alternatives", "java*")  # in /etc: where compilers of other languages are named and set up
DEVICES = ("/dev/null", "/dev/zero", "/dev/full", "/dev/urandom", "/dev/random")

# The numbers of <linux/sched.h>, <sys/mount.h>, <linux/prctl.h> and <linux/capability.h>.
NEW_MOUNTS, NEW_NAMES, NEW_MESSAGES = 0x00020000, 0x04000000, 0x08000000
NEW_USER, NEW_PROCESSES, NEW_NETWORK = 0x10000000, 0x20000000, 0x40000000
READ_ONLY, NO_SUID, NO_DEVICES, NO_PROGRAMS, BIND, RECURSIVE, PRIVATE = 1, 2, 4, 8, 0x1000, 0x4000, 0x40000
DETACH, NOW_HERE, ALL_BELOW, SET_ATTRIBUTES = 2, -100, 0x8000, 442
DIE_WITH_PARENT, NO_NEW_RIGHTS, CAPABILITIES_VERSION = 1, 38, 0x20080522
STRANGERS = 1 << 30, (1 << 31) - 2  # user numbers that nobody has


class NotPossibleError(Exception):
    """The system cannot keep handed-in code apart; the text says what it refused."""


def enter_sandbox(room: str, hidden: str, readable: Iterable[str]) -> None:
    """Go into a sandbox. Returns in its first process; the one that called stays outside, and ends with it.

    Args:
        room: an empty folder, on which the sandbox is built.
        hidden: the study's folder, which is not to be seen even where it lies among Python's own.
        readable: folders of Python and its libraries.

    Raises:
        NotPossibleError: where the system does not let us.
    """
    if sys.platform != "linux":
        raise NotPossibleError(f"{sys.platform} has no namespaces")
    library = ctypes.CDLL(None, use_errno=True)
    try:
        user = _new_world(library)
        _enter_process()
        _build(library, room, hidden, readable, user)
        _give_up_rights(library, user)
    except (OSError, AttributeError) as error:
        raise NotPossibleError(str(error)) from None


def pythons_own() -> list[str]:
    """The folders from which this Python and its libraries are loaded."""
    package = Path(__file__).resolve().parents[3] / "logarithm"
    libraries = [each for each in sys.path if Path(each).name in ("site-packages", "dist-packages")]
    return list(dict.fromkeys([sys.prefix, sys.base_prefix, sys.exec_prefix, *libraries, str(package)]))


def _new_world(library: ctypes.CDLL) -> int:
    """Leave the namespaces of the system. Returns the number of the user to become."""
    user, group = os.geteuid(), os.getegid()
    world = NEW_MOUNTS | NEW_NAMES | NEW_MESSAGES | NEW_PROCESSES | NEW_NETWORK
    if user == 0 and library.unshare(world) == 0:
        # A user that nobody else is: limits on its processes count its own alone.
        return random.SystemRandom().randrange(*STRANGERS) if _all_may_read() else 0
    _checked(library.unshare(world | NEW_USER), "unshare")
    for name, text in (("setgroups", "deny"), ("uid_map", f"{user} {user} 1"), ("gid_map", f"{group} {group} 1")):
        Path(f"/proc/self/{name}").write_text(text, encoding="ascii")
    return user


def _all_may_read() -> bool:
    """Whether any user may read this Python."""
    return all(Path(each).stat().st_mode & stat.S_IROTH for each in (__file__, sys.prefix, os.__file__))


def _build(library: ctypes.CDLL, room: str, hidden: str, readable: Iterable[str], user: int) -> None:
    """Make a file system of what may be seen, and make it the only one."""
    _mount(library, "none", "/", None, RECURSIVE | PRIVATE)
    _mount(library, "tmpfs", room, "tmpfs", NO_SUID, f"size={SHELL_BYTES},mode=755")
    seen: list[str] = []
    set_up = [str(each) for name in COMPILERS for each in Path("/etc").glob(name)]
    for path in [*SYSTEM, *set_up, *DEVICES, *readable]:
        if Path(path).exists() and not any(_within(path, other) for other in seen):
            _show(library, Path(path), Path(room + path))
            seen.append(str(Path(path).resolve() if Path(path).is_symlink() else path))
    if any(_within(hidden, path) for path in seen) and not any(_within(path, hidden) for path in readable):
        _mount(library, "tmpfs", room + hidden, "tmpfs", NO_SUID, "size=4k,mode=755")
    for folder in (OWN_FOLDER, "/proc", "/dev/shm"):  # it is the sandbox's own
        Path(room + folder).mkdir(parents=True, exist_ok=True)
    attributes = struct.pack("QQQQ", READ_ONLY | NO_SUID, 0, 0, 0)
    arguments = NOW_HERE, room.encode(), ALL_BELOW, attributes, len(attributes)
    _checked(library.syscall(SET_ATTRIBUTES, *arguments), "mount_setattr")
    own = f"size={OWN_BYTES},nr_inodes={FILES_MOST},mode=700"
    _mount(library, "tmpfs", room + OWN_FOLDER, "tmpfs", NO_SUID | NO_DEVICES, own)
    # Pools of processes share their locks there.
    shared = f"size={SHARED_BYTES},nr_inodes={FILES_MOST},mode=1777"
    _mount(library, "tmpfs", room + "/dev/shm", "tmpfs", NO_SUID | NO_DEVICES | NO_PROGRAMS, shared)
    with contextlib.suppress(OSError):  # where the system hides parts of its own, there is none
        _mount(library, "proc", room + "/proc", "proc", READ_ONLY | NO_SUID | NO_DEVICES | NO_PROGRAMS)
    if os.geteuid() == 0:
        os.chown(room + OWN_FOLDER, user, user)
    os.chdir(room)
    _checked(library.pivot_root(b".", b"."), "pivot_root")
    _checked(library.umount2(b".", DETACH), "umount")
    os.chdir(OWN_FOLDER)


def _show(library: ctypes.CDLL, path: Path, shown: Path) -> None:
    """Let a path be seen in the sandbox, with what lies below it."""
    shown.parent.mkdir(parents=True, exist_ok=True)
    if path.is_symlink():
        shown.symlink_to(path.readlink())
        return
    if path.is_dir():
        shown.mkdir(exist_ok=True)
    else:
        shown.touch()
    _mount(library, str(path), str(shown), None, BIND | RECURSIVE)


def _enter_process() -> None:
    """Go on as the first process in there; the one outside waits for its end and ends alike."""
    child = os.fork()
    if child:
        for descriptor in range(3, 64):
            with contextlib.suppress(OSError):
                os.close(descriptor)
        _, status = os.waitpid(child, 0)
        if os.WIFSIGNALED(status):
            signal.signal(signal.SIGTERM, signal.SIG_DFL)
            os.kill(os.getpid(), os.WTERMSIG(status))
        os._exit(os.waitstatus_to_exitcode(status) & 0xFF)


def _give_up_rights(library: ctypes.CDLL, user: int) -> None:
    """Become a user without any rights, for good."""
    if os.geteuid() == 0 and user != 0:
        os.setgroups([])
        os.setresgid(user, user, user)
        os.setresuid(user, user, user)
    # Asked for here: it is forgotten where a process becomes another user.
    library.prctl(DIE_WITH_PARENT, signal.SIGKILL)
    _checked(library.prctl(NO_NEW_RIGHTS, 1, 0, 0, 0), "prctl")
    header, none = struct.pack("Ii", CAPABILITIES_VERSION, 0), bytes(24)
    _checked(library.capset(header, none), "capset")
    refuse_system_calls(library)


def _mount(
    library: ctypes.CDLL, source: str, target: str, kind: str | None, flags: int, options: str | None = None
) -> None:
    texts = [each.encode() if each is not None else None for each in (source, target, kind, options)]
    result = library.mount(texts[0], texts[1], texts[2], ctypes.c_ulong(flags), texts[3])
    _checked(result, f"mount of {source} at {target}")


def _checked(result: int, what: str) -> None:
    if result != 0:
        number = ctypes.get_errno()
        raise OSError(number, f"{what}: {os.strerror(number)}")


def _within(path: str, other: str) -> bool:
    return path == other or path.startswith(other.rstrip("/") + "/")
