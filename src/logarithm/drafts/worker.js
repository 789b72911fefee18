// A worker in JavaScript: kept alive by Logarithm, it loads instances, runs the job on them in turn,
// and times it itself.
// In a study:  study.program("in JavaScript", worker=["node", "{name}"])
"use strict";
const fs = require("fs");
const readline = require("readline");

// ---- Your job: from here ... --------------------------------------------------------------------------------
// The highest of the values in the instance, which is what the file holds as JSON, or its numbers line by line.
function job(instance) {
  let best = instance.length ? instance[0] : 0;
  for (const value of instance) if (value > best) best = value;
  return best;
}
// ---- ... to here. -------------------------------------------------------------------------------------------

function load(path) {
  const text = fs.readFileSync(path, "utf8");
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

let instances = [];
let next = 0;
console.log("logarithm-worker 2 JavaScript " + process.version);
readline.createInterface({ input: process.stdin }).on("line", (line) => {
  try {
    if (line === "clear") {
      instances = [];
      next = 0;
      console.log("ok");
    } else if (line.startsWith("load ")) {
      instances.push(load(line.slice(5)));
      console.log("ok");
    } else if (line.startsWith("run ")) {
      const calls = Number(line.slice(4));
      let answer;
      const start = process.hrtime.bigint();
      for (let i = 0; i < calls; i++) {
        answer = job(instances[next]);
        if (++next === instances.length) next = 0;
      }
      const took = process.hrtime.bigint() - start;
      console.log("done " + took + " " + JSON.stringify(answer));
    } else if (line === "end") {
      process.exit(0);
    } else {
      console.log("error unknown request: " + line.slice(0, 60));
    }
  } catch (error) {
    console.log("error " + String(error).replace(/\s+/g, " "));
  }
});
