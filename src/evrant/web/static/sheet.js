// The drawing sheet: drag, nudge, choose and type; the preview answers while a thing moves.
(() => {
  "use strict";
  const STEP = 0.01, BIG_STEP = 0.1, SETTLE_MS = 450, REST_MS = 120, JUDGED_MS = 600;
  const sheet = () => document.getElementById("sheet");
  const base = () => `/studios/${window.evrant.page().dataset.studio}`;
  const vector = (text) => text.split(" ").map(Number);
  const round = (value) => Math.round(value * 100) / 100;

  // --- what is held -------------------------------------------------------------------------
  function hold(group) {
    const held = holdOne(group);
    if (held) held.others = [...many].filter((target) => target !== held.target).map((target) => holdOne(inView(group, target))).filter(Boolean);
    return held;
  }
  const inView = (group, target) => [...group.closest("svg[data-view]").querySelectorAll(".grab")].find((one) => one.dataset.target === target);
  function holdOne(group) {
    const view = group?.closest("svg[data-view]");
    if (!view) return null;
    const start = {};
    for (const name of ["x", "y", "height"]) if (group.dataset[name] !== undefined) start[name] = Number(group.dataset[name]);
    return {
      id: group.id, target: group.dataset.target, start, across: vector(view.dataset.across), up: vector(view.dataset.up),
      turn: sheet().dataset.turn, moved: [0, 0, 0],
    };
  }
  function fieldsOf(held) {
    const fields = {};
    const names = ["x", "y", "height"];
    held.moved.forEach((by, i) => {
      if (Math.abs(by) > 0.0005 && held.start[names[i]] !== undefined) fields[names[i]] = round(held.start[names[i]] + by);
    });
    if (fields.height !== undefined) fields.height = Math.max(fields.height, 0);
    return fields;
  }
  // What is chosen together moves together, as one edit.
  function editOf(held) {
    const edits = [held, ...held.others].map((one) => ({ verb: "set", target: one.target, fields: fieldsOf({ ...one, moved: held.moved }) }))
      .filter((one) => Object.keys(one.fields).length);
    return edits.length > 1 ? { verb: "several", edits, label: `Move ${edits.length} things` } : { ...edits[0], target: held.target, fields: fieldsOf(held) };
  }
  const many = new Set();
  function together(target) {
    if (many.has(target)) many.delete(target);
    else many.add(target);
    drawMany();
    window.evrant.say("said", many.size ? `${many.size} chosen together` : "None chosen together");
  }
  function drawMany() {
    for (const group of document.querySelectorAll("#sheet .grab")) group.classList.toggle("together", many.has(group.dataset.target));
  }

  // --- preview: at most one in flight, the newest wins ---------------------------------------
  // While the hand moves the drawing follows alone; the ledger follows now and then, and when the hand rests.
  let flying = false, waiting = null, round_trip = 0, judged_at = 0, rest = 0;
  async function preview(held, judged = performance.now() - judged_at > JUDGED_MS) {
    if (!Object.keys(fieldsOf(held)).length) return;
    if (flying) { waiting = held; return; }
    flying = true;
    clearTimeout(rest);
    const mine = round_trip;
    try {
      const answer = await fetch(`${base()}/preview`, {
        method: "POST",
        headers: {
          ...window.evrant.headers(), "HX-Request": "true", "Content-Type": "application/json", "X-Evrant-Turn": held.turn,
          "X-Evrant-Part": judged ? "whole" : "drawing",
        },
        body: JSON.stringify({ edit_id: window.evrant.newId(), edit: editOf(held) }),
      });
      if (answer.ok && mine === round_trip) {
        show(await answer.text());
        document.dispatchEvent(new CustomEvent("evrant:preview", { detail: { edit: editOf(held) } }));
        if (judged) judged_at = performance.now();
        else rest = setTimeout(() => { if (mine === round_trip) preview(held, true); }, REST_MS);
      }
    } catch { /* the next movement asks again */ } finally {
      flying = false;
      if (waiting) { const next = waiting; waiting = null; preview(next); }
    }
  }
  // Where the last judged drawing marked what does not fit, until the next is judged.
  function keepMarks(old, drawn) {
    for (const mark of old.querySelectorAll(".conflict-mark")) drawn.querySelector(`#${mark.closest("svg[data-view]").id}`)?.append(mark.cloneNode(true));
  }
  function show(html) {
    const parsed = new DOMParser().parseFromString(html, "text/html");
    const focused = document.activeElement?.id;
    const drawing = parsed.getElementById("sheet"), lines = parsed.getElementById("preview-lines");
    if (drawing) {
      const drawn = document.importNode(drawing, true);
      if (!lines) keepMarks(sheet(), drawn);
      sheet().replaceWith(drawn);
    }
    window.evrant.zoomAgain();
    if (focused && document.getElementById(focused) !== document.activeElement) document.getElementById(focused)?.focus();
    const old = document.getElementById("preview-lines");
    if (lines && old) old.replaceWith(document.importNode(lines, true));
    else if (lines) document.getElementById("ledger")?.prepend(document.importNode(lines, true));
    if (lines) document.getElementById("ledger")?.classList.add("previewing");
    const dock = document.getElementById("dock"), worst = lines?.querySelector("li:nth-child(2)");
    if (dock && lines) {
      dock.querySelector("strong").textContent = lines.querySelector(".headline").textContent;
      dock.querySelector("span").textContent = worst ? worst.textContent.replace(/\s+/g, " ") : "";
    }
    paint();
  }
  // The shaded bust comes as pixels and is painted on its canvas.
  function paint() {
    for (const canvas of document.querySelectorAll("canvas.bust[data-pixels]")) {
      const raw = atob(canvas.dataset.pixels), image = new ImageData(canvas.width, canvas.height);
      for (let i = 0; i < raw.length; i += 1) image.data[i] = raw.charCodeAt(i);
      canvas.getContext("2d").putImageData(image, 0, 0);
    }
  }
  function commit(held) {
    round_trip += 1;
    waiting = null;
    if (!Object.keys(fieldsOf(held)).length) return;
    const edit = editOf(held);
    const words = Object.entries(fieldsOf(held)).map(([name, value]) => `${name} ${window.evrant.length(value, sheet().dataset.units)}`).join(", ");
    window.evrant.say("said", `Moved: ${words}`);
    window.htmx.ajax("POST", `${base()}/edits`, {
      source: "#said", target: "#page", swap: "outerMorph", values: { edit: JSON.stringify(edit) },
    });
  }

  // What a button would change is drawn while one points at it or has come to it by keys.
  let tried = null, trying = 0;
  async function tryOn(button) {
    tried = button;
    const mine = round_trip += 1;
    try {
      const answer = await fetch(`${base()}/preview`, {
        method: "POST",
        headers: { ...window.evrant.headers(), "HX-Request": "true", "Content-Type": "application/json" },
        body: JSON.stringify({ edit_id: window.evrant.newId(), edit: JSON.parse(button.dataset.try) }),
      });
      if (!answer.ok || mine !== round_trip || tried !== button) return;
      show(await answer.text());
      sheet()?.classList.add("tried");
    } catch { /* it is only looked at */ }
  }
  function pointed(event) {
    const button = event.target.closest?.("[data-try]");
    if (!button || button === tried || !sheet()) return;
    clearTimeout(trying);
    trying = setTimeout(() => tryOn(button), 250);
  }
  function left(event) {
    if (!event.target.closest?.("[data-try]")) return;
    clearTimeout(trying);
    if (!tried) return;
    tried = null;
    round_trip += 1;
    if (sheet()?.classList.contains("tried")) redraw();
  }
  for (const kind of ["pointerover", "focusin"]) document.addEventListener(kind, pointed);
  for (const kind of ["pointerout", "focusout"]) document.addEventListener(kind, left);

  // --- pointer --------------------------------------------------------------------------------
  let drag = null;
  document.addEventListener("pointerdown", (event) => {
    const group = event.target.closest?.("#sheet .grab");
    if (!group || event.button !== 0 || !event.isPrimary) return;
    if (event.shiftKey) { event.preventDefault(); together(group.dataset.target); return; }
    if (!many.has(group.dataset.target)) { many.clear(); drawMany(); }
    const held = hold(group);
    if (!held) return;
    event.preventDefault();
    group.focus?.({ preventScroll: true });
    judged_at = performance.now();
    drag = { held, x: event.clientX, y: event.clientY, scale: perMetre() };
    choose(held.target);
  });
  function perMetre() {
    const drawn = sheet();
    return Number(drawn.dataset.scale) * drawn.getScreenCTM().a;
  }
  window.addEventListener("pointermove", (event) => {
    if (!drag || !event.isPrimary) return;
    const across = (event.clientX - drag.x) / drag.scale, up = -(event.clientY - drag.y) / drag.scale;
    drag.held.moved = [0, 1, 2].map((i) => drag.held.across[i] * across + drag.held.up[i] * up);
    document.documentElement.classList.add("dragging");
    preview(drag.held);
  });
  function release(keep) {
    if (!drag) return;
    const { held } = drag;
    drag = null;
    document.documentElement.classList.remove("dragging");
    if (keep) commit(held);
    else refresh();
  }
  window.addEventListener("pointerup", (event) => { if (event.isPrimary) release(true); });
  window.addEventListener("pointercancel", () => release(false));
  function refresh() {
    round_trip += 1;
    waiting = null;
    window.htmx.ajax("GET", `${base()}/${window.evrant.page().dataset.path}`, { source: "#said", target: "#page", swap: "outerMorph" });
  }

  // --- keys -----------------------------------------------------------------------------------
  const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  let nudge = null, settle = 0;
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && drag) { release(false); return; }
    if (event.key === "Escape" && nudge) { clearTimeout(settle); nudge = null; refresh(); return; }
    if (event.key === "Escape" && many.size) { many.clear(); drawMany(); return; }
    const group = event.target.closest?.("#sheet .grab");
    if (!group) return;
    const step = event.shiftKey ? BIG_STEP : STEP;
    const way = WAYS[event.key];
    const lift = { PageUp: step, PageDown: -step }[event.key];
    if (event.key === "Enter" && event.shiftKey) { event.preventDefault(); together(group.dataset.target); return; }
    if (event.key === "Enter" || event.key === " ") { event.preventDefault(); choose(group.dataset.target, true); return; }
    if (!way && lift === undefined) return;
    event.preventDefault();
    if (!nudge || nudge.id !== group.id) { nudge = hold(group); judged_at = performance.now(); }
    if (!nudge) return;
    nudge.moved = nudge.moved.map((by, i) => by + (way ? (nudge.across[i] * way[0] + nudge.up[i] * way[1]) * step : 0) + (i === 2 && lift ? lift : 0));
    preview(nudge);
    clearTimeout(settle);
    settle = setTimeout(finishNudge, SETTLE_MS);
  });
  function finishNudge() {
    clearTimeout(settle);
    if (!nudge) return;
    const held = nudge;
    nudge = null;
    commit(held);
  }
  document.addEventListener("focusout", (event) => {
    if (nudge && event.target.id === nudge.id && event.relatedTarget) finishNudge();
  });
  window.addEventListener("pagehide", finishNudge);

  // --- the strip: choose a thing, type its place ----------------------------------------------
  let chosen = null;
  function choose(target, enter = false) {
    const tab = [...document.querySelectorAll("#strip [role=tab]")].find((one) => one.dataset.target === target);
    chosen = tab ? tab.dataset.panel : null;
    drawStrip();
    if (enter && chosen) document.querySelector(`#panel-${CSS.escape(chosen)} input:not([type=hidden]), #panel-${CSS.escape(chosen)} select`)?.focus();
  }
  function drawStrip() {
    const strip = document.getElementById("strip");
    if (!strip) return;
    let found = false;
    for (const tab of strip.querySelectorAll("[role=tab]")) {
      const on = tab.dataset.panel === chosen;
      found ||= on;
      tab.setAttribute("aria-selected", String(on));
      const panel = document.getElementById(`panel-${tab.dataset.panel}`);
      if (panel) panel.hidden = !on;
    }
    strip.classList.toggle("open", found);
    for (const group of document.querySelectorAll("#sheet .chosen")) group.classList.remove("chosen");
    const tab = strip.querySelector("[aria-selected=true]");
    if (tab) for (const group of document.querySelectorAll("#sheet .grab")) group.classList.toggle("chosen", group.dataset.target === tab.dataset.target);
  }
  // A link to a part of the set opens its panel.
  window.evrant.choosePanel = (id) => {
    const panel = document.getElementById(`panel-${id}`);
    if (!panel) return null;
    chosen = id;
    drawStrip();
    return panel;
  };
  document.addEventListener("click", (event) => {
    const tab = event.target.closest?.("#strip [role=tab]");
    if (!tab) return;
    chosen = tab.dataset.panel === chosen ? null : tab.dataset.panel;
    drawStrip();
  });
  document.addEventListener("keydown", (event) => {
    const tab = event.target.closest?.("#strip [role=tab]");
    if (!tab || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
    const tabs = [...document.querySelectorAll("#strip [role=tab]")];
    const next = tabs[(tabs.indexOf(tab) + (event.key === "ArrowRight" ? 1 : tabs.length - 1)) % tabs.length];
    next.focus();
    next.click();
  });

  // --- size: the sheet is drawn for the space it has -------------------------------------------
  let resizing = 0;
  function fit() {
    const holder = document.getElementById("sheet-holder"), drawn = sheet();
    if (!holder || !drawn) return;
    const { width, height } = holder.getBoundingClientRect();
    if (width < 50 || height < 50) return;
    document.cookie = `evrant_sheet=${Math.round(width)}x${Math.round(height)}; path=/; SameSite=Strict; max-age=31536000`;
    const box = window.evrant.wholeBox(drawn);
    if (Math.abs(box.width - width) > 0.03 * width || (width >= 560 && Math.abs(box.height - height) > 0.03 * height)) redraw();
  }
  function redraw() {
    round_trip += 1;
    window.htmx.ajax("GET", `${base()}/${window.evrant.page().dataset.path}/sheet`, { source: "#sheet-holder", target: "#sheet", swap: "outerHTML" });
  }
  const watcher = new ResizeObserver(() => { if (drag || nudge) return; clearTimeout(resizing); resizing = setTimeout(fit, 120); });
  function begin() {
    const holder = document.getElementById("sheet-holder");
    if (holder && !holder.dataset.watched) { holder.dataset.watched = "1"; watcher.observe(holder); }
    document.getElementById("ledger")?.classList.remove("previewing");
    document.getElementById("preview-lines")?.remove();
    if (chosen === null && location.hash.length > 1 && document.getElementById(`panel-${location.hash.slice(1)}`)) chosen = location.hash.slice(1);
    drawStrip();
    drawMany();
    paint();
  }
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", begin);
})();
