"""A worker in Python: kept alive by Logarithm, it loads instances, runs the job and times it itself.

In a study:  study.program("another Python", worker=["python3", "{name}"])
"""

import json
import sys
from time import perf_counter_ns


# ---- Your job: from here ... ---------------------------------------------------------------------------------
def job(instance):
    """The highest of the values in the instance, which is what the file holds as JSON."""
    return max(instance, default=0)


# ---- ... to here. --------------------------------------------------------------------------------------------


def main():
    instance = None
    print("logarithm-worker 1 Python", sys.version.split()[0], flush=True)
    for line in sys.stdin:
        request, _, rest = line.rstrip("\n").partition(" ")
        try:
            if request == "load":
                with open(rest, encoding="utf-8") as file:
                    instance = json.load(file)
                print("ok", flush=True)
            elif request == "run":
                answer = None
                start = perf_counter_ns()
                for _ in range(int(rest)):
                    answer = job(instance)
                took = perf_counter_ns() - start
                print("done", took, json.dumps(answer), flush=True)
            elif request == "end":
                return
            else:
                print("error unknown request:", line[:60].strip(), flush=True)
        except Exception as error:
            print("error", " ".join(str(error).split()), flush=True)


if __name__ == "__main__":
    main()
