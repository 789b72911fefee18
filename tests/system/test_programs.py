"""Programs in other languages: commands, workers, interpreters, studies in TOML."""

from __future__ import annotations

import shutil
import sys
import time
from pathlib import Path

import psutil
import pytest

from logarithm import Study
from logarithm.errors import MeasuringError
from logarithm.protocol.requests import Calibrate, Limits, TakeTrial
from logarithm.run.plan.settings import Settings
from logarithm.run.plan.track import tracks
from logarithm.study.files.loading import load
from logarithm.supervisor.failed import Failed
from logarithm.supervisor.programs.command import run_once
from logarithm.supervisor.programs.exchange import filled, read_answer, text_of
from logarithm.supervisor.programs.instances import InstanceFiles
from logarithm.supervisor.programs.program import ProgramProcess

HEAD = """
from logarithm import Study
study = Study("peak", sizes="4..64 *2")
@study.family(format="lines")
def waves(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def python(levels): return max(levels)
study.agree(within=1e-12)
"""
BUILDS = {
    "c": ("cc", '["{build}/worker"]', '["cc", "-O2", "-o", "{build}/worker", "Peak.c", "-lm"]'),
    "js": ("node", '["node", "Peak.js"]', "[]"),
    "java": ("javac", '["java", "-cp", "{build}", "Peak"]', '["javac", "-d", "{build}", "Peak.java"]'),
    "rs": ("rustc", '["{build}/worker"]', '["rustc", "-O", "-o", "{build}/worker", "Peak.rs"]'),
}


@pytest.mark.parametrize("ending", BUILDS)
def test_a_drafted_worker_runs_agrees_and_is_timed(harbour, ending: str) -> None:
    tool, worker, build = BUILDS[ending]
    if shutil.which(tool) is None:
        pytest.skip(f"{tool} is not installed")
    assert harbour.run("draft", f"Peak.{ending}").code == 0
    harbour.study(HEAD, f"study.program('worker', worker={worker}, build={build})\n")
    done = harbour.run("measure", "study.py", "--budget", "12s")
    assert done.code == 0, done.err
    found = harbour.run("report", "--format", "json").json
    costs = {each["contender"]: each["points"] for each in found["costs"]}
    assert min(len(costs["worker"]), len(costs["python"])) >= 5
    assert found["tools"][tool]
    assert not found["failures"]


def command(*lines: str) -> str:
    """A study beside Python with a command that is a line of Python."""
    return f"study.program('other', command=[{sys.executable!r}, '-c', {chr(10).join(lines)!r}, '{{file}}'])\n"


HOSTILE = {
    "timeout": "import time; time.sleep(60)",
    "exit": "import sys; sys.exit('the sea is rough')",
    "crash": "import os, signal; os.kill(os.getpid(), signal.SIGSEGV)",
    "floods": "print('fog' * 10**7)",
    "none": "input()",
}


@pytest.mark.parametrize("reason", HOSTILE)
def test_a_command_that_misbehaves_is_ended_and_told(harbour, reason: str) -> None:
    begun = time.monotonic()
    harbour.study(HEAD, command(HOSTILE[reason]))
    done = harbour.run("measure", "study.py", "--budget", "4s", "--ceiling", "0.5s")
    assert time.monotonic() - begun < 30
    assert done.code == 1, done.err
    (failure, *_) = harbour.records("failure")
    assert failure["contender"] == "other"
    assert failure["reason"] == ("exit" if reason == "none" else reason)
    if reason == "exit":
        assert "exit code 1: the sea is rough" in failure["detail"]


def test_children_of_a_command_are_ended_with_it(harbour) -> None:
    script = (
        "import subprocess, sys; subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(99.5)']); print(1)"
    )
    run_once([sys.executable, "-c", script], harbour.folder, Limits(), 10.0)
    time.sleep(0.3)
    assert not [
        each for each in psutil.process_iter(["cmdline"]) if "time.sleep(99.5)" in (each.info["cmdline"] or [""])[-1]
    ]


