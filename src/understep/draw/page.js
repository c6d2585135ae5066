"use strict";
// The page of a board. All text from the board is set as text, never as markup.
const S = JSON.parse(document.getElementById("scene").textContent);
const by = (id) => document.getElementById(id);
const map = by("map");
const state = { view: S.own, unit: null, cell: -1, moment: 0, box: null };
const layers = new Map(); // name: whether it is shown
const parts = []; // by cell: its group and polygons

function make(name, attributes = {}, text = null, html = false) {
  const made = html ? document.createElement(name) : document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  if (text !== null) made.textContent = text;
  return made;
}

const group = (name) => map.querySelector(`[data-group="${name}"]`);
const shown = (name) => layers.get(name) !== false;
const view = () => S.views[state.view];
const points = (flat, drop = 0) => {
  const found = [];
  for (let k = 0; k < flat.length; k += 2) found.push(`${flat[k]},${Math.round((flat[k + 1] + drop) * 10) / 10}`);
  return found.join(" ");
};

// ---- the ground

function drawGround() {
  const at = view();
  map.replaceChildren();
  const defs = make("defs");
  const hatch = make("pattern", { id: "strike", width: 7, height: 7, patternUnits: "userSpaceOnUse", patternTransform: "rotate(45)" });
  hatch.append(make("path", { d: "M0 0V7M0 0H7", stroke: S.colors.strike, "stroke-width": 1.1 }));
  const bars = make("pattern", { id: "barred", width: 6, height: 6, patternUnits: "userSpaceOnUse", patternTransform: "rotate(45)" });
  bars.append(make("path", { d: "M0 0V6", stroke: S.colors.ink, "stroke-width": 1.4 }));
  defs.append(hatch, bars);
  const ground = make("g", { "data-group": "ground" });
  map.append(defs, ground);
  for (const name of ["features", "edges", "links", "answers", "trace", "route", "units", "coordinates", "cursor"]) {
    map.append(make("g", { "data-group": name, class: "over" }));
  }
  for (const i of at.order) {
    const corners = at.corners[i], drop = at.drop ? at.drop[i] : 0;
    const whole = make("g");
    if (drop > 0) {
      const many = corners.length / 2;
      let d = "";
      for (let k = 0; k < many; k++) {
        const [ax, ay] = [corners[2 * k], corners[2 * k + 1]];
        const n = (k + 1) % many;
        const [bx, by_] = [corners[2 * n], corners[2 * n + 1]];
        d += `M${ax} ${ay}L${bx} ${by_}L${bx} ${by_ + drop}L${ax} ${ay + drop}Z`;
      }
      whole.append(make("path", { d, fill: S.colors.face, class: "side" }));
    }
    const terrain = S.terrains[S.codes[i]];
    const top = make("polygon", { points: points(corners), fill: terrain.tint, class: "top", "data-i": i });
    const strokes = make("path", { d: strokesOf(terrain, i), class: "strokes" });
    const washes = ["wash", "hatch", "veil"].map((name) => make("polygon", { points: points(corners), fill: "none", class: name, display: "none" }));
    whole.append(top, strokes, ...washes);
    parts[i] = { top, strokes, wash: washes[0], hatch: washes[1], veil: washes[2] };
    ground.append(whole);
  }
  drawContents();
  zoomTo(null);
}

function strokesOf(terrain, i) {
  const at = view(), [x, y] = at.middles[i], [wide, high] = at.size;
  return terrain.strokes.map((line) => line.map(([a, b], k) => `${k ? "L" : "M"}${(x + a * wide).toFixed(1)} ${(y + b * high).toFixed(1)}`).join("")).join("");
}

// ---- what lies and stands there

