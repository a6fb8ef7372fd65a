"use strict";
// The page holds no state of its own but the view: what is shown, and what the controls say, comes from the server's events.

const byId = (id) => document.getElementById(id);
const make = (tag, attributes = {}, ...children) => {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(attributes)) {
    if (value === null || value === undefined || value === false) continue;
    if (name === "text") element.textContent = value;
    else element.setAttribute(name, value === true ? "" : value);
  }
  element.append(...children.filter((child) => child !== null));
  return element;
};
const SVG = "http://www.w3.org/2000/svg";
const drawing = (tag, attributes, ...children) => {
  const element = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, value);
  element.append(...children);
  return element;
};

const screens = new Map();
let head = { controls: [], order: [], errors: [], handoffs: [], contrast: {} };
let unit = 0.2;

// ---- Asking

async function post(action, sent = {}) {
  const answer = await fetch(action, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(sent) });
  const found = await answer.json().catch(() => ({ message: "the server does not answer" }));
  if (!answer.ok) showErrors([...head.errors, found]);
  else if (action !== "set") showErrors(head.errors);
  return answer.ok;
}

const waiting = new Map();
let isSending = false;
// While one value is on its way, only the last of those that follow counts.
async function set(key, value) {
  waiting.set(key, value);
  if (isSending) return;
  isSending = true;
  while (waiting.size) {
    const [[next, wanted]] = waiting;
    waiting.delete(next);
    await post("set", { key: next, value: wanted });
  }
  isSending = false;
}

// ---- Screens

function shotOf(screen, shot) {
  const label = `${screen.system}, ${screen.name}, ${shot.look}: ${shot.title}. Show its own pixels`;
  const device = make("button", { type: "button", class: "device", "aria-label": label, "data-look": shot.look, "data-picture": shot.picture });
  if (shot.before) device.append(make("img", { class: "before", alt: "", src: `picture/${shot.before}.png` }));
  device.append(make("img", { class: "after", alt: "", src: `picture/${shot.picture}.png` }), make("span", { class: "seam" }));
  const view = { viewBox: `0 0 ${screen.width} ${screen.height}`, preserveAspectRatio: "none", "aria-hidden": "true" };
  if (shot.marks.length) {
    device.append(drawing("svg", { ...view, class: "over" }, ...shot.marks.map(({ box: [x, y, width, height] }) => drawing("rect", { x, y, width, height }))));
  }
  const [x, y, width, height] = screen.safe;
  const guides = [drawing("rect", { class: "area", x, y, width, height })];
  if (shot.mask) guides.push(drawing("circle", { class: "ofmask", cx: shot.mask[0], cy: shot.mask[1], r: shot.mask[2] }));
  if (shot.mask && shot.ring) guides.push(drawing("circle", { class: "ring ofmask", cx: shot.mask[0], cy: shot.mask[1], r: shot.ring }));
  device.append(drawing("svg", { ...view, class: screen.always ? "guides always" : "guides" }, ...guides));
  device.addEventListener("click", () => showTruePixels(screen, shot));
  return device;
}

function figureOf(screen) {
  const figure = make("figure", { class: "screen", id: `s-${screen.id}`, "data-words": screen.words });
  const pair = make("div", { class: "pair" }, ...screen.shots.map((shot) => shotOf(screen, shot)));
  const caption = make("figcaption", {}, make("b", { text: screen.system }));
  const codes = [...new Set(screen.shots.flatMap((shot) => shot.codes))];
  const unknown = [...new Set(screen.shots.flatMap((shot) => shot.unknown))];
  if (codes.length) caption.append(" ", make("span", { class: "wrong", text: codes.join(" ") }));
  if (unknown.length) caption.append(" ", make("span", { class: "wrong", text: `unknown: ${unknown.join("; ")}` }));
  caption.title = caption.textContent;
  figure.append(pair, caption);
  return figure;
}