def test_arguments_arrive_as_they_are(harbour) -> None:
    strange = [
        "two words",
        "'\"quotes\"'",
        "$(touch sunk)",
        "`touch sunk`",
        "new\nline",
        "*",
        "; touch sunk",
        "{unknown}",
    ]
    script = "import json, sys; print(json.dumps(sys.argv[1:]))"
    command = filled([sys.executable, "-c", script, *strange, "{size}"], {"size": "8"})
    answer = read_answer(run_once(command, harbour.folder, Limits(), 20.0).answer)
    assert answer == ["list", [*strange, "8"]]
    assert not (harbour.folder / "sunk").exists()


def says(*lines: str) -> str:
    """A worker that greets and then says each line, whatever it is asked."""
    said = "; ".join(f"input(); print({line!r}, flush=True)" for line in lines)
    return f"print('logarithm-worker 3 X', flush=True); {said}; input()"


WORKERS = {
    "print('hello')": ('line 1 of it should begin with "logarithm-worker 3"', "did not start"),
    says("fine"): ('line 2 of it should be "ok" after load', ""),
    says("error no such pier"): ("no such pier", ""),
    says("ok", "done soon 3"): ('line 3 of it should be "done NANOSECONDS ANSWER" after run', ""),
}


@pytest.mark.parametrize("script", WORKERS)
def test_what_is_wrong_with_a_worker_is_told_by_its_line(harbour, script: str) -> None:
    expected, how = WORKERS[script]
    harbour.study(HEAD, f"study.program('other', worker=[{sys.executable!r}, '-c', {script!r}])\n")
    done = harbour.run("rehearse", "study.py")
    assert expected in done.out + done.err
    assert how in done.err


def test_a_build_that_fails_shows_what_it_printed(harbour) -> None:
    script = "import sys; print('shoals ahead'); sys.exit(2)"
    build = [sys.executable, "-c", script]
    harbour.study(HEAD, f"study.program('other', command=['{{build}}/x'], build={build!r})\n")
    done = harbour.run("measure", "study.py", "--budget", "3s")
    assert done.code == 2
    assert "building 'other' failed with exit code 2:" in done.err
    assert "shoals ahead" in done.err


def test_what_is_not_installed_is_left_out_with_a_word(harbour) -> None:
    more = "study.program('sunk', command=['no-such-tool-here', '{file}'])\n"
    more += "study.contender(lambda levels: max(levels), name='old', interpreter='no-such-python')\n"
    harbour.study(HEAD, more)
    done = harbour.run("measure", "study.py", "--budget", "3s")
    assert done.code == 0, done.err
    assert "sunk: is left out: no-such-tool-here is not installed" in done.out
    assert "old: is left out: no-such-python is not installed" in done.out


def test_another_interpreter_needs_nothing_but_its_own(harbour) -> None:
    harbour.study(
        HEAD, f"study.contender(lambda levels: max(levels), name='bare', interpreter={sys._base_executable!r})\n"
    )
    done = harbour.run("measure", "study.py", "--budget", "4s")
    assert done.code == 0, done.err
    assert {row["contender"] for row in harbour.run("report", "--format", "json").json["costs"]} == {"python", "bare"}


def test_start_up_is_told_apart_from_the_work(harbour) -> None:
    script = "import sys; print(max(map(float, open(sys.argv[1]))) if open(sys.argv[1]).read() else 0)"
    harbour.study(HEAD, command(script))
    done = harbour.run("measure", "study.py", "--budget", "6s")
    assert done.code == 0, done.err
    assert "other starts in " in done.out
    (row, *_) = harbour.run("report", "--format", "json").json["startups"]
    assert 0.001 < row["seconds"] < 5
    assert (row["contender"], row["over"], row["size"]) == ("other", "python", None)


TOML = """
name = "peak"
sizes = "4..64 *2"
[[family]]
ready = "decimals"
[[contender]]
name = "highest"
python = "harbour.py:highest"
claim = "n"
levels = { step = [1, 2] }
[[contender]]
name = "outside"
command = ["sh", "-c", "cat {file}", "{size}"]
sizes = "4, 8"
ceiling = "2s"
[agree]
within = 1e-9
"""
TWIN = """
from logarithm import Study, families
from harbour import highest
study = Study("peak", sizes="4..64 *2")
study.family(families.decimals)
study.contender(highest, claim="n", levels={"step": [1, 2]})
study.program("outside", command=["sh", "-c", "cat {file}", "{size}"], sizes="4, 8", ceiling="2s")
study.agree(within=1e-9)
"""