function drawContents() {
  const at = view();
  S.cells.forEach((_, i) => {
    const terrain = S.terrains[S.codes[i]];
    parts[i].top.setAttribute("fill", terrain.tint);
    parts[i].strokes.setAttribute("d", shown("patterns") ? strokesOf(terrain, i) : "");
  });
  const lying = group("features");
  lying.replaceChildren();
  for (const block of S.blocks) {
    for (const i of block.cells) lying.append(make("polygon", { points: points(at.corners[i]), fill: "url(#barred)" }));
  }
  if (shown("features")) {
    const count = {};
    for (const kind of S.features) {
      for (const i of kind.cells) {
        const place = count[i] || 0;
        count[i] = place + 1;
        const [x, y] = [at.middles[i][0] - 8 + 12 * place, at.middles[i][1] + at.size[1] * 0.27];
        lying.append(make("rect", { x: x - 5, y: y - 5, width: 10, height: 10, fill: kind.tint, stroke: S.colors.ink }));
        lying.append(make("text", { x, y, "font-size": 8, class: "token-text" }, kind.glyph));
      }
    }
  }
  const edges = group("edges");
  edges.replaceChildren();
  if (shown("edges")) {
    for (const [style, [ink, width]] of Object.entries(S.edge_styles)) {
      for (const [x1, y1, x2, y2] of S.edges[state.view][style] || []) {
        const dashes = style === "hindrance" || style === "open door" ? { "stroke-dasharray": "3 4" } : {};
        edges.append(make("line", { x1, y1, x2, y2, stroke: ink, "stroke-width": width * 0.4, ...dashes, class: "line" }));
      }
    }
  }
  const links = group("links");
  links.replaceChildren();
  for (const [a, b] of S.links) {
    links.append(make("path", { d: bow(at.middles[a], at.middles[b]), stroke: S.colors.ink, "stroke-width": 1.6, "stroke-dasharray": "2 3", class: "line" }));
  }
  const coordinates = group("coordinates");
  coordinates.replaceChildren();
  if (layers.get("coordinates")) {
    S.cells.forEach(([col, row], i) => coordinates.append(make("text", { x: at.middles[i][0], y: at.middles[i][1] + at.size[1] * 0.42, class: "coordinates" }, `${col},${row}`)));
  }
  drawUnits();
  drawAnswers();
  drawSheet();
}

function bow([ax, ay], [bx, by_]) {
  const [cx, cy] = [(ax + bx) / 2 + (ay - by_) * 0.25, (ay + by_) / 2 + (bx - ax) * 0.25];
  return `M${ax} ${ay}Q${cx} ${cy} ${bx} ${by_}`;
}

const SHAPES = {
  o: [], s: [[-1, -1], [1, -1], [1, 1], [-1, 1]], D: [[0, -1.25], [1.25, 0], [0, 1.25], [-1.25, 0]], "^": [[0, -1.2], [1.15, 0.9], [-1.15, 0.9]],
  v: [[0, 1.2], [1.15, -0.9], [-1.15, -0.9]], p: 5, h: 6, 8: 8,
};

function token(unit, x, y, size) {
  const found = make("g", { "data-unit": unit.name });
  let shape = SHAPES[unit.shape];
  if (typeof shape === "number") shape = Array.from({ length: shape }, (_, k) => [Math.sin((2 * Math.PI * k) / shape), -Math.cos((2 * Math.PI * k) / shape)]);
  const looks = { fill: unit.fill, stroke: S.colors.ink, "stroke-width": size * 0.12 };
  found.append(shape.length ? make("polygon", { points: shape.map(([a, b]) => `${x + a * size},${y + b * size}`).join(" "), ...looks }) : make("circle", { cx: x, cy: y, r: size, ...looks }));
  const dark = parseInt(unit.fill.slice(1, 3), 16) * 0.3 + parseInt(unit.fill.slice(3, 5), 16) * 0.59 + parseInt(unit.fill.slice(5, 7), 16) * 0.11 < 115;
  found.append(make("text", { x, y, "font-size": size, fill: dark ? "#fff" : S.colors.ink, class: "token-text" }, unit.short));
  return found;
}

function drawUnits() {
  const at = view(), units = group("units");
  units.replaceChildren();
  if (!shown("units")) return;
  for (const unit of S.units) {
    const middles = unit.cells.map((i) => at.middles[i]);
    const [x, y] = [0, 1].map((k) => middles.reduce((sum, each) => sum + each[k], 0) / middles.length);
    const size = Math.min(...at.size) * 0.3 * Math.sqrt(unit.cells.length);
    if (unit.name === state.unit) units.append(make("circle", { cx: x, cy: y, r: size * 1.5, fill: "none", stroke: S.colors.route, "stroke-width": 2.5 }));
    units.append(token(unit, x, y, size));
  }
}

// ---- answers