function showScreen(screen) {
  screens.set(screen.id, screen);
  const figure = figureOf(screen);
  const old = byId(figure.id);
  sized(figure, screen);
  if (old) {
    const at = [...old.querySelectorAll(".device")].indexOf(document.activeElement);
    old.replaceWith(figure);
    if (at >= 0) figure.querySelectorAll(".device")[at]?.focus();
  } else {
    stripOf(screen).append(figure);
    fit();
  }
  filterScreens();
}

function stripOf(screen) {
  const id = `site-${screen.heading}`;
  for (const site of document.querySelectorAll(".site")) if (site.dataset.site === id) return site.querySelector(".strip");
  const strip = make("div", { class: "strip" });
  byId("screens").append(make("section", { class: "site", "data-site": id }, make("h2", { text: screen.heading }), strip));
  return strip;
}

function keepOnly(order) {
  for (const [id] of screens) {
    if (!order.includes(id)) {
      screens.delete(id);
      byId(`s-${id}`)?.remove();
    }
  }
  for (const site of document.querySelectorAll(".site")) if (!site.querySelector(".screen")) site.remove();
}

// One scale for all screens of devices; images for stores are made to fit.
function scaleOf(screen) {
  return screen.device ? unit : unit * Math.min(1, 820 / screen.height, 820 / screen.width);
}

function sized(figure, screen) {
  const scale = scaleOf(screen);
  for (const device of figure.querySelectorAll(".device")) {
    device.style.width = `${screen.width * scale}px`;
    device.style.height = `${screen.height * scale}px`;
    device.style.borderRadius = `${screen.corner * scale}px`;
  }
  figure.style.maxWidth = `${Math.max(70, screen.shots.length * screen.width * scale + 5)}px`;
}

function resize() {
  document.body.classList.toggle("tiny", unit < 0.16);
  for (const [id, screen] of screens) {
    const figure = byId(`s-${id}`);
    if (figure) sized(figure, screen);
  }
}

// The largest size at which all screens are seen without scrolling, on a screen that is large enough for that.
function fit() {
  const choice = byId("zoom").value;
  if (choice !== "fit") {
    unit = Number(choice);
    resize();
    return;
  }
  const main = byId("screens");
  if (matchMedia("(max-width: 800px)").matches) {  // one row, as high as its tallest screen
    const shares = [...screens.values()].map((screen) => (main.clientHeight - 80) / (screen.height * (screen.device ? 1 : Math.min(1, 820 / screen.height, 820 / screen.width))));
    unit = Math.max(0.05, Math.min(0.3, ...shares));
    resize();
    return;
  }
  let least = 0.05, most = 0.6;
  for (let step = 0; step < 9; step++) {
    unit = (least + most) / 2;
    resize();
    const used = Math.max(...[...main.children].map((one) => one.offsetTop + one.offsetHeight - main.offsetTop), 0) + 12;
    const isWide = [...main.querySelectorAll(".screen")].some((one) => one.offsetWidth > main.clientWidth);
    if (used <= main.clientHeight && !isWide) least = unit; else most = unit;
  }
  unit = least;
  resize();
}

async function showTruePixels(screen, shot) {
  const image = byId("true").querySelector("img");
  image.alt = `${screen.system}, ${shot.look}, in the device's own pixels`;
  image.src = `true/${shot.picture}.png`;
  image.style.width = `${Math.round(screen.width * screen.scale) / devicePixelRatio}px`;
  byId("true-name").textContent = `${screen.system}, ${screen.name}, ${shot.look}: ${Math.round(screen.width * screen.scale)} x ${Math.round(screen.height * screen.scale)} px, ${shot.value}, ${shot.sources.join(", ") || shot.title}`;
  byId("true").showModal();
}

function filterScreens() {
  const words = byId("filter").value.toLowerCase().split(/\s+/).filter(Boolean);
  let any = false;
  for (const figure of document.querySelectorAll(".screen")) {
    figure.hidden = !words.every((word) => figure.dataset.words.includes(word));
    any ||= !figure.hidden;
  }
  for (const site of document.querySelectorAll(".site")) site.hidden = !site.querySelector(".screen:not([hidden])");
  byId("none").hidden = any || screens.size === 0;
}

