// A worker in JavaScript: kept alive by Logarithm, it loads instances, runs the job on them in turn,
// and times it itself.
// In a study:  study.program("in JavaScript", worker=["node", "{name}"])
"use strict";
const fs = require("fs");
const readline = require("readline");

// ---- Your job: from here ... --------------------------------------------------------------------------------
// The highest of the values in the instance, which is what the file holds as JSON, or its numbers line by line.
// It may be `async`: the promise is waited for inside the timing.
function job(instance) {
  let best = instance.length ? instance[0] : 0;
  for (const value of instance) if (value > best) best = value;
  return best;
}
// ---- ... to here. -------------------------------------------------------------------------------------------

function read(text) {
  try {
    return JSON.parse(text);
  } catch {
    const rows = text.split("\n").filter((row) => row.trim());
    return rows.map((row) => {
      const parts = row.trim().split(/[\s,]+/).map(Number);
      return parts.length === 1 ? parts[0] : parts;
    });
  }
}

// A file holds many instances; the sign U+001E stands before each.
function load(path) {
  return fs.readFileSync(path, "utf8").split("\x1e").slice(1).map(read);
}

async function timed(calls, among, instances, first) {
  let answer;
  let next = first % among;
  const start = process.hrtime.bigint();
  for (let i = 0; i < calls; i++) {
    answer = job(instances[next]);
    if (answer instanceof Promise) answer = await answer; // a promise is work that is not done yet
    if (++next === among) next = 0;
  }
  const took = process.hrtime.bigint() - start;
  return [took, answer, next];
}

async function main() {
  let instances = [];
  let next = 0;
  console.log("logarithm-worker 3 JavaScript " + process.version);
  for await (const line of readline.createInterface({ input: process.stdin })) {
    try {
      if (line === "clear") {
        instances = [];
        next = 0;
        console.log("ok");
      } else if (line.startsWith("load ")) {
        instances = instances.concat(load(line.slice(5)));
        console.log("ok");
      } else if (line.startsWith("run ")) {
        const [calls, among] = line.slice(4).split(" ").map(Number);
        const [took, answer, after] = await timed(calls, among, instances, next);
        next = after;
        console.log("done " + took + " " + JSON.stringify(answer));
      } else if (line === "end") {
        process.exit(0);
      } else {
        console.log("error unknown request: " + line.slice(0, 60));
      }
    } catch (error) {
      console.log("error " + String(error).replace(/\s+/g, " "));
    }
  }
}

main();
