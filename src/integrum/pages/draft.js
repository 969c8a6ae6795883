"use strict";
(() => {
  const content = JSON.parse(document.getElementById("content").textContent);
  const $ = (id) => document.getElementById(id);
  const each = (some, what) => document.querySelectorAll(some).forEach(what);
  // signs in the place of letters that cannot be seen, or turn the direction of writing
  const visible = (text) => text.replace(/[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb]/g,
    (one) => (one < " " ? String.fromCharCode(0x2400 + one.charCodeAt(0)) : "\\u" + one.charCodeAt(0).toString(16).padStart(4, "0")));
  const said = (element, name) => JSON.parse(element.dataset[name]);

  // ---- decisions: of two about the same the later one holds; each can be undone
  const made = new Map();
  const past = [];
  const listeners = [];
  const subject = (one) => JSON.stringify([one.about, ...content.subjects[one.about].map((name) => one[name] ?? null)]);
  const same = (one, other) => Boolean(one && other) && JSON.stringify(one) === JSON.stringify(other);
  const has = (one) => same(made.get(subject(one)), one);
  const store = "integrum " + content.id;

  function keep() {
    try {
      if (made.size) localStorage.setItem(store, JSON.stringify([...made.values()]));
      else localStorage.removeItem(store);
    } catch { /* a browser that keeps nothing: the document can be downloaded */ }
  }
  function set(key, value) {
    made.delete(key);
    if (value) made.set(key, value);
  }
  // change some decisions at once: pairs of a subject and a decision, null to take it back
  function change(pairs, words) {
    past.push(pairs.map(([key]) => [key, made.get(key) ?? null]));
    for (const [key, value] of pairs) set(key, value);
    refresh(words);
  }
  const decide = (some, words) => change(some.map((one) => [subject(one), one]), words);
  const take = (some, words) => change(some.map((one) => [subject(one), null]), words);
  function undo() {
    const before = past.pop();
    if (!before) return;
    for (const [key, value] of before) set(key, value);
    refresh("undone");
  }

  const quoted = (text) => "“" + text + "”";
  const ORDERS = content.date_orders;
  const WORDS = {
    "name": (one) => `${quoted(one.header)} is ${one.same ? "" : "not "}the same column as ${quoted(one.column)}`,
    "value": (one) => one.same ? `${quoted(one.value)} is another spelling of ${quoted(one.other)} in ${quoted(one.column)}`
      : `${quoted(one.value)} and ${quoted(one.other)} are two values in ${quoted(one.column)}`,
    "type": (one) => `${quoted(one.column)} has the type ${one.type}`,
    "date-order": (one) => `dates in ${quoted(one.column)} are ${ORDERS[one.order]}`
      + (one.sources ? ` in ${one.sources.length === 1 ? one.sources[0] : one.sources.length + " sources"}` : ""),
    "missing": (one) => `${quoted(one.code)} ${one.missing ? "means “no value”" : "is a value"} in ${quoted(one.column)}`,
    "unit": (one) => `the unit of ${quoted(one.column)} is ${one.unit}`,
    "column": (one) => `column ${quoted(one.column)} is ${one.keep ? "kept" : "left out"}`,
    "source": (one) => `source ${one.source} is ${one.keep ? "kept" : "left out"}`,
    "line": (one) => `row ${one.row} of ${one.source} is ${Object.fromEntries(content.parts)[one.part]}`,
    "layout": (one) => `the layout of ${one.source} is right`,
    "identifiers": (one) => one.use ? `the names of files become columns: ${one.use}` : `the names of files do not become columns: ${one.scheme}`,
  };
  const words = (one) => visible(WORDS[one.about](one));

  function documentOf() {
    const all = new Map(content.kept.map((one) => [subject(one), one]));
    for (const [key, one] of made) { all.delete(key); all.set(key, one); }
    const lines = [...all.values()].map((one) => "    " + JSON.stringify(one)).join(",\n");
    return `{\n  "integrum_decisions": ${content.version},\n  "plan": ${JSON.stringify(content.plan)},\n  "decisions": [\n${lines}\n  ]\n}\n`;
  }

  // ---- the bar, and the list of what is decided
  function refresh(last) {
    keep();
    $("count").textContent = made.size;
    for (const name of ["copy", "download"]) $(name).disabled = !made.size;
    $("undo").disabled = !past.length;
    $("none-yet").hidden = made.size > 0;
    const list = $("decided");
    list.replaceChildren(...[...made.entries()].map(([key, one]) => {
      const item = document.createElement("li");
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = "take back";
      button.setAttribute("aria-label", "take back: " + words(one));
      button.addEventListener("click", () => { change([[key, null]], "taken back: " + words(one)); $("decisions").focus(); });
      item.append(words(one) + " ", button);
      return item;
    }));
    listeners.forEach((listener) => listener());
    if (last !== undefined) $("last").textContent = last;
  }

  // ---- questions
  const questions = [];
  each("[data-question]", (section) => {
    const buttons = [...section.querySelectorAll("[data-choice]")].map((button) => {
      const some = said(button, "choice");
      button.addEventListener("click", () => {
        if (some.every(has)) take(some, "taken back");
        else decide(some, some.map(words).join("; "));
      });
      return [button, some];
    });
    questions.push(() => {
      let answered = false;
      for (const [button, some] of buttons) {
        const pressed = some.every(has);
        button.setAttribute("aria-pressed", pressed);
        // a decision about the same that was made elsewhere on the page is an answer, too
        answered ||= pressed || some.every((one) => made.has(subject(one)));
      }
      section.classList.toggle("answered", answered);
      return answered;
    });
  });
  const open = $("left");
  const more = Number(open.textContent) - questions.length;
  listeners.push(() => { open.textContent = more + questions.filter((answered) => !answered()).length; });

  // a button that makes a decision, and takes it back when it is pressed again
  function toggle(button, one) {
    button.addEventListener("click", () => (has(one) ? take([one], "taken back: " + words(one)) : decide([one], words(one))));
    listeners.push(() => button.setAttribute("aria-pressed", has(one)));
  }
  // a field that makes a decision when it is changed, and takes it back when it is as it was
  function field(element, was, decision) {
    const now = () => element.value.trim();
    element.addEventListener("change", () => {
      const one = decision(now() || was);
      if (!now() || now() === was) { if (made.has(subject(one))) take([one], "taken back"); else element.value = was; }
      else decide([one], words(one));
    });
    listeners.push(() => {
      const key = subject(decision(was || "x"));
      const one = made.get(key);
      const value = one ? one[element.dataset.takes] : was;
      fill(element);
      if (document.activeElement !== element || !one) element.value = value;
      element.classList.toggle("changed-by-you", Boolean(one));
    });
  }
  // the choices of a select come when they are wanted: a large page has thousands of them
  const choices = new WeakMap();
  function choose(select, some, was) {
    choices.set(select, some);
    const now = () => fill(select, true);
    select.addEventListener("focus", now);
    select.addEventListener("pointerdown", now);
    select.dataset.was = was;
  }
  function fill(select, all) {
    const some = choices.get(select);
    if (!some || (select.options.length > 1 && !all)) return;
    if (select.options.length >= some.length) return;
    const value = select.value;
    select.replaceChildren(...some.map(([name, label]) => new Option(label, name)));
    select.value = value;
  }

  // ---- columns
  const names = new Set();
  const columns = new Map();
  each("[data-column]", (card) => {
    const column = said(card, "column");
    columns.set(column, card);
    names.add(column);
    const leave = card.querySelector("[data-keep-column]");
    const out = { about: "column", column, keep: false };
    toggle(leave, out);
    listeners.push(() => card.classList.toggle("out", has(out)));
    const type = card.querySelector("[data-type]");
    type.dataset.takes = "type";
    choose(type, content.types.map((name) => [name, name]), type.dataset.type);
    field(type, type.dataset.type, (value) => ({ about: "type", column, type: value }));
    const unit = card.querySelector("[data-unit]");
    unit.dataset.takes = "unit";
    field(unit, said(unit, "unit"), (value) => ({ about: "unit", column, unit: value }));
    const order = card.querySelector("[data-order]");
    if (order) {
      order.dataset.takes = "order";
      choose(order, [["", "as drafted"], ...Object.entries(ORDERS)], "");
      field(order, "", (value) => ({ about: "date-order", column, order: value }));
    }
    card.querySelectorAll("[data-apart]").forEach((button) => {
      names.add(said(button, "apart"));
      toggle(button, { about: "name", column, header: said(button, "apart"), same: false });
    });
    card.querySelectorAll("[data-value]").forEach((button) => toggle(button, { about: "missing", column, code: said(button, "value"), missing: false }));
    card.querySelectorAll("[data-missing]").forEach((button) => toggle(button, { about: "missing", column, code: said(button, "missing"), missing: true }));
    const add = (name, input, decision) => {
      const box = card.querySelector(input);
      const done = () => {
        const text = box.value;
        if (!text.trim()) { box.focus(); return; }
        box.value = "";
        decide([decision(text)], words(decision(text)));
      };
      card.querySelector(`[data-add="${name}"]`).addEventListener("click", done);
      box.addEventListener("keydown", (event) => { if (event.key === "Enter") { event.preventDefault(); done(); } });
    };
    add("also", "[data-also]", (header) => ({ about: "name", column, header, same: true }));
    add("missing", "[data-code]", (code) => ({ about: "missing", column, code, missing: true }));
  });
  for (const name of content.grid.columns) names.add(name);
  $("all-names").append(...[...names].map((name) => new Option("", name)));

  // ---- lines
  const sources = new Map();
  each("[data-source]", (details) => {
    const source = said(details, "source");
    sources.set(source, details);
    const out = { about: "source", source, keep: false };
    toggle(details.querySelector("[data-keep-source]"), out);
    listeners.push(() => details.classList.toggle("out", has(out)));
    const ready = () => {
      if (details.dataset.ready) return;
      details.dataset.ready = "yes";
      details.querySelectorAll("[data-line]").forEach((select) => {
        select.dataset.takes = "part";
        const was = select.options[0].textContent;
        choose(select, [["", was], ...content.parts], "");
        field(select, "", (value) => ({ about: "line", source, row: Number(select.dataset.line), part: value }));
      });
      listeners.forEach((listener) => listener());
    };
    if (details.open) ready();
    details.addEventListener("toggle", () => details.open && ready());
  });
  function showLines(source) {
    const details = sources.get(source);
    if (!details) return;
    details.open = true;
    const summary = details.querySelector("summary");
    summary.scrollIntoView({ block: "start" });
    summary.focus();
  }
  each("[data-show]", (link) => link.addEventListener("click", (event) => { event.preventDefault(); showLines(said(link, "show")); }));

  // ---- names of files
  each("[data-scheme]", (section) => {
    const scheme = said(section, "scheme");
    const inputs = [...section.querySelectorAll("[data-part]")];
    const button = section.querySelector("[data-use]");
    const one = () => {
      let use = scheme;
      inputs.forEach((input, at) => { use = use.replace("{" + said(input, "part"), "{\u0000" + at); });
      inputs.forEach((input, at) => { use = use.replace("\u0000" + at, () => input.value.trim() || said(input, "part")); });
      return { about: "identifiers", scheme, use };
    };
    button.addEventListener("click", () => (has(one()) ? take([one()], "taken back") : decide([one()], words(one()))));
    inputs.forEach((input) => input.addEventListener("input", () => button.setAttribute("aria-pressed", has(one()))));
    listeners.push(() => button.setAttribute("aria-pressed", has(one())));
  });

  // ---- the grid: only the cells that can be seen are drawn
  const grid = content.grid;
  const SIGNS = { h: "■", r: "◆", m: "?", u: "+", o: "–", " ": "" };
  // the height of a row, and so many rows are printed
  const HEIGHT = 21, MOST_PRINTED = 400;
  let printing = false;
  const box = $("cells");
  let across = "variants", rows = [], view = { x: 0, y: 0 };
  const room = document.createElement("div");
  room.className = "room";
  const table = document.createElement("table");
  table.createTHead().insertRow();
  const body = table.createTBody();
  box.append(room, table);
  const wide = () => (across === "variants" ? 44 : 22);
  const nameWide = () => Math.min(260, Math.max(110, box.clientWidth * 0.3));
  const count = () => (across === "variants" ? grid.variants.length : grid.sources.length);
  const variantAt = (x) => (across === "variants" ? x : grid.of[x] - 1);
  const letter = (row, x) => { const at = variantAt(x); return at < 0 ? " " : grid.cells[row][at]; };
  const sourcesOf = new Map();
  grid.of.forEach((variant, at) => { if (!sourcesOf.has(variant)) sourcesOf.set(variant, []); sourcesOf.get(variant).push(at); });
  // what is odd, by source and by variant, and there by row of the grid; -1 is for the source as a whole
  const marks = { sources: new Map(), variants: new Map() };
  for (const [source, row, text] of grid.marks) {
    for (const [some, at] of [[marks.sources, source], [marks.variants, grid.of[source] - 1]]) {
      const key = at + "," + row;
      if (!some.has(key)) some.set(key, []);
      some.get(key).push(text);
    }
  }
  const NOTHING = [];
  const oddAt = (x, row) => (grid.marks.length && marks[across].get(x + "," + row)) || NOTHING;

  function rowsChosen() {
    const wanted = $("find").value.trim().toLowerCase();
    const differing = $("differing").checked;
    rows = grid.columns.map((_, at) => at).filter((at) =>
      (!wanted || grid.columns[at].toLowerCase().includes(wanted))
      && (!differing || new Set(grid.cells[at]).size > 1 || grid.cells[at].includes("r") || grid.cells[at].includes("u")));
    view.y = Math.min(view.y, Math.max(rows.length - 1, 0));
    view.x = Math.min(view.x, Math.max(count() - 1, 0));
    draw();
  }
  function draw() {
    const left = nameWide(), step = wide();
    // CSS is set from here, so that the page needs no style in its elements
    room.style.width = left + count() * step + "px";
    room.style.height = (rows.length + 1) * HEIGHT + "px";
    const whole = printing && rows.length <= MOST_PRINTED;
    box.style.height = (whole ? (rows.length + 1) * HEIGHT : Math.min((rows.length + 1) * HEIGHT + 18, innerHeight * 0.62)) + "px";
    // after a search the grid may be shorter than where it was scrolled to
    const x0 = Math.max(Math.min(Math.floor(box.scrollLeft / step) - 2, count() - 1), 0);
    const y0 = whole ? 0 : Math.max(Math.min(Math.floor(box.scrollTop / HEIGHT) - 2, rows.length - 1), 0);
    const x1 = Math.min(x0 + Math.ceil((box.clientWidth - left) / step) + 5, count());
    const y1 = whole ? rows.length : Math.min(y0 + Math.ceil(box.clientHeight / HEIGHT) + 4, rows.length);
    table.style.left = x0 * step + "px";
    table.style.top = y0 * HEIGHT + "px";
    table.style.width = left + (x1 - x0) * step + "px";
    // the cells stay, and say something else: that is much faster than new ones
    fit(y1 - y0 + 1, x1 - x0 + 1);
    const top = table.rows[0].cells;
    put(top[0], across === "variants" ? "variant" : "source", "name", "");
    if (top[0].style.width !== left + "px") top[0].style.width = left + "px";
    for (let x = x0; x < x1; x++) {
      const cell = top[x - x0 + 1];
      put(cell, across === "variants" ? grid.variants[x][0] : (x + 1) % 5 && x ? "" : x + 1, oddAt(x, -1).length ? "odd" : "", "");
      if (cell.style.width !== step + "px") cell.style.width = step + "px";
    }
    for (let y = y0; y < y1; y++) {
      const row = rows[y];
      const cells = table.rows[y - y0 + 1].cells;
      put(cells[0], visible(grid.columns[row]), "name", "");
      for (let x = x0; x < x1; x++) {
        const what = letter(row, x);
        const look = (what === " " ? "" : what) + (oddAt(x, row).length ? " odd" : "") + (x === view.x && y === view.y ? " here" : "");
        put(cells[x - x0 + 1], SIGNS[what], look, x + "," + y);
      }
    }
  }
  function put(cell, text, look, at) {
    if (cell.firstChild.data !== String(text)) cell.firstChild.data = text;
    if (cell.className !== look) cell.className = look;
    cell.dataset.at = at;
  }
  function fit(tall, wide) {
    while (table.rows.length > tall) body.deleteRow(-1);
    while (table.rows.length < tall) body.insertRow();
    for (const [y, row] of [...table.rows].entries()) {
      while (row.cells.length > wide) row.lastChild.remove();
      while (row.cells.length < wide) {
        const cell = document.createElement(y && row.cells.length ? "td" : "th");
        cell.append("");
        row.append(cell);
      }
    }
  }
  function tell() {
    const saying = $("cell-said"), buttons = $("cell-choices");
    buttons.replaceChildren();
    if (!rows.length || !count()) { saying.textContent = rows.length ? "" : "no column fits"; return; }
    const row = rows[view.y], x = view.x, what = letter(row, x);
    const column = grid.columns[row];
    const written = grid.written[row + "," + variantAt(x)];
    const some = across === "sources" ? [x] : sourcesOf.get(grid.variants[x][0]) || [];
    const where = across === "sources"
      ? `${grid.sources[x]} (${grid.of[x] ? "variant " + grid.of[x] : "no header"})`
      : `variant ${grid.variants[x][0]} (${some.length} source${some.length === 1 ? "" : "s, such as"} ${grid.sources[some[0]]})`;
    const odd = [...oddAt(x, row), ...oddAt(x, -1)];
    saying.textContent = visible(`${quoted(column)}: ${where} ${grid.words[what]}${written ? `, ${quoted(written)}` : ""}.`)
      + (odd.length ? " Odd: " + [...new Set(odd)].slice(0, 3).join("; ") + (odd.length > 3 ? "; and more" : "") + "." : "");
    const button = (text, done) => {
      const made = document.createElement("button");
      made.type = "button";
      made.textContent = visible(text);
      made.addEventListener("click", done);
      buttons.append(made);
      return made;
    };
    if (columns.has(column)) button("to the column", () => { const card = columns.get(column); card.scrollIntoView({ block: "center" }); card.querySelector("button").focus({ preventScroll: true }); });
    const shown = some.find((at) => sources.has(grid.sources[at]));
    if (shown !== undefined) button(`lines of ${grid.sources[shown]}`, () => showLines(grid.sources[shown]));
    if (some.length) {
      const source = grid.sources[some[0]];
      const out = { about: "source", source, keep: false };
      const leave = button(`leave out ${source}`, () => (has(out) ? take([out], "taken back") : decide([out], words(out))));
      leave.setAttribute("aria-pressed", has(out));
    }
  }
  function go(x, y) {
    view = { x: Math.max(0, Math.min(x, count() - 1)), y: Math.max(0, Math.min(y, rows.length - 1)) };
    const left = view.x * wide(), top = view.y * HEIGHT;
    const room = box.clientWidth - nameWide() - wide(), tall = box.clientHeight - 2 * HEIGHT;
    if (left < box.scrollLeft) box.scrollLeft = left;
    if (left > box.scrollLeft + room) box.scrollLeft = left - room;
    if (top < box.scrollTop) box.scrollTop = top;
    if (top > box.scrollTop + tall) box.scrollTop = top - tall;
    draw();
    tell();
  }
  const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1], PageUp: [0, -15], PageDown: [0, 15] };
  box.addEventListener("keydown", (event) => {
    const step = STEPS[event.key];
    if (step) go(view.x + step[0], view.y + step[1]);
    else if (event.key === "Home") go(0, event.ctrlKey ? 0 : view.y);
    else if (event.key === "End") go(count() - 1, event.ctrlKey ? rows.length - 1 : view.y);
    else return;
    event.preventDefault();
  });
  box.addEventListener("click", (event) => {
    const at = event.target.dataset.at;
    if (at) go(...at.split(",").map(Number));
  });
  let waiting = false;
  box.addEventListener("scroll", () => {
    if (waiting) return;
    waiting = true;
    requestAnimationFrame(() => { waiting = false; draw(); });
  });
  addEventListener("resize", draw);
  addEventListener("beforeprint", () => { printing = true; box.scrollTop = 0; draw(); });
  addEventListener("afterprint", () => { printing = false; draw(); });
  $("across").addEventListener("change", () => { across = $("across").value; view.x = 0; box.scrollLeft = 0; rowsChosen(); tell(); });
  $("find").addEventListener("input", () => { rowsChosen(); tell(); });
  $("differing").addEventListener("change", () => { rowsChosen(); tell(); });
  $("legend").textContent = Object.entries(grid.words).filter(([sign]) => SIGNS[sign] && grid.cells.some((row) => row.includes(sign)))
    .map(([sign, text]) => SIGNS[sign] + " " + text).join("; ") + (grid.marks.length ? "; framed: something is odd" : "");
  listeners.push(() => { if (document.activeElement && $("cell-choices").contains(document.activeElement)) tell(); });
  rowsChosen();

  // ---- the bar
  $("undo").addEventListener("click", undo);
  addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "z" && !["INPUT", "TEXTAREA"].includes(event.target.tagName)) { event.preventDefault(); undo(); }
  });
  $("copy").addEventListener("click", async () => {
    const text = documentOf();
    try {
      await navigator.clipboard.writeText(text);
    } catch {
      const area = $("document");
      area.value = text;
      area.select();
      document.execCommand("copy");
    }
    $("last").textContent = "copied";
  });
  $("download").addEventListener("click", () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([documentOf()], { type: "application/json" }));
    link.download = content.file;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10000);
    $("last").textContent = "downloaded: " + content.file;
  });
  // what was decided on this page before, and not downloaded
  try {
    const before = JSON.parse(localStorage.getItem(store) || "[]").filter((one) => content.subjects[one.about]);
    if (before.length) {
      past.push(before.map((one) => [subject(one), null]));
      for (const one of before) set(subject(one), one);
    }
    refresh(before.length ? `${before.length} decision${before.length === 1 ? "" : "s"} from an earlier look at this page` : "");
  } catch {
    refresh("");
  }
  tell();
  document.documentElement.dataset.ready = "yes";
})();