// ---- The brief

function showErrors(errors) {
  const lines = errors.map((error) => make("p", {},
    ...(error.place ? [make("code", { text: `${error.place} ` })] : []),
    error.message,
    ...(error.hint ? [make("br"), make("small", { text: error.hint })] : []),
  ));
  byId("errors").replaceChildren(...lines);
}

const builders = {
  colour(control, row) {
    const picker = make("input", { type: "color", "aria-label": `${control.label}, picked` });
    const text = make("input", { type: "text", "aria-label": `${control.label}, as a CSS colour`, spellcheck: "false", autocomplete: "off" });
    picker.addEventListener("input", () => { text.value = picker.value.toUpperCase(); set(control.key, text.value); });
    text.addEventListener("change", () => set(control.key, text.value));
    row.append(picker, text);
    return (now) => { picker.value = now.shown.slice(0, 7).toLowerCase(); if (document.activeElement !== text) text.value = now.value ?? now.shown; };
  },
  disc(control, row) {
    const on = make("input", { type: "checkbox", "aria-label": control.label });
    const picker = make("input", { type: "color", "aria-label": `${control.label}, colour` });
    on.addEventListener("change", () => set(control.key, on.checked ? picker.value.toUpperCase() : "none"));
    picker.addEventListener("input", () => { on.checked = true; set(control.key, picker.value.toUpperCase()); });
    row.append(on, picker);
    return (now) => { on.checked = now.value !== "none"; if (on.checked) picker.value = now.value.slice(0, 7).toLowerCase(); on.disabled = picker.disabled = Boolean(now.why); };
  },
  size(control, row) {
    const range = make("input", { type: "range", min: control.least, max: control.most, step: 1, "aria-label": `${control.label}, dp or pt` });
    const number = make("input", { type: "number", min: control.least, max: control.most, step: 1, "aria-label": `${control.label}, as a number of dp or pt` });
    const fits = make("input", { type: "checkbox" });
    range.addEventListener("input", () => { fits.checked = false; number.value = range.value; set(control.key, Number(range.value)); });
    number.addEventListener("change", () => { if (number.value) { fits.checked = false; set(control.key, Number(number.value)); } });
    fits.addEventListener("change", () => set(control.key, fits.checked ? "fit" : Number(range.value)));
    for (const one of [range, number]) {
      one.addEventListener("focus", () => document.body.classList.add("masked"));
      one.addEventListener("blur", () => document.body.classList.remove("masked"));
    }
    row.append(range, number, make("label", {}, fits, "as large as the masks allow"));
    return (now) => {
      fits.checked = now.value === "fit";
      if (!fits.checked) { range.value = now.value; if (document.activeElement !== number) number.value = now.value; } else if (document.activeElement !== number) number.value = "";
    };
  },
  share(control, row) {
    const range = make("input", { type: "range", min: control.least, max: control.most, step: 0.01, "aria-label": control.label });
    range.addEventListener("input", () => set(control.key, Number(range.value)));
    range.addEventListener("focus", () => document.body.classList.add("masked"));
    range.addEventListener("blur", () => document.body.classList.remove("masked"));
    const told = make("span", { class: "told" });
    row.append(range, told);
    return (now) => { range.value = now.value; told.textContent = now.shown; };
  },
  focus(control, row) {
    const ranges = ["across", "down"].map((way) => make("input", { type: "range", min: 0, max: 1, step: 0.01, "aria-label": `${control.label}, ${way}` }));
    const spot = make("i");
    const windows = drawing("svg", { viewBox: "0 0 1 1", preserveAspectRatio: "none", "aria-hidden": "true" });
    const image = make("img", { alt: "the backdrop, with what each screen shows of it" });
    const picture = make("div", { class: "focus" }, image, windows, spot);
    const move = ([x, y]) => { spot.style.left = `${100 * x}%`; spot.style.top = `${100 * y}%`; ranges[0].value = x; ranges[1].value = y; };
    const send = (point) => { move(point); set(control.key, point.map((one) => Math.round(one * 1000) / 1000)); };
    const pointAt = (event) => {
      const box = picture.getBoundingClientRect();
      return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height].map((one) => Math.min(1, Math.max(0, one)));
    };
    let isDragged = false;
    picture.addEventListener("pointerdown", (event) => { isDragged = true; picture.setPointerCapture(event.pointerId); send(pointAt(event)); event.preventDefault(); });
    picture.addEventListener("pointermove", (event) => { if (isDragged) send(pointAt(event)); });
    picture.addEventListener("pointerup", () => { isDragged = false; });
    for (const range of ranges) range.addEventListener("input", () => send(ranges.map((one) => Number(one.value))));
    row.append(...ranges, picture);
    return (now) => {
      if (head.backdrop && !image.src.endsWith(`${head.backdrop}.png`)) image.src = `picture/${head.backdrop}.png`;
      const shown = [...screens.values()].flatMap((screen) => screen.shots).filter((shot) => shot.window).map((shot) => shot.window.join(","));
      windows.replaceChildren(...[...new Set(shown)].map((one) => { const [x, y, width, height] = one.split(","); return drawing("rect", { x, y, width, height }); }));
      if (!isDragged) move(now.value);
    };
  },
  switch(control, row) {
    const on = make("input", { type: "checkbox", "aria-label": control.label });
    const told = make("span", { class: "told" });
    on.addEventListener("change", () => set(control.key, on.checked));
    row.append(on, told);
    return (now) => { on.checked = now.value; told.textContent = now.shown; on.disabled = Boolean(now.why); };
  },
  source(control, row) {
    const names = { same: "the light one", derive: "derived from the light one", own: "a file of its own" };
    const select = make("select", { "aria-label": control.label }, ...control.options.map((one) => make("option", { value: one, text: names[one] })));
    select.addEventListener("change", () => set(control.key, select.value));
    row.append(select);
    return (now) => { select.value = now.value; };
  },
};

