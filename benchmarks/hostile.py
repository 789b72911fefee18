"""What is handed in may lie or harm: over a hundred submissions that do, beside honest ones, with compared answers and a referee.

python benchmarks/hostile.py            all in one class, twice (some minutes)
python benchmarks/hostile.py --only 12  one of them beside the honest ones, with the table that it leads to
"""

from __future__ import annotations

import argparse
import csv
import hashlib
import io
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import psutil

COMMAND = str(Path(sys.executable).with_name("logarithm"))
STUDY = """
from logarithm import Study
study = Study("swell", question="How high is the highest swell in a row?", sizes="8..512 *2")
@study.family
def calm(n, rng): return [rng.randrange(-50, 51) for _ in range(n)]
@study.family
def rough(n, rng): return [rng.randrange(-5000, 5001) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n")
"""
REFEREE = """
@study.referee
def is_best(rises, answer):
    right = reference(rises)
    return not (answer < right or answer > right)
"""
FAST = """
def fast(rises):
    top = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        top = max(top, total)
    return top
"""
SLOW = """
def slow(rises):
    top = 0
    for i in range(len(rises)):
        total = 0
        for j in range(i, len(rises)):
            total += rises[j]
            if total > top: top = total
    return top
"""
FEW = """
from itertools import accumulate
def few(rises):
    return max([0] + [max(accumulate(rises[i:])) for i in range(len(rises))])
"""
HONEST = {
    "anna": FAST + "best = fast\n",
    "bo": FAST + "def best(rises): return fast(list(rises))\n",
    "cleo": FAST + "from threading import Thread\ndef best(rises):\n    got = []\n    own = Thread(target=lambda: "
    "got.append(fast(rises)))\n    own.start(); own.join()\n    return got[0]\n",
    "dan": FAST + "from concurrent.futures import ProcessPoolExecutor\npool = None\ndef best(rises):\n    global pool\n"
    "    pool = pool or ProcessPoolExecutor(1)\n    return pool.submit(fast, rises).result()\n",
    "eva": "from functools import lru_cache\ndef best(rises):\n    @lru_cache(None)\n    def ends(at):\n        return max("
    "ends(at - 1) + rises[at], 0) if at >= 0 else 0\n    return max([0] + [ends(at) for at in range(len(rises))])\n",
    "finn": "from itertools import accumulate\ndef tops(rises):\n    total = 0\n    for rise in rises:\n        total = max("
    "total + rise, 0)\n        yield total\ndef best(rises): return max(tops(rises), default=0)\n",
    "gil": "def best(rises, at=0, total=0, top=0):\n    if at == len(rises): return top\n    total = max(total + rises[at], 0)\n"
    "    return best(rises, at + 1, total, max(top, total)) if at % 200 else best_of(rises, at + 1, total, max(top, total))\n"
    "def best_of(rises, at, total, top):\n    for rise in rises[at:]:\n        total = max(total + rise, 0)\n"
    "        top = max(top, total)\n    return top\n",
}

