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

if (process.argv[2]) {
  console.log(job(read(fs.readFileSync(process.argv[2], "utf8"))));
  process.exit(0);
}
let instances = [];
let next = 0;
console.log("logarithm-worker 3 JavaScript " + process.version);
readline.createInterface({ input: process.stdin }).on("line", (line) => {
  try {
    if (line === "clear") {
      instances = [];
      next = 0;
      console.log("ok");
    } else if (line.startsWith("load ")) {
      // A file holds many instances; the sign U+001E stands before each.
      instances = instances.concat(fs.readFileSync(line.slice(5), "utf8").split("\x1e").slice(1).map(read));
      console.log("ok");
    } else if (line.startsWith("run ")) {
      const [calls, among] = line.slice(4).split(" ").map(Number);
      next %= among;
      let answer;
      const start = process.hrtime.bigint();
      for (let i = 0; i < calls; i++) {
        answer = job(instances[next]);
        if (++next === among) next = 0;
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