const built = new Map();

function showControls() {
  const form = byId("controls");
  const wanted = head.controls.filter((control) => !control.why);
  const shape = wanted.map((control) => control.key + control.kind + control.options.join()).join("|");
  if (form.dataset.shape !== shape) {
    form.dataset.shape = shape;
    built.clear();
    form.replaceChildren(...wanted.map((control) => {
      const row = make("div", { class: "row" });
      const told = make("span", { class: "told" });
      built.set(control.key, { update: builders[control.kind](control, row), told });
      return make("div", { class: "control", role: "group", "aria-label": control.label, "data-key": control.key }, make("span", { class: "name", text: control.label }), row, told);
    }));
  }
  for (const control of wanted) {
    const one = built.get(control.key);
    one.update(control);
    one.told.replaceChildren(...toldOf(control));
  }
}

function toldOf(control) {
  const look = control.key.split(".")[0];
  const ratios = head.contrast[look];
  if (control.kind !== "colour" || !ratios) return [];
  const isLow = ratios.share < 0.9;
  const words = `contrast to the mark ${ratios.median.toFixed(1)}:1, weakest ${ratios.weakest.toFixed(1)}:1; ${Math.round(100 * ratios.share)} % of the outline reaches 3:1`;
  return [make("span", { class: isLow ? "low" : null, text: words })];
}

