"use strict";
// A live page: what is done is sent to the server, and what comes back is drawn.
const token_ = document.body.dataset.live;
const tools = by("tools");
const tool = { name: "look", cells: [], grabbed: null };

async function ask(where, body = null) {
  const sent = { headers: { "X-Token": token_ } };
  if (body) Object.assign(sent, { method: "POST", body: JSON.stringify(body), headers: { ...sent.headers, "Content-Type": "application/json" } });
  const answer = await fetch(where, sent);
  const found = await answer.json().catch(() => ({ why: answer.statusText }));
  by("message").textContent = answer.ok ? "" : found.why;
  return answer.ok ? found : null;
}

function take(found) {
  if (!found) return;
  Object.assign(S, found.contents);
  if (found.views) S.views = found.views;
  S.bends = found.bends;
  S.sheets = found.sheets;
  Object.assign(S.threats, found.threats);
  S.explained = [];
  fillUnits();
  if (found.views) {
    const box = state.box;
    drawGround();
    zoomTo(box);
  } else drawContents();
  fillUnit();
}

const act = async (what) => take(await ask("/act", { unit: state.unit, seen: S.bends, ...what }));

// a unit is looked at: its sheet comes from the server, a refusal is explained in full
const chosen = choose;
choose = async function (name) {
  chosen(name);
  if (state.unit) take(await ask(`/look?unit=${encodeURIComponent(state.unit)}&seen=${S.bends}`));
  fillUnit();
};

async function explain(i) {
  const sheet = sheetOf(state.unit);
  if (!sheet || !sheet.reach || turnAt(sheet, i) === 1) return;
  const found = await ask(`/explain?unit=${encodeURIComponent(state.unit)}&cell=${i}`);
  if (!found) return;
  S.explained = [{ unit: state.unit, cell: i, text: found.text }];
  drawHover();
}

// ---- tools

const TOOLS = [
  ["look", "Choose units, drag them, press a cell to have a refusal explained"], ["paint", "Paint terrain"], ["raise", "Raise the ground"],
  ["lower", "Lower the ground"], ["block", "Block cells"], ["feature", "Put a feature"], ["clear", "Take blocks and features away"],
  ["edge", "Drag from a cell to the next to put an edge between them"], ["gap", "Drag from a cell to the next to take their edge away"],
];

function build() {
  tools.hidden = false;
  tools.append(make("h2", {}, "Tools", true));
  const bar = make("div", { class: "bar" }, null, true);
  for (const [name, words] of TOOLS) {
    if ((name === "feature" && !S.feature_kinds.length) || (["edge", "gap"].includes(name) && !S.edge_kinds.length)) continue;
    const button = make("button", { "data-tool": name, title: words, "aria-pressed": name === tool.name }, name, true);
    button.addEventListener("click", () => pick(name));
    bar.append(button);
  }
  tools.append(bar);
  const kinds = make("p", { class: "bar" }, null, true);
  for (const [id, every] of [["terrain", S.terrains.map((each) => each.name)], ["kind", S.feature_kinds], ["wall", S.edge_kinds]]) {
    const list = make("select", { id, "aria-label": id }, null, true);
    for (const name of every) list.append(make("option", { value: name }, name, true));
    list.hidden = true;
    kinds.append(list);
  }
  const more = make("div", { class: "bar" }, null, true);
  for (const name of ["undo", "redo"]) {
    const button = make("button", { id: name }, name, true);
    button.addEventListener("click", () => act({ do: name }));
    more.append(button);
  }
  const save = make("button", { id: "save" }, "save as\u2026", true);
  save.addEventListener("click", saveAs);
  more.append(save);
  tools.append(kinds, more, make("div", { id: "unit", class: "bar" }, null, true), make("div", { id: "message", class: "message", role: "alert" }, null, true));
}

function pick(name) {
  tool.name = name;
  for (const each of tools.querySelectorAll("[data-tool]")) each.setAttribute("aria-pressed", each.dataset.tool === name);
  by("terrain").hidden = name !== "paint";
  by("kind").hidden = name !== "feature";
  by("wall").hidden = name !== "edge";
}

async function saveAs() {
  const answer = await fetch("/board.json", { headers: { "X-Token": token_ } });
  const link = make("a", { download: "board.json", href: URL.createObjectURL(await answer.blob()) }, null, true);
  link.click();
  URL.revokeObjectURL(link.href);
}

function fillUnit() {
  const line = by("unit"), unit = unitOf(state.unit);
  line.replaceChildren();
  if (!unit) return;
  for (const [what, value] of [["left", unit.left], ["points", unit.points]]) {
    const box = make("input", { type: "number", min: 0, step: "any", id: what, style: "width: 4.5rem" }, null, true);
    box.value = value;
    box.addEventListener("change", () => act({ do: what, points: Number(box.value) }));
    line.append(make("label", { for: what }, what, true), box);
  }
  const list = make("select", { id: "moves", "aria-label": "moves like" }, null, true);
  list.append(make("option", { value: "" }, "moves like\u2026", true));
  for (const each of S.units) if (each.name !== unit.name) list.append(make("option", { value: each.name }, each.name, true));
  list.addEventListener("change", () => list.value && act({ do: "movement", of: list.value }));
  line.append(list);
}

// ---- on the board

const brushes = { paint: 1, raise: 1, lower: 1, block: 1, feature: 1, clear: 1 };
hooks.holds = () => tool.name !== "look" || tool.grabbed !== null;
hooks.drag = (i) => {
  if (i >= 0 && brushes[tool.name] && !tool.cells.includes(i)) tool.cells.push(i);
};
map.addEventListener("pointerdown", (event) => {
  const i = cellOf(event);
  tool.cells = i >= 0 && brushes[tool.name] ? [i] : [];
  const unit = i >= 0 && tool.name === "look" ? unitAt(i) : null;
  tool.grabbed = unit ? unit.name : null;
});
hooks.press = (i) => {
  if (tool.name !== "look") return true;
  if (!unitAt(i)) explain(i);
  return false;
};
hooks.drop = async (i, from) => {
  const { cells, grabbed } = tool;
  tool.cells = [];
  tool.grabbed = null;
  if (grabbed !== null) {
    if (i < 0 || i === from) return;
    if (grabbed !== state.unit) await choose(grabbed); // the answer tells of the unit that is moved
    act({ do: "put", unit: grabbed, cells: [i] });
    return;
  }
  if (tool.name === "paint" && cells.length) act({ do: "paint", terrain: by("terrain").value, cells });
  else if ((tool.name === "raise" || tool.name === "lower") && cells.length) {
    const level = (S.levels ? S.levels[cells[0]] : 0) + (tool.name === "raise" ? 1 : -1);
    act({ do: "level", level, cells });
  } else if ((tool.name === "block" || tool.name === "clear") && cells.length) act({ do: tool.name, cells });
  else if (tool.name === "feature" && cells.length) act({ do: "place", feature: by("kind").value, cells });
  else if ((tool.name === "edge" || tool.name === "gap") && from >= 0 && i >= 0 && i !== from) {
    act({ do: "edge", edge: tool.name === "edge" ? by("wall").value : null, cells: [from, i] });
  }
};
document.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key === "z") act({ do: event.shiftKey ? "redo" : "undo" });
});
build();