function drawAnswers() {
  const at = view(), found = group("answers");
  found.replaceChildren();
  S.layers.forEach((layer, place) => {
    if (!shown(`answer ${place}`)) return;
    if (layer.line.length) {
      const d = pathOf(layer.line);
      const ink = S.colors.routes[place % S.colors.routes.length];
      for (const [stroke, width] of [["#f6efdf", 7], [ink, 3.5]]) found.append(make("path", { d, stroke, "stroke-width": width, "stroke-dasharray": width < 5 ? "9 5" : "none", class: "line" }));
    }
    for (const [name, role] of Object.entries(layer.roles)) {
      role.cells.forEach((i, k) => {
        const [x, y] = at.middles[i], number = role.numbers[k];
        const ink = name === "reach" ? S.colors.turns[((number || 1) - 1) % S.colors.turns.length] : role.ink.slice(0, 7);
        if (WASHED.includes(name)) found.append(make("polygon", { points: points(at.corners[i]), fill: ink, "fill-opacity": 0.28 }));
        else if (name === "attack" || name === "threat") found.append(make("polygon", { points: points(at.corners[i]), fill: "url(#strike)", "fill-opacity": 0.7 }));
        else if (name !== "route" && name !== "start") {
          found.append(make("circle", { cx: x, cy: y, r: 8, fill: "#fdfaf2", stroke: ink, "stroke-width": 2.2 }));
          if (number !== null) found.append(make("text", { x, y, "font-size": 10, fill: ink, class: "token-text" }, number));
        }
      });
    }
  });
}

const WASHED = ["reach", "field", "seen before", "unknown", "area", "seen", "view"];
const sheetOf = (name) => (S.sheets && S.sheets[name]) || null;
const unitOf = (name) => S.units.find((each) => each.name === name) || null;

function drawSheet() {
  const sheet = sheetOf(state.unit), unit = unitOf(state.unit);
  const attack = new Set((sheet && shown("attack") && sheet.attack) || []);
  const seen = sheet && layers.get("view") ? new Set(sheet.view) : null;
  const threats = unit && layers.get("threats") ? S.threats[unit.side] : null;
  parts.forEach((part, i) => {
    let fill = "none", opacity = 0.34;
    if (threats && threats[i]) [fill, opacity] = [S.colors.strike, Math.min(0.22 + 0.14 * threats[i], 0.75)];
    else if (shown("reach") && turnAt(sheet, i)) {
      fill = S.colors.turns[(turnAt(sheet, i) - 1) % S.colors.turns.length];
      opacity = turnAt(sheet, i) === 1 ? 0.42 : 0.2;
    }
    put(part.wash, fill !== "none", { fill, "fill-opacity": opacity });
    // where it can get this turn the wash tells more; the panel tells both
    put(part.hatch, attack.has(i) && !(turnAt(sheet, i) === 1 && shown("reach")), { fill: "url(#strike)", "fill-opacity": 0.55 });
    put(part.veil, seen !== null && !seen.has(i), { fill: "#f6efdf", "fill-opacity": 0.66 });
  });
  drawHover();
}

function put(polygon, there, looks) {
  if (there) for (const [key, value] of Object.entries(looks)) polygon.setAttribute(key, value);
  if (there) polygon.removeAttribute("display");
  else polygon.setAttribute("display", "none");
}

// ---- the cell under the pointer

// of each cell of a reach: cost, turn, points left, the route
const turnAt = (sheet, i) => (sheet && sheet.reach && sheet.reach[i] ? sheet.reach[i][1] : 0);

// the cells of a route; a number: it goes on from the route to that cell
function routeTo(sheet, i) {
  const way = sheet.reach[i][3];
  return typeof way === "number" ? [...routeTo(sheet, way), i] : way;
}

// how many cells have the same reason, and which: one after the other
function reason(sheet, i) {
  const [col, row] = S.cells[i];
  let place = 0;
  for (let end = sheet.why[0]; end <= i; end += sheet.why[place]) place += 2;
  return sheet.reasons[sheet.why[place + 1]].replaceAll("@", `(${col}, ${row})`);
}