def test_a_study_in_toml_and_its_twin_give_the_same_plan(harbour) -> None:
    harbour.study("def highest(levels, step=1): return max(levels)\n", name="harbour.py")
    one, other = load(harbour.study(TOML, name="study.toml")), load(harbour.study(TWIN))
    plans = [
        [
            (t.contender.name, t.contender.options.claims, t.family.name, t.planned, t.ceiling, t.contender.program)
            for t in tracks(study, Settings())
        ]
        for study in (one, other)
    ]
    assert plans[0] == plans[1]
    assert (one.name, one.sizes, one.agreement) == (other.name, other.sizes, other.agreement)


@pytest.mark.parametrize(
    ("old", "new", "told"),
    [
        ('claim = "n"', 'clame = "n"', "study.toml:9: [[contender]] has no key 'clame'"),
        ('claim = "n"', 'claim = "n!!"', "study.toml:9: claim: 'n!!' is not an order of growth"),
        ('sizes = "4..64 *2"', 'sizes = "64..4"', "study.toml:3: sizes: "),
        ('ready = "decimals"', 'ready = "tide"', "study.toml:5: there is no ready-made family 'tide'"),
        ("harbour.py:highest", "harbour.py:lowest", "study.toml:8: python: "),
        ("[[family]]", "[[family", "study.toml:4: this is not TOML"),
        ('command = ["sh"', 'commands = ["sh"', "study.toml:11: [[contender]] needs one of python"),
    ],
)
def test_what_is_wrong_in_toml_is_named_by_line_and_key(harbour, old: str, new: str, told: str) -> None:
    harbour.study("def highest(levels, step=1): return max(levels)\n", name="harbour.py")
    harbour.study(TOML.replace(old, new, 1), name="study.toml")
    done = harbour.run("rehearse", "study.toml")
    assert (done.code, done.err.count("\n")) == (2, 1)
    assert told in done.err


def test_instances_are_written_in_every_format() -> None:
    for form, text in (("json", "[[0.5, 1]]"), ("lines", "0.5 1\n"), ("csv", "0.5,1\n"), ("text", "[(0.5, 1)]")):
        assert text_of([(0.5, 1)], form) == text
    with pytest.raises(MeasuringError, match="cannot be written as lines"):
        text_of(["two words"], "lines")


def test_many_instances_stand_in_one_file_and_are_made_once_for_all_programs() -> None:
    made = []
    study = Study("moorings", sizes="1..8")

    @study.family(format="text")
    def ropes(n, rng):
        made.append(n)
        return "\x1e" if n == 8 else f"rope {rng.random()}"

    files = InstanceFiles(study)
    place = "ropes", 2, 5
    assert (files.hold(place, 3), files.hold(place, 2), files.hold(place, 9, within=0)) == (3, 2, 3)
    together = files.many(place, 0, 3).read_text()
    alone = [files.single(place, number).read_text() for number in range(3)]
    assert together == "".join(f"\x1e{text}\n" for text in alone)
    assert files.many(place, 1, 3).read_text() == "".join(f"\x1e{text}\n" for text in alone[1:])
    assert made == [2, 2, 2]
    files.hold(("ropes", 8, 5), 1)
    with pytest.raises(MeasuringError, match="the sign U"):
        files.many(("ropes", 8, 5), 0, 1)
    files.end()
    assert not files.folder.exists()


NUMBERED_WORKER = """
import sys, time
loaded, turn = [], 0
print("logarithm-worker", sys.argv[1], "pier", flush=True)
for line in sys.stdin:
    word, *rest = line.split()
    if word == "clear":
        loaded, turn = [], 0
    elif word == "load":
        loaded += open(rest[0]).read().split("\\x1e")[1:]
    elif word == "run":
        among = int(rest[1])
        for _ in range(int(rest[0])):
            answer = loaded[turn % among].strip()
            turn = (turn + 1) % among
        print("done", 1000 * int(rest[0]), answer, flush=True)
        continue
    print("ok", flush=True)
"""


