// The closest two buoys in JavaScript, by every pair: as a command (buoys.js FILE) and as a worker (buoys.js).
"use strict";
const fs = require("fs");
const readline = require("readline");

function job(buoys) {
  let best = Infinity;
  for (let i = 0; i < buoys.length; i++) {
    const [x, y] = buoys[i];
    for (let j = 0; j < i; j++) {
      const across = x - buoys[j][0], along = y - buoys[j][1];
      const apart = across * across + along * along;
      if (apart < best) best = apart;
    }
  }
  return Math.sqrt(best);
}

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

if (process.argv[2]) {
  console.log(job(load(process.argv[2])));
  process.exit(0);
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