function lines(i) {
  const found = [[`(${S.cells[i].join(", ")})`, "head"]];
  for (const [name, every] of Object.entries(S.systems)) if (name !== "offset") found.push([`${name} (${every[i].join(", ")})`]);
  const terrain = S.terrains[S.codes[i]];
  found.push([`${terrain.name}: ${terrain.cost === null ? "impassable" : `cost ${terrain.cost}`}${S.levels && S.levels[i] ? `, level ${S.levels[i]}` : ""}`]);
  for (const kind of S.features) if (kind.cells.includes(i)) found.push([kind.words]);
  for (const block of S.blocks) if (block.cells.includes(i)) found.push([block.words]);
  for (const unit of S.units) if (unit.cells.includes(i)) found.push([`${unit.name} of the ${unit.side}, ${unit.left} of ${unit.points} points left`]);
  const sheet = sheetOf(state.unit);
  if (sheet && sheet.reach) {
    const many = (count, word) => `${count} ${word}${count === 1 ? "" : "s"}`;
    const [cost, turn, left] = sheet.reach[i] || [];
    if (turn) found.push([`${state.unit}: ${many(cost, "point")}, turn ${turn}, ${left} left`, "yes"]);
    else found.push([reason(sheet, i), "no"]);
  }
  if (sheet && sheet.attack && sheet.attack.includes(i)) found.push([`${state.unit} can attack there`]);
  const unit = unitOf(state.unit);
  if (unit && S.threats[unit.side] && S.threats[unit.side][i]) found.push([`${S.threats[unit.side][i]} of its foes can attack there`]);
  S.layers.forEach((layer, place) => {
    if (!shown(`answer ${place}`)) return;
    for (const role of Object.values(layer.roles)) {
      const k = role.cells.indexOf(i);
      if (k >= 0) found.push([[layer.unit, role.texts[k] || `${role.words} ${role.numbers[k] ?? ""}`].filter(Boolean).join(": ")]);
    }
  });
  for (const each of S.explained) if (each.cell === i && (!state.unit || each.unit === state.unit)) found.push([each.text, "no"]);
  return found;
}

function drawHover() {
  const at = view(), cursor = group("cursor"), route = group("route"), i = state.cell;
  cursor.replaceChildren();
  route.replaceChildren();
  const said = by("said");
  said.replaceChildren();
  if (i < 0) {
    said.textContent = "Point at a cell.";
    return;
  }
  cursor.append(make("polygon", { points: points(at.corners[i]), class: "cursor" }));
  for (const [text, kind] of lines(i)) said.append(make("div", kind ? { class: kind } : {}, text, true));
  const sheet = sheetOf(state.unit);
  if (!sheet || !sheet.reach) return;
  if (sheet.reach[i]) drawRoute(route, routeTo(sheet, i), (cell) => turnAt(sheet, cell), S.colors.route);
  else {
    const [x, y] = at.middles[i];
    route.append(make("path", { d: `M${x - 8} ${y - 8}L${x + 8} ${y + 8}M${x - 8} ${y + 8}L${x + 8} ${y - 8}`, stroke: S.colors.route, "stroke-width": 3.5, class: "line" }));
  }
}

// a path over cells, with a bow where it takes a link
function pathOf(cells) {
  const at = view();
  return cells.map((i, k) => (k && far(cells[k - 1], i) ? bow(at.middles[cells[k - 1]], at.middles[i]) : `${k ? "L" : "M"}${at.middles[i].join(" ")}`)).join("");
}

function drawRoute(into, cells, turnOf, ink) {
  const at = view(), d = pathOf(cells);
  into.append(make("path", { d, stroke: "#f6efdf", "stroke-width": 8, class: "line" }));
  into.append(make("path", { d, stroke: ink, "stroke-width": 4, class: "line", "data-cells": cells.join(" ") }));
  cells.forEach((i, k) => {
    const last = k + 1 === cells.length;
    if (k && (last || turnOf(cells[k + 1]) > turnOf(i))) {
      const [x, y] = at.middles[i];
      into.append(make("circle", { cx: x, cy: y, r: 8, fill: "#fdfaf2", stroke: ink, "stroke-width": 2.5 }));
      into.append(make("text", { x, y, "font-size": 10, fill: ink, class: "token-text" }, turnOf(i)));
    }
  });
}

function far(a, b) {
  const [[ax, ay], [bx, by_]] = [S.cells[a], S.cells[b]];
  return Math.max(Math.abs(ax - bx), Math.abs(ay - by_)) > 1;
}

function point(i) {
  if (i === state.cell) return;
  state.cell = i;
  drawHover();
}

let choose = function (name) {
  state.unit = name === state.unit ? null : name;
  for (const button of by("units").querySelectorAll("button")) button.setAttribute("aria-pressed", button.dataset.name === state.unit);
  drawUnits();
  drawSheet();
};

const unitAt = (i) => S.units.find((each) => each.cells.includes(i)) || null;

// ---- a search, step by step