# Each is a submission's text. Those under LIES must not be correct and within what is asked without a word; those under
# HARM must leave the honest ones, the files and the machine as they are.
LIES = {
    "equals everything": "class All:\n    def __eq__(s, o): return True\n    __lt__ = __gt__ = lambda s, o: False\n"
    "def best(rises): return All()\n",
    "no number": "def best(rises): return float('nan')\n",
    "a list of no numbers": "def best(rises): return [float('nan')]\n",
    "nested too deep": "def best(rises):\n    made = []\n    for _ in range(300): made = [made]\n    return made\n",
    "too large to compare": "def best(rises): return [0] * 300_000\n",
    "a number of a million digits": "def best(rises): return 10 ** 1_000_000\n",
    "nothing": "def best(rises): pass\n",
    "an endless answer": "import itertools\ndef best(rises): return itertools.count()\n",
    "calls the reference": "import sys\ndef best(rises):\n    return sys.modules['logarithm_study'].reference(rises)\n",
    "imports the study": "import sys\nfor at in ('.', '..', '{folder}'): sys.path.append(at)\n"
    "from study import reference as best\n",
    "reads the study": "import glob\ntext = open('{folder}/study.py').read()\nexec(text[text.index('def reference'):"
    "text.index('study.submissions')])\nbest = reference\n",
    "looks for the study": "import os\nfor at, _, names in os.walk('/'):\n    if 'study.py' in names and 'swell' in "
    "open(at + '/study.py').read(): raise SystemExit('found')\ndef best(rises): return 0\n",
    "copies a neighbour": "exec(open('{folder}/handed-in/anna.py').read())\n",
    "swaps the referee": "import gc\ndef best(rises):\n    for each in gc.get_objects():\n        if type(each).__name__ "
    "== 'Study': each.judge = lambda *_: True; each.agreement = type(each.agreement)(1e9)\n    return 7\n",
    "replaces the comparison": "import logarithm.protocol.answers as a\na.agree = lambda *_: True\n"
    "a.written = lambda _: None\ndef best(rises): return 7\n",
    "replaces the loop": "import logarithm.worker.serve as w, logarithm.protocol.replies as m\n"
    "def serve(bench, request, replies):\n    w.say(replies, m.Began())\n    kind = type(request).__name__\n"
    "    return {{'AnswerGiven': m.Answered(right=True), 'Count': m.Counted(values={{'steps': 9}}), 'CallAll': "
    "m.CallsMade()}}.get(kind, m.Done())\nw.serve = serve\ndef best(rises): return 7\n",
    "writes its own verdict": "import os, json\nline = json.dumps({{'kind': 'Answered', 'threads': 1, 'started': False, "
    "'answer': 7, 'lazy': None, 'right': True, 'too_large': False}}).encode() + b'\\n'\ndef best(rises):\n"
    "    for fd in range(3, 12):\n        try: os.write(fd, line)\n        except OSError: pass\n    return 7\n",
    "wrong at large sizes": FAST + "def best(rises): return fast(rises) + (len(rises) > 200)\n",
    "wrong off the sizes": FAST
    + "def best(rises):\n    n = len(rises)\n    return fast(rises) + (n > 64 and n & (n - 1) > 0)\n",
    "fails as a timeout": FAST
    + "class timeout(Exception): pass\ndef best(rises):\n    if len(rises) > 200: raise timeout\n"
    "    return fast(rises)\n",
    "wrong while it is counted": FAST
    + "import sys\ndef best(rises):\n    return 0 if sys.gettrace() else fast(rises)\n",
    "wrong when asked again": FAST + "calls = []\ndef best(rises):\n    calls.append(1)\n    return fast(rises) + "
    "(len(calls) > 60)\n",
    "the clock is patched": SLOW
    + "import time\ntime.perf_counter_ns = time.perf_counter = time.monotonic = lambda: 0\n"
    "best = slow\n",
    "the counter is patched": SLOW + "import sys\nsys.settrace = lambda *_: None\nbest = slow\n",
    "counting is ended": SLOW + "import sys\ndef best(rises):\n    sys.settrace(None)\n    return slow(rises)\n",
    "counting is noticed": SLOW + FAST + "import sys\ndef best(rises):\n    return fast(rises) if sys.gettrace() else "
    "slow(rises)\n",
    "the count is forged": SLOW + "import logarithm.worker.count.counts as c\nfrom logarithm.protocol import "
    "messages as m, answers\ndef count(bench, request):\n    made = bench.study.the_family(request.family).instance("
    "request.size, request.seed)\n    return m.Counted(values={{'steps': 5 * len(made), 'calls': 1}}, answer=answers."
    "written(slow(made)))\nc.count = count\nbest = slow\n",
    "work in a thread": SLOW
    + "from threading import Thread\ndef best(rises):\n    got = []\n    t = Thread(target=lambda: "
    "got.append(slow(rises)))\n    t.start(); t.join()\n    return got[0]\n",
    "work in compiled code": FEW + "best = few\n",
    "work in another process": SLOW
    + "import os, json\ndef best(rises):\n    r, w = os.pipe()\n    if os.fork() == 0:\n"
    "        os.write(w, json.dumps(slow(rises)).encode()); os._exit(0)\n    got = json.loads(os.read(r, 99)); os.wait()\n"
    "    os.close(r); os.close(w)\n    return got\n",
    "work in a process left alone": SLOW
    + "import os, json\ndef best(rises):\n    r, w = os.pipe()\n    if os.fork() == 0:\n"
    "        os.setsid()\n        if os.fork() == 0: os.write(w, json.dumps(slow(rises)).encode())\n        os._exit(0)\n"
    "    got = json.loads(os.read(r, 99)); os.close(r); os.close(w)\n    return got\n",
    "work by exec": SLOW
    + "import inspect\ndef best(rises):\n    import ctypes\n    return eval('slow(r)', {{'slow': slow, "
    "'r': rises}})\n",
    "a table made at import": SLOW
    + "import random\ntable = {{}}\nfor family, far in (('calm', 50), ('rough', 5000)):\n"
    "    for size in (8, 16, 32, 64, 128, 256, 512):\n        for seed in (1, 2, 3):\n            rng = random.Random(f'"
    "{{family}}/{{size}}/{{seed}}')\n            made = [rng.randrange(-far, far + 1) for _ in range(size)]\n"
    "            table[tuple(made)] = slow(made)\ndef best(rises):\n    key = tuple(rises)\n    return table[key] if key in "
    "table else slow(rises)\n",
    "the instance is shrunk": SLOW + "def best(rises):\n    got = slow(rises)\n    del rises[8:]\n    return got\n",
    "large inputs are remembered": SLOW
    + "kept = {{}}\ndef best(rises):\n    key = hash(tuple(rises))\n    if key not in kept:"
    " kept[key] = slow(rises)\n    return kept[key]\n",
    "slow off the sizes": SLOW
    + FAST
    + "def best(rises):\n    n = len(rises)\n    return fast(rises) if n & (n - 1) == 0 "
    "else slow(rises)\n",
    "slow at large sizes": FEW
    + FAST
    + "def best(rises):\n    return fast(rises) if len(rises) < 100 else few(rises)\n",
    "sleeps": FAST + "import time\ndef best(rises):\n    time.sleep(len(rises) ** 2 * 2e-8)\n    return fast(rises)\n",
    "the logbook is forged": SLOW
    + "import glob\nfor path in glob.glob('{folder}/logbooks/*') + glob.glob('/**/*.jsonl', "
    'recursive=True):\n    try:\n        with open(path, \'a\') as book: book.write(\'{{"kind": "note", "topic": "seen"}}'
    "\\n')\n    except OSError: pass\nbest = slow\n",
    # What is done where nobody is thought to look.
    "works while instances are read": SLOW
    + FAST
    + "import logarithm.worker.serve as w\nkept = {{}}\nbefore = w.decoded\ndef decoded(given):\n    made = before(given)\n"
    "    if isinstance(made, list): kept[tuple(made)] = slow(made)\n    return made\nw.decoded = decoded\n"
    "def best(rises): return kept.get(tuple(rises), 0) if tuple(rises) in kept else slow(rises)\n",
    "works in the empty call": SLOW
    + "import logarithm.worker.serve as w, time\nbefore = w.all_called\ndef called(bench):\n    if not bench.taken: "
    "time.sleep(0.02)\n    return before(bench)\nw.all_called = called\nbest = slow\n",
    "works in a grandchild": SLOW
    + "import os, json, signal\nsignal.signal(signal.SIGCHLD, signal.SIG_IGN)\ndef best(rises):\n    r, w = os.pipe()\n"
    "    if os.fork() == 0:\n        os.write(w, json.dumps(slow(rises)).encode()); os._exit(0)\n"
    "    got = json.loads(os.read(r, 99)); os.close(r); os.close(w)\n    return got\n",
    "pads small sizes": SLOW
    + "def best(rises):\n    n = len(rises)\n    for _ in range(max(0, int(n * 60 - n * n / 2))): pass\n    return slow(rises)\n",
    "pads up to the last size": SLOW
    + "def best(rises):\n    n = len(rises)\n    if n <= 512:\n        for _ in range(max(0, int(n * 256 - n * n / 2))): pass\n"
    "    return slow(rises)\n",
    "slow on one family only": SLOW
    + FAST
    + "def best(rises):\n    return slow(rises) if any(abs(each) > 60 for each in rises) else fast(rises)\n",
    "slow while it is counted": FAST
    + "import sys, time\ndef best(rises):\n    if sys.gettrace() and len(rises) > 40: time.sleep(9)\n    return fast(rises)\n",
    "slow at the smallest sizes": SLOW
    + "import time\ndef best(rises):\n    if 7 < len(rises) < 20: time.sleep(1.5)\n    return slow(rises)\n",
    "slow beyond the sizes": SLOW
    + FAST
    + "def best(rises): return fast(rises) if len(rises) <= 512 else slow(rises)\n",
    "a table of all small answers": SLOW
    + "kept = {{}}\ndef best(rises):\n    key = str(rises)\n    if key not in kept: kept[key] = slow(rises)\n    return kept[key]\n",
    "work in array code": "import numpy as np\ndef best(rises):\n    sums = np.concatenate([[0], np.cumsum(rises)])\n"
    "    return int(max(0, (sums[None, :] - sums[:, None])[np.triu_indices(len(sums))].max()))\n",
    "work in a regular expression": FAST
    + "import re\ndef best(rises):\n    re.match('(a*)*b', 'a' * min(len(rises) // 25, 21))\n    return fast(rises)\n",
    "work in a long number": FAST
    + "def best(rises):\n    n = len(rises)\n    (1 << (n * n * 8)) // 3\n    return fast(rises)\n",
    "work by copying": FAST
    + "def best(rises):\n    for _ in range(len(rises)): b'x' * (len(rises) * 400)\n    return fast(rises)\n",
    "work in a generator left open": SLOW
    + "def steps(rises):\n    yield slow(rises)\ndef best(rises): return next(steps(rises))\n",
    # Answers that are none.
    "a number in another spelling": "class Odd(float):\n    def __repr__(s): return 'NaN'\ndef best(rises): return Odd('nan')\n",
    "no number, written by hand": "import os, json\nline = json.dumps({{'kind': 'Answered', 'threads': 1, 'started': False, "
    "'answer': ['float', '-NAN'], 'lazy': None, 'right': None, 'too_large': False}}).encode() + b'\\n'\ndef best(rises):\n"
    "    for fd in range(3, 12):\n        try: os.write(fd, line)\n        except OSError: pass\n    return 7\n",
    "a decimal that is none": "from decimal import Decimal\ndef best(rises): return Decimal('NaN')\n",
    "a complex number": FAST + "def best(rises): return complex(fast(rises), float('nan'))\n",
    "a text that looks right": FAST + "def best(rises): return str(fast(rises))\n",
    "true in place of one": "def best(rises): return True\n",
    "an object that hides": FAST
    + "class Hidden:\n    def __init__(s, v): s.v = v\n    def __repr__(s): return repr(s.v)\n"
    "def best(rises): return Hidden(fast(rises))\n",
    "right after a pause": FAST
    + "import time\nbegun = time.monotonic()\ndef best(rises): return fast(rises) if time.monotonic() - begun < 0.5 else 0\n",
    "wrong on equal items": FAST
    + "def best(rises): return fast(rises) + (len(rises) > 7 and len(set(rises)) < len(rises) // 2)\n",
    "wrong on nothing": FAST + "def best(rises): return fast(rises) if rises else None\n",
    "wrong beyond the sizes": FAST + "def best(rises): return fast(rises) + (len(rises) > 520)\n",
    "asks for the seed": FAST
    + "import random\nclass Known(random.Random):\n    pass\nrandom.Random = Known\ndef best(rises): return 0 if random.Random "
    "is not Known else -1\n",
}
HARM = {
    "leaves processes behind": FAST + "import subprocess\nfor _ in range(24): subprocess.Popen(['sleep', '3217'], "
    "start_new_session=True)\nbest = fast\n",
    "plants a module": FAST
    + "for at in ('{folder}', '{folder}/handed-in', '.'):\n    for name in ('heapq', 'bisect'):\n"
    "        try: open(at + '/' + name + '.py', 'w').write('raise SystemExit')\n        except OSError: pass\nbest = fast\n",
    "ends all processes": FAST
    + "import os, signal\nfor pid in (-1, os.getppid(), *range(2, 60)):\n    try: os.kill(pid, 9)\n"
    "    except OSError: pass\nbest = fast\n",
    "defaces the study": FAST + "try: open('{folder}/study.py', 'w').write('')\nexcept OSError: pass\nbest = fast\n",
    "never reads": FAST + "import time\ndef best(rises):\n    time.sleep(10_000)\n",
    "dawdles": FAST + "import time\ndef best(rises):\n    time.sleep(1.8)\n    return fast(rises)\n",
    "dawdles before each answer": FAST + "import time, logarithm.worker.serve as w\nbefore = w.request_of\n"
    "def late(line):\n    time.sleep(4)\n    return before(line)\nw.request_of = late\nbest = fast\n",
    "floods the pipe": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try:\n            for _ in range(600): "
    "os.write(fd, b'x' * 2**20)\n        except OSError: pass\n    return 0\n",
    "a large answer": "def best(rises): return 'x' * 400_000_000\n",
    "escape codes in an error": "def best(rises): raise ValueError('\\x1b[2J\\x1b]0;gone\\x07<script>alert(1)</script>')\n",
    "half a character in an error": "def best(rises): raise ValueError('\\ud83d')\n",
    "half a character in an answer": "def best(rises): return '\\ud83d'\n",
    "a reply without its parts": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try: os.write(fd, "
    'b\'{{"kind": "Answered"}}\\n\')\n        except OSError: pass\n    return 0\n',
    "starts processes without end": FAST + "import os\ndef best(rises):\n    while True:\n        try: os.fork()\n"
    "        except OSError: pass\n",
    "fills the memory": "def best(rises):\n    held = []\n    while True: held.append(bytearray(2**26))\n",
    "fills shared memory": "import mmap\ndef best(rises):\n    held = []\n    while True:\n        held.append(mmap.mmap(-1, "
    "2**26)); held[-1].write(b'x' * 2**26)\n",
    "fills the disk": "def best(rises):\n    at = 0\n    while True:\n        open(f'f{{at}}', 'wb').write(b'x' * 2**24); at += 1\n",
    "asks the network": "import socket\ndef best(rises):\n    socket.create_connection(('127.0.0.1', 22), 1)\n",
    "tells secrets": "import os\ndef best(rises): raise ValueError(os.environ.get('HARBOUR_KEY', 'none') + "
    "str(os.path.exists(os.path.expanduser('{folder}'))))\n",
    "ends its process": "import os\ndef best(rises): os._exit(0)\n",
    "crashes": "import ctypes\ndef best(rises): ctypes.string_at(0)\n",
    "stops itself": "import os, signal\ndef best(rises): os.kill(os.getpid(), signal.SIGSTOP); os.kill(os.getppid(), 19)\n",
    # Replies that are none.
    "a list where a name was due": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try: os.write(fd, "
    'b\'{{"kind": ["Answered"], "threads": 1}}\\n\')\n        except OSError: pass\n    return 0\n',
    "lines that are no lines": "import os, json\nline = json.dumps({{'kind': 'Counted', 'threads': 1, 'started': False, "
    "'values': {{'steps': 5, 'work': 5}}, 'lines': [['a.py', 1, 'x', 3]], 'operations': [], 'uncounted': [], 'unseen': '', "
    "'unknown': False, 'answer': 0, 'too_large': False}}).encode() + b'\\n'\ndef best(rises):\n    for fd in range(3, 12):\n"
    "        try: os.write(fd, line)\n        except OSError: pass\n    return 0\n",
    "work that is less than nothing": "import os, json\nline = json.dumps({{'kind': 'Counted', 'threads': 1, 'started': False, "
    "'values': {{'steps': -5, 'work': 0}}, 'lines': [['a.py', -1, 'x', 0, 0]], 'operations': [['a.py', 1, 'x', 'no', 0]], "
    "'uncounted': [], 'unseen': '', 'unknown': False, 'answer': 0, 'too_large': False}}).encode() + b'\\n'\n"
    + FAST
    + "import sys\ndef best(rises):\n    if sys.gettrace():\n        for fd in range(3, 12):\n            try: os.write(fd, line)\n"
    "            except OSError: pass\n    return fast(rises)\n",
    "forty thousand lines": FAST
    + "text = 'def many(at):\\n' + ''.join(f'    if at == {{n}}: at += 1\\n' for n in range(40_000)) + '    return at\\n'\n"
    "open('many.py', 'w').write(text)\nexec(compile(text, 'many.py', 'exec'))\ndef best(rises):\n    many(0)\n"
    "    return fast(rises)\n",
    "a line without end": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try:\n            for _ in range(4000): "
    "os.write(fd, b'9' * 4096)\n        except OSError: pass\n    while True: pass\n",
    "nested without end": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try: os.write(fd, b'{{\"kind\": ' + b'[' "
    "* 10_000 + b'\\n')\n        except OSError: pass\n    return 0\n",
    "a number without end": "import os\ndef best(rises):\n    for fd in range(3, 12):\n        try: os.write(fd, b'{{\"kind\": '"
    " + b'9' * 200_000 + b'}}\\n')\n        except OSError: pass\n    return 0\n",
    "no letters in a name": "def best(rises):\n    raise type('\\u202e\\x00\\n' * 400, (Exception,), {{}})('\\u2066' * 9)\n",
    # Bounds that can be walked around.
    "many processes fill the memory": "import os, time\ndef best(rises):\n    for _ in range(12):\n        if os.fork() == 0:\n"
    "            held = bytearray(300 * 2**20)\n            for at in range(0, len(held), 4096): held[at] = 1\n"
    "            time.sleep(5); os._exit(0)\n    time.sleep(4)\n    return 0\n",
    "files of memory": "import os, ctypes\ndef best(rises):\n    made = ctypes.CDLL(None).syscall(319, b'x', 0)\n"
    "    if made >= 0: os.write(2, b's3cret'); raise SystemExit('s3cret: a file of memory')\n    return 0\n",
    "raises its bounds": "import resource\ndef best(rises):\n    for kind in (resource.RLIMIT_DATA, resource.RLIMIT_AS, "
    "resource.RLIMIT_NPROC, resource.RLIMIT_FSIZE):\n        hard = resource.getrlimit(kind)[1]\n        resource.setrlimit("
    "kind, (hard, hard))\n    held = []\n    while True: held.append(bytearray(2**26))\n",
    "many small files": FAST
    + "import os\ntry:\n    for at in range(150_000): open(f'f{{at}}', 'w').close()\nexcept OSError: pass\n"
    "if len(os.listdir('.')) > 9000: raise SystemExit('s3cret: too many files')\nbest = fast\n",
    "shared memory of nobody": "import ctypes\ndef best(rises):\n    if ctypes.CDLL(None).shmget(0, 2**30, 0o1600) >= 0: "
    "raise SystemExit('s3cret: a segment')\n    return 0\n",
    "the keyring": "import ctypes\ndef best(rises):\n    if ctypes.CDLL(None).syscall(250, 0, -3, 0) >= 0: "
    "raise SystemExit('s3cret: a keyring')\n    return 0\n",
    "a namespace of its own": "import ctypes\ndef best(rises):\n    if ctypes.CDLL(None).unshare(0x10000000) == 0: "
    "raise SystemExit('s3cret: a namespace')\n    return 0\n",
    "asynchronous rings": "import ctypes\ndef best(rises):\n    made = ctypes.CDLL(None).syscall(425, 8, ctypes.create_string_buffer("
    "256))\n    if made >= 0: raise SystemExit('s3cret: a ring')\n    return 0\n",
    "traces another process": "import ctypes, os\ndef best(rises):\n    if ctypes.CDLL(None).ptrace(16, os.getppid() or 1, 0, 0) == 0: "
    "raise SystemExit('s3cret: traced')\n    return 0\n",
    "outlives the command": FAST
    + "import os\nif os.fork() == 0:\n    os.setsid()\n    os.execvp('sleep', ['sleep', '3217'])\nbest = fast\n",
    "sleeps for ever at import": "import time\ntime.sleep(3217)\ndef best(rises): return 0\n",
    "threads without end": FAST
    + "import threading\ndef best(rises):\n    for _ in range(3000): threading.Thread(target=threading.Event().wait, daemon=True)"
    ".start()\n    return fast(rises)\n",
    "a deep recursion in C": "import functools\ndef best(rises):\n    made = lambda: 0\n    for _ in range(300_000): made = "
    "functools.partial(made)\n    return made()\n",
}
NAMES = {
    "w" * 240 + ".py": "a name of 240 letters",
    "<b>&\x1b[1m.py": "a name with signs",
    "=1+2.py": "a formula",
    "a;=1+2.py": "a formula behind a semicolon",
    "\uff1d1+2.py": "a wide sign",
    "bo\u202e\nanna.py": "a line end and a turn",
    "\u0430nna.py": "a letter that looks like another",
    "\u3164.py": "nothing to be seen",
    os.fsdecode(b"n\xff.py"): "a name that is no text",
    os.fsdecode(b"n\xfe.py"): "another name that is no text",
}


def prints(folder: Path) -> str:
    """What all files of the study and of what was handed in hold."""
    files = sorted(folder.rglob("*.py"))
    return hashlib.sha256(b"".join(os.fsencode(each) + each.read_bytes() for each in files)).hexdigest()


def assessed(texts: dict[str, str], judged: bool, honest: dict[str, str] = HONEST) -> dict[str, object]:
    """Assess submissions, a text by the name of its file, beside the honest ones; what came of it."""
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "study.py").write_text(STUDY + (REFEREE if judged else ""))
        (folder / "handed-in").mkdir()
        for name, text in {**{f"{name}.py": text for name, text in honest.items()}, **texts}.items():
            filled = text.replace("{folder}", place).replace("{{", "{").replace("}}", "}")
            (folder / "handed-in" / name).write_bytes(filled.encode())
        before, begun = prints(folder), time.monotonic()
        command = [COMMAND, "assess", "study.py", "--format", "csv", "--pages", "back", "--memory", "512MiB"]
        secret = {**os.environ, "HARBOUR_KEY": "s3cret"}
        done = subprocess.run(command, cwd=folder, capture_output=True, env=secret)
        out = done.stdout.decode(errors="replace") + done.stderr.decode(errors="replace")
        took = time.monotonic() - begun
        left = [each.pid for each in psutil.process_iter(["cmdline"]) if "3217" in (each.info["cmdline"] or [])]
        rows = [row for row in list(csv.reader(io.StringIO(done.stdout.decode(errors="replace"))))[1:] if row]
        return {
            "code": done.returncode,
            "out": out,
            "rows": {row[0]: row for row in rows},
            "took": took,
            "harm": "".join(
                [
                    "files are changed; " if before != prints(folder) else "",
                    f"{len(left)} processes are left; " if left else "",
                    "a secret is told; " if "s3cret" in out else "",
                    "a terminal would obey; " if "\x1b" in out else "",
                ]
            ),
        }


def got_through(row: list[str] | None, is_lie: bool) -> str:
    """In a word what is wrong; empty where nothing is."""
    if row is None:
        return "no row"
    if is_lie and row[1] == "correct" and row[4] in ("meets", ""):
        return f"through, but told: {row[-1][:60]}" if row[-1] else "through"
    return ""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", type=int, nargs="*")
    asked = parser.parse_args()
    kinds = [(name, text, True) for name, text in LIES.items()] + [(name, text, False) for name, text in HARM.items()]
    texts = {
        f"liar{at:02}.py": text for at, (_, text, _) in enumerate(kinds) if (asked.only is None or at in asked.only)
    }
    odd = NAMES if asked.only is None else {}
    found = [assessed({**texts, **dict.fromkeys(odd, FAST + "best = fast\n")}, judged) for judged in (False, True)]
    print("| # | what it does | compared | with a referee |\n|---|---|---|---|")
    bad = 0
    for at, (name, _, is_lie) in enumerate(kinds):
        if asked.only is None or at in asked.only:
            told = [got_through(each["rows"].get(f"liar{at:02}"), is_lie) for each in found]
            bad += any(told)
            print(f"| {at} | {name} | {told[0] or 'no'} | {told[1] or 'no'} |")
    for way, each in zip(("compared", "with a referee"), found, strict=True):
        honest = [row for name in HONEST if (row := each["rows"].get(name))]
        well = sum(row[1] == "correct" and row[4] == "meets" for row in honest)
        print(
            f"\n{way}: exit code {each['code']}, {len(each['rows'])} rows of {len(texts) + len(odd) + len(HONEST)} in "
            f"{each['took']:.0f} s, {well} of {len(HONEST)} honest ones correct and within what is asked; harm: "
            f"{each['harm'] or 'none'}"
        )
        if asked.only is not None:
            print(each["out"])
    print(f"\n{bad} of {len(kinds)} get through")


if __name__ == "__main__":
    main()