function showHead() {
  byId("status").textContent = head.busy ? "working" : head.errors.length ? "with problems" : head.changed.length ? "not written yet" : "up to date";
  document.body.classList.toggle("busy", head.busy);
  showErrors(head.errors);
  byId("brief").hidden = !head.brief;
  byId("slider").hidden = !head.brief;
  byId("path").textContent = head.brief ?? "";
  const editions = byId("edition");
  byId("editions").hidden = head.editions.length < 2;
  if (editions.dataset.names !== head.editions.join("\n")) {
    editions.dataset.names = head.editions.join("\n");
    editions.replaceChildren(...head.editions.map((name) => make("option", { value: name, text: name })));
  }
  if (head.edition) editions.value = head.edition;
  showControls();
  byId("changes").hidden = !head.diff;
  byId("diff").replaceChildren(...head.diff.split("\n").slice(2).map((line) => make("span", { class: line.startsWith("+") ? "add" : line.startsWith("-") ? "take" : null, text: `${line}\n` })));
  byId("undo").hidden = !head.undo;
  byId("handoffs").hidden = !head.handoffs.length;
  byId("handoffs").querySelector("div").replaceChildren(...head.handoffs.map((found) => {
    const steps = found.steps.map((step) => {
      const chip = make("span", { class: "chip" });
      if (step.ground) chip.style.background = step.ground;
      return make("li", {}, chip, make("span", { class: step.flash ? "flash" : null, text: `${step.moment} ${step.change ?? ""}${step.flash ? ", a flash" : ""}` }));
    });
    return make("div", { class: "handoff", "data-look": found.look }, `${found.name}, ${found.look}`, make("ol", {}, ...steps));
  }));
}

// ---- What the server tells

function take(told) {
  if (told.type === "screen") {
    showScreen(told.screen);
    return;
  }
  head = told;
  if (told.type === "state") {
    for (const screen of told.screens) showScreen(screen);
    keepOnly(told.order);
    fit();
  } else if (!told.busy) {
    keepOnly(told.order);
    fit();
  }
  showHead();
}

function connect() {
  const events = new EventSource("events");
  events.addEventListener("message", (event) => take(JSON.parse(event.data)));
  events.addEventListener("error", () => { byId("status").textContent = "the server has stopped"; });
}

// ---- The view

function setLook(look) {
  document.body.dataset.look = look;
  for (const one of document.querySelectorAll('input[name="look"]')) one.checked = one.value === look;
  fit();
}
function setGuides(on) { byId("guides").checked = on; document.body.classList.toggle("guided", on); }
function setShown(percent) {
  const value = Math.min(100, Math.max(0, percent));
  byId("shown").value = value;
  document.body.style.setProperty("--shown", `${value}%`);
  document.body.style.setProperty("--seam", value > 0 && value < 100 ? 1 : 0);
}
function setZoom(step) {
  const zoom = byId("zoom");
  zoom.selectedIndex = Math.min(zoom.options.length - 1, Math.max(0, zoom.selectedIndex + step));
  fit();
}

for (const one of document.querySelectorAll('input[name="look"]')) one.addEventListener("change", () => setLook(one.value));
byId("guides").addEventListener("change", (event) => setGuides(event.target.checked));
byId("shown").addEventListener("input", (event) => setShown(Number(event.target.value)));
byId("zoom").addEventListener("change", fit);
byId("filter").addEventListener("input", () => { filterScreens(); fit(); });
byId("view").addEventListener("submit", (event) => event.preventDefault());
byId("controls").addEventListener("submit", (event) => event.preventDefault());
byId("edition").addEventListener("change", (event) => set("edition", event.target.value));
byId("write").addEventListener("click", () => post("write", { digest: head.digest }));
byId("reset").addEventListener("click", () => post("reset"));
byId("undo").addEventListener("click", () => post("undo"));
addEventListener("resize", fit);
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || byId("true").open) return;
  const at = event.target;
  if (at === byId("filter") && event.key === "Escape") { at.value = ""; filterScreens(); fit(); at.blur(); return; }
  if (at instanceof HTMLSelectElement || (at instanceof HTMLInputElement && !["radio", "checkbox"].includes(at.type))) return;
  const step = at instanceof HTMLInputElement ? 0 : { ArrowLeft: -10, ArrowRight: 10 }[event.key];
  if (step) setShown(Number(byId("shown").value) + step);
  else if (event.key === "l") setLook("light");
  else if (event.key === "d") setLook("dark");
  else if (event.key === "b") setLook("both");
  else if (event.key === "g") setGuides(!byId("guides").checked);
  else if (event.key === "+") setZoom(1);
  else if (event.key === "-") setZoom(-1);
  else if (event.key === "/") byId("filter").focus();
  else return;
  event.preventDefault();
});
connect();