function drawMoment() {
  const found = group("trace"), at = view();
  found.replaceChildren();
  if (!S.trace.length) return;
  by("stepping").hidden = false;
  const slider = by("moment");
  slider.max = S.trace.length - 1;
  slider.value = state.moment;
  const closed = new Set(), waiting = new Set();
  for (const [cell, , met] of S.trace.slice(0, state.moment + 1)) {
    closed.add(cell);
    waiting.delete(cell);
    for (const each of met) if (!closed.has(each)) waiting.add(each);
  }
  if (shown("search")) {
    for (const i of closed) found.append(make("polygon", { points: points(at.corners[i]), fill: "#3a3228", "fill-opacity": 0.3 }));
    for (const i of waiting) found.append(make("circle", { cx: at.middles[i][0], cy: at.middles[i][1], r: 5, fill: "#fdfaf2", stroke: S.colors.ink }));
    const [x, y] = at.middles[S.trace[state.moment][0]];
    found.append(make("circle", { cx: x, cy: y, r: 9, fill: S.colors.route, stroke: "#fdfaf2", "stroke-width": 2 }));
  }
  by("counts").textContent = `step ${state.moment + 1} of ${S.trace.length}\nexpanded ${closed.size}, waiting ${waiting.size}\ncost ${S.trace[state.moment][1]}`;
}

function step(by_) {
  state.moment = Math.min(Math.max(state.moment + by_, 0), S.trace.length - 1);
  drawMoment();
}

// ---- zoom and move

function zoomTo(box) {
  if (box === null) {
    const [[x0, y0], [x1, y1]] = view().box;
    box = [x0 - 12, y0 - 12, x1 - x0 + 24, y1 - y0 + 24];
  }
  state.box = box;
  map.setAttribute("viewBox", box.map((each) => each.toFixed(1)).join(" "));
}

function zoom(factor, x = null, y = null) {
  const [left, top, wide, high] = state.box;
  const [cx, cy] = x === null ? [left + wide / 2, top + high / 2] : [x, y];
  zoomTo([cx - (cx - left) * factor, cy - (cy - top) * factor, wide * factor, high * factor]);
}

function onBoard(event) {
  const spot = new DOMPoint(event.clientX, event.clientY).matrixTransform(map.getScreenCTM().inverse());
  return [spot.x, spot.y];
}

const cellOf = (event) => {
  const found = document.elementFromPoint(event.clientX, event.clientY)?.closest?.("[data-i]");
  return found ? Number(found.dataset.i) : -1;
};
const pointers = new Map();
let dragged = false, pressed = -1;
map.addEventListener("pointerdown", (event) => {
  pointers.set(event.pointerId, [event.clientX, event.clientY]);
  dragged = false;
  pressed = cellOf(event);
});
map.addEventListener("pointermove", (event) => {
  const before = pointers.get(event.pointerId);
  if (!before || hooks.holds()) {
    point(cellOf(event));
    if (before) hooks.drag(state.cell);
    return;
  }
  const [x, y] = [event.clientX, event.clientY];
  if (Math.hypot(x - before[0], y - before[1]) < 4 && !dragged) return;
  dragged = true;
  if (pointers.size === 2) {
    const other = [...pointers.entries()].find(([id]) => id !== event.pointerId)[1];
    zoom(Math.hypot(before[0] - other[0], before[1] - other[1]) / Math.max(Math.hypot(x - other[0], y - other[1]), 1));
  } else {
    const scale = map.getScreenCTM().a;
    zoomTo([state.box[0] - (x - before[0]) / scale, state.box[1] - (y - before[1]) / scale, state.box[2], state.box[3]]);
  }
  pointers.set(event.pointerId, [x, y]);
});
for (const name of ["pointerup", "pointercancel"]) {
  map.addEventListener(name, (event) => {
    pointers.delete(event.pointerId);
    if (name === "pointerup" && !dragged && cellOf(event) === pressed) press(pressed);
    hooks.drop(cellOf(event), pressed);
  });
}
map.addEventListener("wheel", (event) => {
  event.preventDefault();
  zoom(event.deltaY > 0 ? 1.15 : 1 / 1.15, ...onBoard(event));
}, { passive: false });

function press(i) {
  point(i);
  if (i < 0 || hooks.press(i)) return;
  const unit = unitAt(i);
  if (unit) choose(unit.name);
}

// ---- keys

