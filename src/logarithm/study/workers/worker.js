// Written by Logarithm around functions of an array of numbers. Its arguments are their file, and which one is timed.
"use strict";
const fs = require("fs");
const readline = require("readline");
const [file, name] = process.argv.slice(2);
const given = { exports: {} };
const own = new Function("module", "exports", "require", fs.readFileSync(file, "utf8") + `\n;return ${name};`)(
  given, given.exports, require);
const COPIES_MOST = 4000000; // numbers

let instances = [];
let next = 0;
let among = 0;
let changes = false;

async function answered(values) {
  const answer = own(values);
  return answer instanceof Promise ? await answer : answer; // a promise is work that is not done yet
}

function following(many) {
  const made = [];
  for (let at = 0; at < many; at++) {
    made.push(changes ? instances[next].slice() : instances[next]);
    if (++next === among) next = 0;
  }
  return made;
}

async function run(calls) {
  let took = 0n;
  let answer;
  const each = changes ? Math.max(1, Math.floor(COPIES_MOST / (instances[0].length + 1))) : calls;
  for (let done = 0; done < calls; done += each) {
    const inputs = following(Math.min(each, calls - done));
    const start = process.hrtime.bigint();
    for (let at = 0; at < inputs.length; at++) {
      answer = own(inputs[at]);
      if (answer instanceof Promise) answer = await answer;
    }
    took += process.hrtime.bigint() - start;
    if (answer === undefined) answer = inputs[inputs.length - 1];
  }
  return [took, answer];
}

async function main() {
  console.log("logarithm-worker 3 JavaScript " + process.version);
  for await (const line of readline.createInterface({ input: process.stdin })) {
    try {
      if (line === "clear") {
        instances = [];
        next = 0;
        console.log("ok");
      } else if (line.startsWith("load ")) {
        // A file holds many instances; the sign U+001E stands before each.
        for (const text of fs.readFileSync(line.slice(5), "utf8").split("\x1e").slice(1)) {
          const values = JSON.parse(`[${text.trim().split(/[\s,]+/).join(",")}]`);
          const spare = values.slice();
          await answered(spare);
          changes = changes || spare.some((value, at) => value !== values[at]) || spare.length !== values.length;
          instances.push(values);
        }
        console.log("ok");
      } else if (line.startsWith("run ")) {
        const [calls, many] = line.slice(4).split(" ").map(Number);
        among = many;
        next %= among;
        const [took, answer] = await run(calls);
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
