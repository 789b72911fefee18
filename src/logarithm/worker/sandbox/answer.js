// Answers instances with a function of the file that was handed in: a line of JSON each, what it prints itself is lost.
// "+" and JSON hand an instance over; "=" and its number have it answered, once. Both get a line of JSON back.
"use strict";
const fs = require("fs");
const [file, name] = process.argv.slice(2);

const write = fs.writeSync;
function reply(made) { write(1, JSON.stringify(made) + "\n"); }
process.stdout.write = () => true;

let asked;
try {
  // A file of its own, whether it exports the function or not.
  const text = fs.readFileSync(file, "utf8");
  asked = new Function("require", "module", "exports", text + "\n;return typeof " + name + " === 'function' ? " + name
    + " : module.exports." + name + ";")(require, { exports: {} }, {});
  if (typeof asked !== "function") throw new Error("no function '" + name + "'");
  reply({ ready: true });
} catch (error) {
  reply({ error: String(error) });
  process.exit(0);
}
const chunk = Buffer.alloc(1 << 20);
let rest = "";
const handed = [];
for (;;) {
  const many = fs.readSync(0, chunk, 0, chunk.length, null);
  if (!many) break;
  rest += chunk.toString("utf8", 0, many);
  for (let end = rest.indexOf("\n"); end >= 0; end = rest.indexOf("\n")) {
    const line = rest.slice(0, end);
    rest = rest.slice(end + 1);
    try {
      if (line[0] === "+") {
        handed.push(JSON.parse(line.slice(1)));
        reply({ answer: handed.length - 1 });
        continue;
      }
      const given = handed[Number(line.slice(1))];
      handed[Number(line.slice(1))] = undefined;
      const answer = asked(given);
      reply({ answer: answer === undefined ? null : answer });
    } catch (error) {
      reply({ error: String(error) });
    }
  }
}
