"use strict";
// Draws the chart of a page of Logarithm from the data that stands in it. Without this script the page says the same
// in tables and still pictures. Texts are only ever set as text.
(() => {
  const svg = (kind, attributes, parent, text) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", kind);
    for (const [key, value] of Object.entries(attributes || {})) made.setAttribute(key, value);
    if (text !== undefined) made.textContent = text;
    if (parent) parent.append(made);
    return made;
  };
  const html = (kind, attributes, parent, text) => {
    const made = document.createElement(kind);
    for (const [key, value] of Object.entries(attributes || {})) made.setAttribute(key, value);
    if (text !== undefined) made.textContent = text;
    if (parent) parent.append(made);
    return made;
  };

  // ---- tables that can be sorted -------------------------------------------------------------------------------
  const value = (text) => {
    const found = text.replace(/\u00a0/g, "").match(/^1\/([\d.]+)|^-?[\d.]+(?:e-?\d+)?/);
    return found ? (found[1] ? 1 / Number(found[1]) : Number(found[0])) : null;
  };
  for (const table of document.querySelectorAll("table")) {
    const heads = [...table.querySelectorAll("thead th")], body = table.tBodies[0];
    if (!body || body.rows.length < 2) continue;
    heads.forEach((head, column) => {
      const text = head.textContent;
      if (!text.trim()) return;
      head.textContent = "";
      html("button", { type: "button" }, head, text).addEventListener("click", () => {
        const down = head.getAttribute("aria-sort") === "ascending";
        heads.forEach((each) => each.removeAttribute("aria-sort"));
        head.setAttribute("aria-sort", down ? "descending" : "ascending");
        const rows = [...body.rows], of = (r) => r.cells[column]?.textContent.trim() ?? "";
        const numeric = rows.every((r) => !of(r) || of(r) === "–" || value(of(r)) !== null);
        rows.sort((a, b) => {
          const [one, other] = [of(a), of(b)];
          const order = numeric ? (value(one) ?? Infinity) - (value(other) ?? Infinity) : one.localeCompare(other);
          return down ? -order : order;
        });
        body.append(...rows);
      });
    });
  }
  // ---- the chart -----------------------------------------------------------------------------------------------
  const source = document.getElementById("chart-data");
  const home = document.getElementById("chart");
  const chart = source ? JSON.parse(source.textContent) : null;
  if (!chart || !home || !chart.panels.length) return;
  let WIDE = 1100, HIGH = 430, LEFT = 92;
  const RIGHT = 24, TOP = 18, BOTTOM = 62;
  const DASHES = ["", "9 4", "3 3", "11 4 3 4", "7 3 2 3 2 3"];
  const UNITS = [[1, "s"], [1e-3, "ms"], [1e-6, "µs"], [1e-9, "ns"]];
  const BYTES = [[2 ** 30, "GiB"], [2 ** 20, "MiB"], [2 ** 10, "KiB"], [1, "B"]];

  const state = {
    panel: 0, view: "cost", against: chart.reference, logX: chart.logarithmic, logY: true, hidden: new Set(), zoom: null,
    n: null, held: null,
  };

  // ---- small helpers -------------------------------------------------------------------------------------------
  const digits = (value, many = 3) => {
    if (!isFinite(value) || value === 0) return String(value);
    const rounded = Number(value.toPrecision(many));
    const places = Math.max(0, many - 1 - Math.floor(Math.log10(Math.abs(rounded))));
    const text = rounded.toFixed(Math.min(places, 12));
    return Math.abs(rounded) >= 1e4 ? spaced(text) : text;
  };
  const spaced = (text) => text.replace(/\B(?=(\d{3})+(?!\d))/g, "\u00a0");
  const whole = (n) => Number.isInteger(n) ? (n >= 1e4 ? spaced(String(n)) : String(n)) : digits(n, 4);
  const amount = (value, many = 3) => {
    const metric = panel().metric, view = state.view;
    if (view === "ratio") return digits(value, 2) + " ×";
    if (view === "work" || !["time", "cpu", "memory"].includes(metric)) return digits(value, many);
    const choices = metric === "memory" ? BYTES : UNITS;
    const [size, name] = choices.find(([each]) => Math.abs(value) >= each * 0.9995) || choices[choices.length - 1];
    return digits(value / size, many) + " " + name;
  };
  const panel = () => chart.panels[state.panel];
  const colour = (line) => `var(--curve-${line.colour % 12})`;
  const between = (points, n) => {
    // Straight between neighbours on logarithmic scales; null outside of what is known.
    if (!points.length || n < points[0][0] || n > points[points.length - 1][0]) return null;
    const at = points.findIndex((point) => point[0] >= n);
    const [b, a] = [points[at], points[Math.max(at - 1, 0)]];
    if (b[0] === a[0] || a[1] <= 0 || b[1] <= 0) return b[1];
    const log = chart.logarithmic && a[0] > 0;
    const share = log ? Math.log(n / a[0]) / Math.log(b[0] / a[0]) : (n - a[0]) / (b[0] - a[0]);
    return a[1] * Math.pow(b[1] / a[1], share);
  };
  const costAt = (line, n) => {
    const curve = between(line.curve, n);
    return curve !== null ? curve : between(line.points, n);
  };

  // ---- what is drawn of a line in each view --------------------------------------------------------------------
  const seen = (line) => {
    if (state.view === "cost") return { points: line.points, curve: line.curve };
    if (state.view === "work") return { points: line.work.map(([n, w]) => [n, w, w, w, 1]), curve: line.work };
    if (state.view === "price") {
      const priced = line.points.map(([n, ...rest]) => [n, between(line.work, n), ...rest]).filter((p) => p[1]);
      return { points: priced.map(([n, w, t, low, high, heats]) => [n, t / w, low / w, high / w, heats]), curve: [] };
    }
    const base = panel().lines.find((each) => each.name === state.against);
    if (!base) return { points: [], curve: [] };
    const points = line.points
      .map(([n, t, low, high, heats]) => [n, base.points.find((each) => each[0] === n), t, low, high, heats])
      .filter(([, each]) => each)
      .map(([n, each, t, low, high, heats]) => [n, each[1] / t, each[1] / high, each[1] / low, heats]);
    const curve = line.curve.map(([n, t]) => [n, costAt(base, n), t]).filter((p) => p[1]).map(([n, b, t]) => [n, b / t]);
    return { points, curve };
  };
  const shownLines = () => panel().lines.filter((line) => !state.hidden.has(line.name));

  // ---- controls ------------------------------------------------------------------------------------------------
  html("h2", { class: "visually-hidden" }, home, "Chart");
  const bar = html("div", { class: "bar" }, home);
  const tabs = html("div", { class: "tabs", role: "tablist", "aria-label": "Families" }, bar);
  const legend = html("div", { class: "row legend", role: "group", "aria-label": "Contenders: press to hide or show" }, bar);
  const plot = html("div", { class: "plot", id: "plot", role: "tabpanel" }, home);
  chart.panels.forEach((each, at) => {
    const tab = html("button", { type: "button", role: "tab", id: `tab-${at}`, "aria-controls": "plot" }, tabs, each.name);
    tab.addEventListener("click", () => { state.panel = at; state.zoom = null; state.held = null; state.n = null; draw(); });
    tab.addEventListener("keydown", (event) => {
      const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
      if (!step) return;
      const other = tabs.children[(at + step + chart.panels.length) % chart.panels.length];
      other.focus(); other.click();
    });
  });
  tabs.hidden = chart.panels.length < 2;
  const more = html("details", { class: "more" }, home);
  html("summary", {}, more, "Other views, axes, zoom, tables");
  const row = html("div", { class: "row" }, more);
  html("label", { for: "view", class: "label" }, row, "Show");
  const view = html("select", { id: "view" }, row);
  view.addEventListener("change", () => { state.view = view.value; state.zoom = null; state.held = null; draw(); });
  const against = html("select", { "aria-label": "as fast as whom" }, row);
  against.addEventListener("change", () => { state.against = against.value; draw(); });
  const axisButton = (text, key) => {
    const made = html("button", { type: "button" }, row, text);
    made.addEventListener("click", () => { state[key] = !state[key]; draw(); });
    return made;
  };
  const logX = axisButton(`logarithmic ${chart.axis}`, "logX"), logY = axisButton("logarithmic cost", "logY");
  const zooms = html("div", { class: "row" }, more);
  const links = html("div", { class: "row links" }, more);
  more.open = home.clientWidth >= 640;
  const picture = svg("svg", { tabindex: "0", role: "img" }, plot);
  // On a phone fewer and larger letters.
  const fit = () => {
    [WIDE, HIGH, LEFT] = home.clientWidth < 640 ? [600, 430, 88] : [1100, 430, 92];
    picture.setAttribute("viewBox", `0 0 ${WIDE} ${HIGH}`);
  };
  const tip = html("div", { class: "tip", hidden: "" }, plot);
  const live = html("div", { class: "visually-hidden", "aria-live": "polite" }, home);
  const sliding = html("div", { class: "row" }, home);
  html("label", { for: "at", class: "label" }, sliding, `Who leads at ${chart.axis}`);
  const slider = html("input", { type: "range", id: "at", min: "0", max: "1000", step: "1" }, sliding);
  const told = html("output", { for: "at" }, home);
  sliding.hidden = told.hidden = !chart.leads;

  // ---- scales --------------------------------------------------------------------------------------------------
  let scale = null;
  const ends = (values, log) => {
    const good = values.filter((value) => isFinite(value) && (!log || value > 0));
    if (!good.length) return [1, 10];
    let [low, high] = [Math.min(...good), Math.max(...good)];
    if (low === high) [low, high] = log ? [low / 2, high * 2] : [low - 1, high + 1];
    return log ? [low / Math.pow(high / low, 0.03), high * Math.pow(high / low, 0.04)] : [Math.min(low, 0), high * 1.04];
  };
  const scaled = (low, high, from, to, log) => (value) =>
    log ? from + (Math.log(value / low) / Math.log(high / low)) * (to - from) : from + ((value - low) / (high - low)) * (to - from);
  const ticks = (low, high, log, many = 8) => {
    const made = [];
    if (log && high / low > 8) {
      const steps = high / low > (many > 5 ? 1e5 : 1e3) ? [1] : high / low > (many > 5 ? 300 : 40) ? [1, 3] : [1, 2, 5];
      for (let power = Math.floor(Math.log10(low)); power <= Math.ceil(Math.log10(high)); power++)
        for (const step of steps) made.push(step * Math.pow(10, power));
    } else {
      const rough = (high - low) / 6, power = Math.pow(10, Math.floor(Math.log10(rough)));
      const step = power * [1, 2, 5, 10].find((each) => each * power >= rough);
      for (let value = Math.ceil(low / step) * step; value <= high * (1 + 1e-9); value += step) made.push(value);
    }
    return made.filter((value) => value >= low * (log ? 0.999 : 1) && value <= high && (!log || value > 0));
  };

  // ---- drawing -------------------------------------------------------------------------------------------------
  const mark = (kind, x, y, paint, parent, small) => {
    const r = small ? 4 : 5, base = { fill: paint, stroke: "var(--paper)", "stroke-width": 1 };
    const shapes = [
      () => svg("circle", { cx: x, cy: y, r, ...base }, parent),
      () => svg("rect", { x: x - r, y: y - r, width: 2 * r, height: 2 * r, ...base }, parent),
      () => svg("path", { d: `M${x} ${y - r - 1}l${r + 1} ${2 * r}h${-2 * r - 2}z`, ...base }, parent),
      () => svg("path", { d: `M${x} ${y - r - 2}l${r + 1} ${r + 2}l${-r - 1} ${r + 2}l${-r - 1} ${-r - 2}z`, ...base }, parent),
      () => svg("path", { d: `M${x} ${y + r + 1}l${r + 1} ${-2 * r}h${-2 * r - 2}z`, ...base }, parent),
    ];
    return shapes[kind % shapes.length]();
  };
  const draw = () => {
    const lines = shownLines(), all = panel().lines.map((line) => ({ line, ...seen(line) }));
    const drawn = all.filter(({ line }) => !state.hidden.has(line.name));
    controls(all);
    const sizes = all.flatMap(({ points }) => points.map((point) => point[0]));
    const whole_x = ends(sizes, state.logX);
    const [x0, x1] = state.zoom || whole_x;
    const inside = drawn.flatMap(({ points, curve }) =>
      [...points.flatMap((p) => p[0] >= x0 && p[0] <= x1 ? [p[1], p[2], p[3]] : []), ...curve.flatMap((p) => p[0] >= x0 && p[0] <= x1 ? [p[1]] : [])]);
    const [y0, y1] = ends(inside, state.logY);
    const x = scaled(x0, x1, LEFT, WIDE - RIGHT, state.logX), y = scaled(y0, y1, HIGH - BOTTOM, TOP, state.logY);
    scale = { x, y, x0, x1, drawn };
    picture.replaceChildren();
    svg("title", {}, picture, `${heading()} on ${panel().name}. Arrow keys walk along the points; the tables say the same.`);
    const clip = svg("clipPath", { id: "inside" }, svg("defs", {}, picture));
    svg("rect", { x: LEFT, y: TOP - 6, width: WIDE - LEFT - RIGHT, height: HIGH - TOP - BOTTOM + 6 }, clip);
    for (const n of ticks(x0, x1, state.logX, WIDE < 700 ? 4 : 8)) {
      svg("line", { class: "grid", x1: x(n), x2: x(n), y1: TOP, y2: HIGH - BOTTOM }, picture);
      svg("text", { x: x(n), y: HIGH - BOTTOM + 22, "text-anchor": "middle" }, picture, whole(n));
    }
    for (const value of ticks(y0, y1, state.logY)) {
      svg("line", { class: "grid", x1: LEFT, x2: WIDE - RIGHT, y1: y(value), y2: y(value) }, picture);
      svg("text", { x: LEFT - 8, y: y(value) + 5, "text-anchor": "end" }, picture, amount(value, 2).replace(/\.0+(?=\D|$)/, ""));
    }
    svg("text", { class: "soft", x: (LEFT + WIDE - RIGHT) / 2, y: HIGH - 12, "text-anchor": "middle" }, picture, chart.axis);
    svg("text", { class: "soft", transform: `translate(16 ${(TOP + HIGH - BOTTOM) / 2}) rotate(-90)`, "text-anchor": "middle" }, picture, heading());
    const body = svg("g", { "clip-path": "url(#inside)" }, picture);
    if (state.view === "cost" || state.view === "ratio") crossings(body, x, new Set(lines.map((line) => line.name)));
    for (const { line, points, curve } of drawn) {
      const paint = colour(line);
      const path = (curve.length ? curve : points).filter((p) => p[1] > 0 || !state.logY);
      svg("path", {
        d: path.map((p, at) => `${at ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join(""), fill: "none",
        stroke: paint, "stroke-width": 2.2, "stroke-dasharray": DASHES[line.colour % DASHES.length],
      }, body);
      for (const [n, typical, low, high] of points) {
        if (low > 0 || !state.logY) svg("line", { x1: x(n), x2: x(n), y1: y(low), y2: y(high), stroke: paint, "stroke-width": 1.5, opacity: 0.6 }, body);
        mark(line.colour, x(n), y(typical), paint, body, points.length > 25);
      }
    }
    if (chart.leads && state.n !== null && state.n >= x0 && state.n <= x1)
      svg("line", { x1: x(state.n), x2: x(state.n), y1: TOP, y2: HIGH - BOTTOM, stroke: "var(--link)", "stroke-width": 1.5, "stroke-dasharray": "2 3" }, body);
    point();
    standing();
    tables();
  };
  const heading = () => ({ cost: panel().metric === "time" ? "time for one call" : panel().metric,
    work: "work of one call, counted", price: "time for a unit of work", ratio: `times as fast as ${state.against}` })[state.view];
  const crossings = (parent, x, shown) => {
    for (const each of panel().crossings) {
      if (!shown.has(each.before) || !shown.has(each.after)) continue;
      const high = each.high === null ? scale.x1 : each.high;
      svg("rect", { x: x(each.low), y: TOP, width: Math.max(x(high) - x(each.low), 2), height: HIGH - TOP - BOTTOM, fill: "var(--soft)", opacity: 0.14 }, parent);
      svg("line", { x1: x(each.size), x2: x(each.size), y1: TOP, y2: HIGH - BOTTOM, stroke: "var(--soft)", "stroke-dasharray": each.forecast ? "3 3" : "" }, parent);
    }
  };
  const controls = (all) => {
    [...tabs.children].forEach((tab, at) => {
      tab.setAttribute("aria-selected", String(at === state.panel));
      tab.tabIndex = at === state.panel ? 0 : -1;
    });
    plot.setAttribute("aria-labelledby", `tab-${state.panel}`);
    const hasWork = panel().lines.some((line) => line.work.length);
    const views = [["cost", panel().metric === "time" ? "time" : panel().metric], ...(hasWork ? [["work", "work"], ["price", "price of a unit of work"]] : []),
      ...(panel().lines.length > 1 ? [["ratio", "times as fast as"]] : [])];
    if (!views.some(([key]) => key === state.view)) state.view = "cost";
    view.replaceChildren(...views.map(([key, text]) => html("option", { value: key }, null, text)));
    view.value = state.view;
    if (!panel().lines.some((line) => line.name === state.against)) state.against = panel().lines[0].name;
    against.replaceChildren(...panel().lines.map((line) => html("option", { value: line.name }, null, line.name)));
    against.value = state.against;
    against.hidden = state.view !== "ratio";
    logX.setAttribute("aria-pressed", String(state.logX));
    logY.setAttribute("aria-pressed", String(state.logY));
    logX.hidden = !chart.logarithmic;
    legend.replaceChildren();
    for (const { line } of all) {
      const button = html("button", { type: "button", "aria-pressed": String(!state.hidden.has(line.name)) }, legend);
      const key = svg("svg", { viewBox: "0 0 44 16", "aria-hidden": "true" }, button);
      svg("line", { x1: 0, x2: 44, y1: 8, y2: 8, stroke: colour(line), "stroke-width": 2.2, "stroke-dasharray": DASHES[line.colour % DASHES.length] }, key);
      mark(line.colour, 22, 8, colour(line), key);
      html("span", { dir: "auto" }, button, line.order ? `${line.name} · ${line.order}` : line.name);
      button.addEventListener("click", () => {
        state.hidden.has(line.name) ? state.hidden.delete(line.name) : state.hidden.add(line.name);
        state.held = null;
        draw();
        [...legend.children].find((each) => each.textContent.startsWith(line.name))?.focus();
      });
    }
    zooms.replaceChildren();
    const near = panel().crossings.filter((each) => !each.forecast && chart.logarithmic);
    if (near.length || state.zoom) html("span", { class: "label" }, zooms, "Zoom");
    for (const each of near.slice(0, 8)) {
      const size = each.size >= 10 ? whole(Math.round(each.size)) : digits(each.size, 2);
      const button = html("button", { type: "button" }, zooms, `${each.after} over ${each.before} at ${size}`);
      button.addEventListener("click", () => { state.zoom = [each.size / 3, each.size * 3]; state.n = each.size; draw(); });
    }
    if (state.zoom) {
      const button = html("button", { type: "button" }, zooms, "everything");
      button.addEventListener("click", () => { state.zoom = null; draw(); });
    }
  };

  // ---- pointing, by mouse and keyboard -------------------------------------------------------------------------
  const say = ({ line, p }) => {
    const [n, typical, low, high, heats] = p;
    const spread = low < high ? `\nhalf of the trials: ${amount(low)} to ${amount(high)}` : "";
    return `${line.name}\n${chart.axis} = ${whole(n)}: ${amount(typical)}${spread}${heats > 1 ? `\n${heats} heats` : ""}`;
  };
  const point = () => {
    tip.hidden = !state.held;
    if (!state.held) return;
    const { line, p } = state.held;
    const [px, py] = [scale.x(p[0]), scale.y(p[1])];
    svg("circle", { cx: px, cy: py, r: 9, fill: "none", stroke: colour(line), "stroke-width": 2.5 }, picture);
    tip.textContent = say(state.held);
    const zoom = picture.clientWidth / WIDE, right = px > WIDE * 0.65;
    tip.style.left = right ? "" : `${px * zoom + 14}px`;
    tip.style.right = right ? `${(WIDE - px) * zoom + 14}px` : "";
    tip.style.top = `${Math.max(py * zoom - 30, 0)}px`;
  };
  const where = (event) => {
    const box = picture.getBoundingClientRect();
    return [(event.clientX - box.left) * (WIDE / box.width), (event.clientY - box.top) * (WIDE / box.width)];
  };
  picture.addEventListener("pointermove", (event) => {
    const [mx, my] = where(event);
    let best = null, near = 60 ** 2;
    for (const { line, points } of scale.drawn)
      for (const p of points) {
        const far = (scale.x(p[0]) - mx) ** 2 + (scale.y(p[1]) - my) ** 2;
        if (far < near && p[0] >= scale.x0 && p[0] <= scale.x1) [best, near] = [{ line, p }, far];
      }
    if (best?.p !== state.held?.p) { state.held = best; draw(); }
  });
  picture.addEventListener("pointerleave", () => { state.held = null; draw(); });
  picture.addEventListener("keydown", (event) => {
    const lines = scale.drawn.filter(({ points }) => points.length);
    if (!lines.length || !event.key.startsWith("Arrow")) return;
    event.preventDefault();
    let at = lines.findIndex(({ line }) => line === state.held?.line), place = 0;
    if (at < 0) at = 0;
    else place = lines[at].points.indexOf(lines[at].points.find((p) => p[0] === state.held.p[0]));
    if (state.held && event.key === "ArrowRight") place++;
    if (state.held && event.key === "ArrowLeft") place--;
    if (state.held && event.key === "ArrowDown") at++;
    if (state.held && event.key === "ArrowUp") at--;
    const chosen = lines[(at + lines.length) % lines.length];
    if (event.key === "ArrowUp" || event.key === "ArrowDown")
      place = chosen.points.reduce((best, p, i) => Math.abs(p[0] - (state.held?.p[0] ?? 0)) < Math.abs(chosen.points[best][0] - (state.held?.p[0] ?? 0)) ? i : best, 0);
    state.held = { line: chosen.line, p: chosen.points[Math.min(Math.max(place, 0), chosen.points.length - 1)] };
    draw();
    live.textContent = say(state.held);
  });

  // ---- who leads at n ------------------------------------------------------------------------------------------
  const span = () => {
    const sizes = panel().lines.flatMap((line) => line.points.map((p) => p[0]));
    return [Math.min(...sizes), Math.max(...sizes)];
  };
  slider.addEventListener("input", () => {
    const [low, high] = span(), share = Number(slider.value) / 1000;
    const n = chart.logarithmic ? low * Math.pow(high / low, share) : low + (high - low) * share;
    state.n = panel().lines.some((line) => line.points.some((p) => !Number.isInteger(p[0]))) ? n : Math.round(n);
    draw();
  });
  const standing = () => {
    if (!chart.leads) return;
    const [low, high] = span();
    if (state.n === null) state.n = chart.logarithmic && low > 0 ? Math.round(Math.sqrt(low * high)) : (low + high) / 2;
    const share = chart.logarithmic ? Math.log(state.n / low) / Math.log(high / low) : (state.n - low) / (high - low);
    slider.value = String(Math.round(share * 1000));
    const costs = shownLines().map((line) => [line, costAt(line, state.n)]).filter(([, cost]) => cost !== null).sort((a, b) => a[1] - b[1]);
    told.replaceChildren();
    if (!costs.length) { told.textContent = `nobody was measured at ${chart.axis} = ${whole(state.n)}`; return; }
    const before = state.view; state.view = "cost";
    const [first, ...others] = costs;
    told.append(`${chart.axis} = ${whole(Number(state.n.toPrecision(4)))}: `);
    html("b", {}, told, first[0].name);
    told.append(` ${others.length ? "leads with" : "takes"} ${amount(first[1])}`);
    if (others.length) told.append("; " + others.map(([line, cost]) => `${line.name} ${digits(cost / first[1], 2)} ×`).join(", "));
    const unsure = panel().crossings.filter((each) => state.n >= each.low && state.n <= (each.high ?? Infinity) && [each.before, each.after].includes(first[0].name));
    if (unsure.length) told.append(" (within the interval of a crossover: either may lead)");
    state.view = before;
    slider.setAttribute("aria-valuetext", told.textContent);
  };

  // ---- from the chart to its tables, and back -------------------------------------------------------------------
  const own = [...document.querySelectorAll("main section table")].filter((table) => table.caption);
  own.forEach((table, at) => {
    const family = chart.panels.findIndex((each) => each.name === table.caption.textContent);
    if (family < 0) return;
    table.id = `table-${at}`;
    table.dataset.panel = String(family);
    const back = html("a", { href: "#chart", class: "back" }, table.caption, "chart");
    back.addEventListener("click", () => { state.panel = family; state.zoom = null; state.held = null; state.n = null; draw(); });
  });
  const tables = () => {
    links.replaceChildren();
    for (const table of own.filter((each) => each.dataset.panel === String(state.panel))) {
      if (!links.children.length) html("span", { class: "label" }, links, "Tables");
      const title = table.closest("section").querySelector("h2")?.textContent ?? "table";
      if (![...links.children].some((each) => each.textContent === title)) html("a", { href: `#${table.id}` }, links, title);
    }
  };
  picture.addEventListener("click", () => {
    const table = own.find((each) => each.dataset.panel === String(state.panel) && each.closest("section").id === "costs");
    if (!state.held || !table) return;
    const line = [...table.tBodies[0].rows].find((each) => each.cells[0].textContent.trim() === state.held.line.name);
    document.querySelectorAll("tr.held").forEach((each) => each.classList.remove("held"));
    if (!line) return;
    line.classList.add("held");
    line.scrollIntoView({ block: "center" });
  });

  document.documentElement.classList.add("drawn");
  window.addEventListener("resize", () => { fit(); draw(); });
  fit();
  draw();
})();
