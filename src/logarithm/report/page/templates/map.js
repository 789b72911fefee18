// Draws the maps of two sizes: pointing at a place tells what each contender costs there, a click opens the slice.
(() => {
  const source = document.getElementById("chart-data"), home = document.getElementById("map");
  const data = source ? JSON.parse(source.textContent) : null;
  if (!data || !home || !data.maps.length) return;
  const WIDE = 1100, HIGH = 520, LEFT = 92, RIGHT = 24, TOP = 18, BOTTOM = 62;
  const UNITS = [[1, "s"], [1e-3, "ms"], [1e-6, "µs"], [1e-9, "ns"]];
  const svg = (kind, attributes, parent, text) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", kind);
    for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
    if (text !== undefined) made.textContent = text;
    parent.append(made);
    return made;
  };
  const html = (kind, attributes, parent, text) => {
    const made = document.createElement(kind);
    for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
    if (text !== undefined) made.textContent = text;
    parent.append(made);
    return made;
  };
  const digits = (value, many = 3) => {
    const places = Math.max(0, many - 1 - Math.floor(Math.log10(Math.abs(value) || 1)));
    const text = Number(value.toPrecision(many)).toFixed(places);
    return Math.abs(value) >= 1e4 ? text.replace(/\B(?=(\d{3})+(?!\d))/g, "\u00a0") : text;
  };
  const size = (value) => (value >= 10 ? digits(Math.round(value), 6) : digits(value, 2)).replace(/\.0+$/, "");
  const cost = (value, metric) => {
    if (metric !== "time") return digits(value);
    const [unit, name] = UNITS.find(([each]) => value >= each * 0.9995) || UNITS[UNITS.length - 1];
    return `${digits(value / unit)} ${name}`;
  };

  const state = { map: 0, i: 0, j: 0 };
  html("h2", {}, home, "Map");
  const tabs = html("div", { class: "tabs", role: "tablist", "aria-label": "Families" }, home);
  tabs.hidden = data.maps.length < 2;
  const plot = html("div", { class: "plot", id: "map-plot" }, home);
  const told = html("output", { "aria-live": "polite" }, home);
  const sliders = [0, 1].map((which) => {
    const row = html("div", { class: "row" }, home);
    const label = html("label", { class: "label", for: `map-size-${which}` }, row);
    const slider = html("input", { type: "range", id: `map-size-${which}`, min: 0, step: 1 }, row);
    slider.addEventListener("input", () => {
      state[which ? "j" : "i"] = Number(slider.value);
      tell();
    });
    return { label, slider };
  });
  const open = html("button", { type: "button" }, html("div", { class: "row" }, home), "");
  open.addEventListener("click", () => slice());
  data.maps.forEach((each, at) => {
    const tab = html("button", { type: "button", role: "tab" }, tabs, each.name);
    tab.addEventListener("click", () => {
      state.map = at;
      draw();
    });
  });

  let found, x, y, cross;
  const scale = (values, low, high, isLog) => {
    const of = (value) => (isLog ? Math.log(value) : value);
    const [a, b] = [of(values[0]), of(values[values.length - 1])];
    return (value) => low + ((of(value) - a) / (b - a || 1)) * (high - low);
  };
  const rises = (values) => values[0] > 0 && values[1] / values[0] > 1.02 &&
    Math.abs(values[1] / values[0] - values[2] / values[1]) < 0.05 * (values[1] / values[0]);
  const edges = (values, at, of) => {
    const here = of(values[at]), before = of(values[Math.max(at - 1, 0)]), after = of(values[Math.min(at + 1, values.length - 1)]);
    return [(here + before) / 2, (here + after) / 2];
  };

  function draw() {
    found = data.maps[state.map];
    [...tabs.children].forEach((tab, at) => tab.setAttribute("aria-selected", String(at === state.map)));
    x = scale(found.first, LEFT, WIDE - RIGHT, rises(found.first));
    y = scale(found.second, HIGH - BOTTOM, TOP, rises(found.second));
    plot.replaceChildren();
    const label = `Map of ${found.name}: who leads by ${found.names[0]} and ${found.names[1]}`;
    const picture = svg("svg", { viewBox: `0 0 ${WIDE} ${HIGH}`, role: "img", "aria-label": label }, plot);
    found.first.forEach((n, i) => found.second.forEach((k, j) => {
      const who = found.leader[i][j];
      if (who < 0) return;
      const [left, right] = edges(found.first, i, x), [bottom, top] = edges(found.second, j, y);
      const isKnown = (found.sure[i][j] ?? 0) > 1;
      svg("rect", {
        x: left, y: Math.min(top, bottom), width: right - left, height: Math.abs(bottom - top), "shape-rendering": "crispEdges",
        fill: `var(--curve-${found.colours[who] % 12})`, opacity: isKnown ? 0.6 : 0.22,
      }, picture);
    }));
    for (const edge of found.boundaries) {
      const across = found.names.find((name) => name !== edge.along), isSecond = edge.along === found.names[1];
      const points = edge.curve.map((row) => (isSecond ? [x(row[across]), y(row[edge.along])] : [x(row[edge.along]), y(row[across])]));
      svg("polyline", { points: points.map((p) => p.join(",")).join(" "), fill: "none", stroke: "var(--ink)", "stroke-width": 2.5 }, picture);
    }
    for (const at of [0, 7, 15, 22, 30]) {
      const [n, k] = [found.first[at], found.second[at]];
      if (n !== undefined) svg("text", { x: x(n), y: HIGH - BOTTOM + 24, "text-anchor": ["start", "middle", "end"][at === 30 ? 2 : at ? 1 : 0] }, picture, size(n));
      if (k !== undefined) svg("text", { x: LEFT - 8, y: y(k) + 5, "text-anchor": "end" }, picture, size(k));
    }
    svg("text", { class: "soft", x: (LEFT + WIDE - RIGHT) / 2, y: HIGH - 12, "text-anchor": "middle" }, picture, found.names[0]);
    svg("text", { class: "soft", x: 12, y: TOP + 6 }, picture, found.names[1]);
    found.contenders.forEach((name, who) => {
      const own = [];
      found.leader.forEach((row, i) => row.forEach((each, j) => each === who && own.push([i, j])));
      if (own.length < 6) return;
      const middle = [0, 1].map((which) => own.reduce((sum, place) => sum + place[which], 0) / own.length);
      const apart = ([i, j]) => (i - middle[0]) ** 2 + (j - middle[1]) ** 2;
      const [i, j] = own.reduce((best, place) => (apart(place) < apart(best) ? place : best));
      svg("text", { x: x(found.first[i]), y: y(found.second[j]) + 5, "text-anchor": "middle", class: "named" }, picture, name);
    });
    cross = svg("circle", { r: 7, fill: "none", stroke: "var(--ink)", "stroke-width": 2 }, picture);
    const place = (event) => {
      const box = picture.getBoundingClientRect();
      const [px, py] = [((event.clientX - box.left) / box.width) * WIDE, ((event.clientY - box.top) / box.height) * HIGH];
      const nearest = (values, of, at) => values.reduce((best, value, i) => (Math.abs(of(value) - at) < Math.abs(of(values[best]) - at) ? i : best), 0);
      [state.i, state.j] = [nearest(found.first, x, px), nearest(found.second, y, py)];
      tell();
    };
    picture.addEventListener("pointermove", place);
    picture.addEventListener("click", (event) => {
      place(event);
      slice();
    });
    sliders.forEach(({ slider }, which) => slider.setAttribute("max", (which ? found.second : found.first).length - 1));
    [state.i, state.j] = [found.first.length >> 1, found.second.length >> 1];
    tell();
  }

  function tell() {
    const { i, j } = state, [n, k] = [found.first[i], found.second[j]];
    sliders.forEach(({ label, slider }, which) => {
      slider.value = which ? j : i;
      label.textContent = `${found.names[which]} = ${size(which ? k : n)}`;
    });
    cross.setAttribute("cx", x(n));
    cross.setAttribute("cy", y(k));
    const costs = found.contenders.map((name, who) => [name, found.costs[who][i][j]]).filter(([, each]) => each !== null);
    costs.sort((one, other) => one[1] - other[1]);
    const parts = costs.map(([name, each], at) => `${name} ${cost(each, found.metric)}${at ? ` (${digits(each / costs[0][1])} ×)` : ""}`);
    const sure = !costs.length || costs.length < 2 || (found.sure[i][j] ?? 0) > 1 ? "" : found.tied[i][j] ? " · a tie" : " · not known who leads";
    told.textContent = `${found.names[0]} = ${size(n)}, ${found.names[1]} = ${size(k)}: ${parts.join(", ") || "not measured"}${sure}`;
    const near = nearestSlice(k);
    open.hidden = near === null;
    if (near !== null) open.textContent = `open the slice ${found.names[1]} = ${size(near)}`;
  }

  function nearestSlice(k) {
    return found.seconds.reduce((best, each) => (best === null || Math.abs(y(each) - y(k)) < Math.abs(y(best) - y(k)) ? each : best), null);
  }

  function slice() {
    const near = nearestSlice(found.second[state.j]);
    const tab = document.getElementById(`tab-${found.panels[found.seconds.indexOf(near)]}`);
    if (!tab) return;
    tab.click();
    tab.scrollIntoView({ block: "center" });
  }
  draw();
})();