def process(version: str, script: str = NUMBERED_WORKER) -> ProgramProcess:
    """A worker in Python that speaks a version, and answers with its instance; instances are numbered."""
    study = Study("moorings", sizes="1..8")
    numbers = iter(range(1000))
    study.family(lambda n, rng: next(numbers), name="numbered", format="json")
    study.program("kept", worker=[sys.executable, "-c", script, version])
    return ProgramProcess(study, Path.cwd(), study.contenders[0], Limits(), InstanceFiles(study))


def test_a_worker_takes_as_many_instances_in_turn_as_it_is_told() -> None:
    kept = process("3")
    try:
        kept.greet()
        found = []
        for among in (3, 2, 1):
            trial = TakeTrial("numbered", 4, 7, None, calls=among, instances=among)
            assert kept.timed(trial, 10.0).elapsed == 1000 * among
            found.append(int(kept.run(trial, among, 10.0).answer))
        assert found == [2, 1, 0]
        # Another place of the same study has instances of its own.
        other = kept.run(TakeTrial("numbered", 8, 7, None, calls=1), 1, 10.0)
        assert int(other.answer) == 3
        assert kept.calibrated(Calibrate("numbered", 8, 9, None, 5000, 1), 10.0).instances == 1
    finally:
        kept.end()
        kept.instances.end()


def test_a_worker_that_leaves_while_it_loads_is_lost() -> None:
    kept = process("3", "import sys\nprint('logarithm-worker 3 pier', flush=True); input(); sys.exit(3)")
    kept.greet()
    with pytest.raises(Failed):
        kept.timed(TakeTrial("numbered", 4, 7, None, calls=1), 10.0)
    assert not kept.alive
    kept.end()
    kept.instances.end()


def test_a_worker_of_a_version_that_nobody_knows_is_told() -> None:
    kept = process("9")
    with pytest.raises(Exception, match='should begin with "logarithm-worker 3"'):
        kept.greet()
    kept.end()
    kept.instances.end()


def test_the_peak_of_a_command_is_its_own(harbour) -> None:
    script = "hoard = bytearray({} * 2**20); import time; time.sleep(0.05); print(1)"
    held = [
        run_once([sys.executable, "-c", script.format(n)], harbour.folder, Limits(), 20.0, watched=True).peak
        for n in (1, 65)
    ]
    assert 50 * 2**20 < held[1] - held[0] < 80 * 2**20


PAIRS_IN_C = """
#include <stdio.h>
#include <stdlib.h>
int main(int many, char **words) {
    long n = atol(words[1]), sum = 0;
    for (long i = 0; i < n; i++) for (long j = 0; j < i; j++) sum += i ^ j;
    printf("%ld\\n", sum);
    return many < 2;
}
"""


@pytest.mark.skipif(not shutil.which("valgrind") or not shutil.which("cc"), reason="valgrind or cc is not installed")
def test_instructions_of_a_compiled_program_are_counted(harbour) -> None:
    (harbour.folder / "pairs.c").write_text(PAIRS_IN_C)
    build = '["cc", "-O1", "-o", "{build}/pairs", "pairs.c"]'
    harbour.study(
        "from logarithm import Study\n"
        'study = Study("pairs", sizes="64, 128, 256, 512, 1024")\n'
        "@study.family\ndef sizes(n, rng): return n\n"
        f'study.program("in C", command=["{{build}}/pairs", "{{size}}"], build={build})\n'
    )
    done = harbour.run("measure", "study.py", "--metric", "instructions", "--budget", "40s")
    assert done.code == 0, done.err
    counts = {row["size"]: row["value"] for row in harbour.records("trial") if row.get("metric") == "instructions"}
    assert len(counts) >= 4
    rises = [counts[size] for size in sorted(counts)]
    assert rises == sorted(rises)
    assert "instructions" in done.out