function neighbor(i, dx, dy) {
  const at = view().middles, [x, y] = at[i];
  let best = i, least = Infinity;
  at.forEach(([a, b], k) => {
    const along = (a - x) * dx + (b - y) * dy, aside = Math.abs((a - x) * dy) + Math.abs((b - y) * dx);
    if (along > 1 && along >= aside * 0.99) {
      const far_ = along + 1.2 * aside;
      if (far_ < least) [best, least] = [k, far_];
    }
  });
  return best;
}

const MOVES = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || ["INPUT", "SELECT", "TEXTAREA"].includes(event.target.tagName)) return;
  const stepping = S.trace.length && shown("search");
  if (MOVES[event.key] && stepping && MOVES[event.key][0]) step(MOVES[event.key][0]);
  else if (MOVES[event.key]) point(state.cell < 0 ? 0 : neighbor(state.cell, ...MOVES[event.key]));
  else if (event.key === "Enter" && event.target.tagName !== "BUTTON") press(state.cell);
  else if (event.key === "Escape") choose(state.unit);
  else if (event.key === "+") zoom(1 / 1.25);
  else if (event.key === "-") zoom(1.25);
  else if (event.key === "0") zoomTo(null);
  else if (event.key === "i") show(state.view === "plan" ? "isometric" : "plan");
  else return;
  event.preventDefault();
});

// ---- the panel

function show(name) {
  state.view = name;
  for (const each of ["plan", "isometric"]) by(each).setAttribute("aria-pressed", each === name);
  drawGround();
  drawMoment();
}

function entry(list, ...nodes) {
  const made = make("li", {}, null, true);
  made.append(...nodes);
  list.append(made);
  return made;
}

function fillUnits() {
  const list = by("units");
  list.replaceChildren();
  for (const unit of S.units) {
    const icon = make("svg", { class: "token", viewBox: "-15 -15 30 30" });
    icon.append(token(unit, 0, 0, 10));
    const button = make("button", { "data-name": unit.name, "aria-pressed": unit.name === state.unit }, `${unit.name} (${unit.side})`, true);
    button.addEventListener("click", () => choose(unit.name));
    entry(list, icon, button);
  }
}

function fillLayers() {
  const every = [["units", 1], ["reach", 1], ["attack", 1], ["view", 0], ["threats", 0], ["features", 1], ["edges", 1], ["patterns", 1], ["coordinates", 0]];
  if (S.trace.length) every.push(["search", 1]);
  S.layers.forEach((layer, place) => Object.keys(layer.roles).length && every.push([`answer ${place}`, 1, [layer.unit, ...Object.values(layer.roles).map((role) => role.words)].filter(Boolean).slice(0, 3).join(", ")]));
  for (const [name, on, words] of every) {
    layers.set(name, Boolean(on));
    const box = make("input", { type: "checkbox", id: `layer ${name}` }, null, true);
    box.checked = Boolean(on);
    box.addEventListener("change", () => {
      layers.set(name, box.checked);
      drawContents();
      drawMoment();
    });
    entry(by("layers"), box, make("label", { for: `layer ${name}` }, words || name, true));
  }
}

function fillTerrains() {
  for (const terrain of S.terrains) {
    const swatch = make("span", { class: "swatch" }, null, true);
    swatch.style.background = terrain.tint;
    entry(by("terrains"), swatch, make("span", {}, `${terrain.name}, ${terrain.cost === null ? "impassable" : `cost ${terrain.cost}`}`, true));
  }
}

// what a live page does besides: whether it holds something that is dragged, and so on
const hooks = { holds: () => false, drag: () => {}, drop: () => {}, press: () => false };
by("plan").addEventListener("click", () => show("plan"));
by("isometric").addEventListener("click", () => show("isometric"));
by("nearer").addEventListener("click", () => zoom(1 / 1.25));
by("farther").addEventListener("click", () => zoom(1.25));
by("all").addEventListener("click", () => zoomTo(null));
by("print").addEventListener("click", () => window.print());
by("back").addEventListener("click", () => step(-1));
by("on").addEventListener("click", () => step(1));
by("moment").addEventListener("input", () => step(Number(by("moment").value) - state.moment));
fillUnits();
fillLayers();
fillTerrains();
show(state.view);
// what an answer shows of its unit by itself is not shown twice
const first = S.layers.find((layer) => unitOf(layer.unit));
if (first && !first.roles.reach && !first.roles.attack) choose(first.unit);
