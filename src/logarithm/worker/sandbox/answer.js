// Answers instances with a function of the file that was handed in: a line of JSON each, what it prints itself is lost.
// "+" and JSON hand an instance over; "=" and its number have it answered, once. Both get a line of JSON back.
"use strict";
const fs = require("fs");
const [file, name] = process.argv.slice(2);
// Handing over is not timed. So it is done by functions as they were before the file ran, which it cannot change.
const { call } = Function.prototype, { parse, stringify } = JSON, { readSync, writeSync } = fs;
const [slice, find] = [String.prototype.slice, String.prototype.indexOf].map((each) => call.bind(each));
const [put, get, drop] = [Map.prototype.set, Map.prototype.get, Map.prototype.delete].map((each) => call.bind(each));
const text = call.bind(Buffer.prototype.utf8Slice), number = Number, said = String;

const reply = (made) => writeSync(1, stringify(made) + "\n");
process.stdout.write = () => true;

let asked;
try {
  // In a function of its own, whether it exports what is asked for or not.
  const own = fs.readFileSync(file, "utf8") + `\n;return typeof ${name} === "function" ? ${name} : module.exports.${name};`;
  const module = { exports: {} };
  asked = new Function("require", "module", "exports", own)(require, module, module.exports);
  if (typeof asked !== "function") throw new Error(`no function '${name}'`);
  reply({ ready: true });
} catch (error) {
  reply({ error: said(error) });
  process.exit(0);
}
const chunk = Buffer.alloc(1 << 20), handed = new Map();
let rest = "", next = 0;
for (;;) {
  const many = readSync(0, chunk, 0, chunk.length, null);
  if (!many) break;
  rest += text(chunk, 0, many);
  for (let end = find(rest, "\n"); end >= 0; end = find(rest, "\n")) {
    const line = slice(rest, 0, end);
    rest = slice(rest, end + 1);
    try {
      if (line[0] === "+") {
        put(handed, next, parse(slice(line, 1)));
        reply({ answer: next++ });
        continue;
      }
      const at = number(slice(line, 1)), given = get(handed, at);
      drop(handed, at);
      const answer = asked(given);
      reply({ answer: answer === undefined ? null : answer });
    } catch (error) {
      reply({ error: said(error) });
    }
  }
}