RISES = """
#include <stdlib.h>
/* The largest rise. */
double rise(const double *levels, size_t many) {
    double best = 0, low = many ? levels[0] : 0;
    for (size_t i = 1; i < many; i++) {
        if (levels[i] < low) low = levels[i];
        if (levels[i] - low > best) best = levels[i] - low;
    }
    return best;
}
double rise_by_pairs(const double levels[], int many) {
    double best = 0;
    for (int i = 0; i < many; i++)
        for (int j = i + 1; j < many; j++)
            if (levels[j] - levels[i] > best) best = levels[j] - levels[i];
    return best;
}
static int by_value(const void *a, const void *b) { return *(const int *)a - *(const int *)b; }
void in_order(int *levels, size_t many) { qsort(levels, many, sizeof *levels, by_value); }
void from_below(int *levels, size_t many) {
    for (size_t i = 0; i < many; i++)
        for (size_t j = i + 1; j < many; j++)
            if (levels[j] < levels[i]) { int kept = levels[i]; levels[i] = levels[j]; levels[j] = kept; }
}
int main(void) { return 0; }
"""


@pytest.mark.skipif(shutil.which("cc") is None, reason="there is no C compiler")
def test_plain_functions_in_c_race_without_a_worker_of_ones_own(harbour) -> None:
    (harbour.folder / "rises.c").write_text(RISES)
    words = ("--sizes", "16, 128, 512", "--budget", "3s", "--format", "json")
    for pair, family in ((("rise", "rise_by_pairs"), "decimals"), (("in_order", "from_below"), "shuffled")):
        done = harbour.run("race", "rises.c", *pair, "--family", family, *words)
        assert done.code == 0, done.err  # the answers agree, those of what changes its numbers, too
        quick, slow = ([point["typical"] for point in row["points"]] for row in done.json["costs"])
        assert quick[-1] < slow[-1]
    assert (
        "there are rise, rise_by_pairs, by_value, in_order and from_below" in harbour.run("race", "rises.c", "ebb").err
    )


@pytest.mark.skipif(shutil.which("node") is None, reason="node is not installed")
def test_plain_functions_in_javascript_race_and_their_promises_are_waited_for(harbour) -> None:
    (harbour.folder / "rises.js").write_text(
        "function highest(levels) { return Math.max(...levels); }\n"
        "const last = (levels) => levels.sort((a, b) => a - b)[levels.length - 1];\n"
        "async function later(levels) { await new Promise((go) => setTimeout(go, 20)); return Math.max(...levels); }\n"
    )
    words = ("--sizes", "16, 256", "--budget", "3s", "--format", "json")
    done = harbour.run("race", "rises.js", "highest", "last", "later", *words)
    assert done.code == 0, done.err
    costs = {row["contender"]: row["points"][-1]["typical"] for row in done.json["costs"]}
    assert costs["later"] > 10 * costs["highest"]


@pytest.mark.skipif(shutil.which("rustc") is None, reason="rustc is not installed")
def test_plain_functions_in_rust_race(harbour) -> None:
    (harbour.folder / "rises.rs").write_text(
        "// the highest of some levels\n"
        "fn highest(levels: &[f64]) -> f64 { levels.iter().cloned().fold(f64::MIN, f64::max) }\n"
        "fn by_order(mut levels: Vec<f64>) -> f64 { levels.sort_by(f64::total_cmp); levels[levels.len() - 1] }\n"
        "pub fn in_place(levels: &mut [f64]) -> f64 { levels.sort_by(f64::total_cmp); levels[levels.len() - 1] }\n"
        "fn twice(level: f64) -> f64 { 2.0 * level }\n"
    )
    words = ("--sizes", "16, 256, 1024", "--budget", "3s", "--format", "json")
    done = harbour.run("race", "rises.rs", "highest", "by_order", "in_place", *words)
    assert done.code == 0, done.err
    assert {row["contender"] for row in done.json["costs"]} == {"highest", "by_order", "in_place"}
    assert "twice is no function of an array of numbers" in harbour.run("race", "rises.rs", "twice").err
