"""A C worker of a function of about 100 ns, against a loop written by hand around the same function in C.

python benchmarks/programs.py    needs a C compiler
"""

from __future__ import annotations

import json
import shutil
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from logarithm.drafts import draft_of

COMMAND = Path(sys.executable).with_name("logarithm")
STUDY = """
from logarithm import Study
study = Study("short", sizes="{size}")
@study.family(format="lines")
def waves(n, rng): return [rng.random() for _ in range(n)]
study.program("C", worker=["{{build}}/worker"], build=["cc", "-O2", "-o", "{{build}}/worker", "worker.c", "-lm"])
"""
MAIN = """
int main(int many, char **arguments) {
    double answer = 0;
    load(arguments[1]);
    for (int turn = 0; turn < 200; turn++) {
        int64_t start = now();
        for (int i = 0; i < 50000; i++) {
            answer = job(values, count);
            __asm__ volatile("" : "+m"(answer) : : "memory");
        }
        printf("%.4f\\n", (now() - start) / 50000.0);
    }
    return (int)answer;
}
"""
RUNS, SIZE = 5, 100


def main() -> None:
    if shutil.which("cc") is None:
        print("no C compiler here")
        return
    print("| what | measured | promised |\n|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        worker = draft_of(room / "worker.c")
        (room / "worker.c").write_text(worker)
        (room / "study.py").write_text(STUDY.format(size=SIZE))
        (room / "hand.c").write_text(worker[: worker.index("int main(void)")] + MAIN.replace("\\\\n", "\\n"))
        subprocess.run(["cc", "-O2", "-o", "hand", "hand.c", "-lm"], cwd=room, check=True)
        (room / "values").write_text("".join(f"{(at * 7919) % 1000 / 1000}\n" for at in range(SIZE)))
        errors, calls = [], []
        for number in range(RUNS):
            # The quickest of many: a slow moment of the machine makes either slower, but none quicker.
            done = subprocess.run(["./hand", "values"], cwd=room, capture_output=True, text=True)
            by_hand = min(map(float, done.stdout.split()))
            out = f"run-{number}.jsonl"
            command = [COMMAND, "measure", "study.py", "--budget", "3s", "--out", out]
            subprocess.run(command, cwd=room, check=True, capture_output=True)
            trials = [json.loads(line) for line in (room / out).open()]
            costs = [each["elapsed"] / each["calls"] for each in trials if each["kind"] == "trial" and each["heat"]]
            errors.append(100 * (min(costs) / by_hand - 1))
            calls.append(by_hand)
    shown = f"{statistics.median(errors):+.1f} % ({min(errors):+.1f} to {max(errors):+.1f})"
    print(f"| a call of {statistics.median(calls):.0f} ns in C, against a loop by hand | {shown} | within 5 % |")


if __name__ == "__main__":
    main()
