"""A worker in Python: kept alive by Logarithm, it loads instances, runs the job on them, and times it itself.

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
    instances, following = [], 0
    print("logarithm-worker 3 Python", sys.version.split()[0], flush=True)
    for line in sys.stdin:
        request, _, rest = line.rstrip("\n").partition(" ")
        try:
            if request == "clear":
                instances, following = [], 0
                print("ok", flush=True)
            elif request == "load":
                with open(rest, encoding="utf-8") as file:  # many instances: the sign U+001E stands before each
                    instances += [json.loads(text) for text in file.read().split("\x1e")[1:]]
                print("ok", flush=True)
            elif request == "run":
                answer, (calls, many) = None, map(int, rest.split())
                turns = [instances[(following + each) % many] for each in range(min(calls, many))]
                rounds, left = divmod(calls, len(turns))
                start = perf_counter_ns()
                for _ in range(rounds):
                    for instance in turns:
                        answer = job(instance)
                for instance in turns[:left]:
                    answer = job(instance)
                took = perf_counter_ns() - start
                following = (following + calls) % many
                print("done", took, json.dumps(answer), flush=True)
            elif request == "end":
                return
            else:
                print("error unknown request:", line[:60].strip(), flush=True)
        except Exception as error:
            print("error", " ".join(str(error).split()), flush=True)


if __name__ == "__main__":
    main()
