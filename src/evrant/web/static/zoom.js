// Looking closer at a drawing: buttons, Ctrl and the wheel, two fingers; once close, the empty sheet is pulled along.
(() => {
  "use strict";
  const MOST = 8, STEP = 1.4;
  let look = null, where = "", pull = null, pinch = null;
  const fingers = new Map();
  const sheet = () => document.querySelector("#sheet-holder > #sheet");
  function whole(drawn) {
    if (!drawn.dataset.whole) drawn.dataset.whole = drawn.getAttribute("viewBox");
    const [x, y, width, height] = drawn.dataset.whole.split(" ").map(Number);
    return { x, y, width, height };
  }
  function near() { return look ? 1 / look.size : 1; }
  // `look` is a part of the sheet as shares of it: its corner and its size.
  function apply() {
    const drawn = sheet();
    if (!drawn) return;
    const full = whole(drawn);
    const { left, top, size } = look ?? { left: 0, top: 0, size: 1 };
    drawn.setAttribute("viewBox", `${full.x + left * full.width} ${full.y + top * full.height} ${full.width * size} ${full.height * size}`);
    drawn.classList.toggle("zoomed", Boolean(look));
    const word = document.querySelector(".zoom-tools output");
    if (word) word.textContent = `${Math.round(near() * 100)} %`;
    for (const button of document.querySelectorAll(".zoom-tools [data-zoom=out], .zoom-tools [data-zoom=whole]")) button.disabled = !look;
    for (const button of document.querySelectorAll(".zoom-tools [data-zoom=in]")) button.disabled = near() >= MOST - 0.01;
  }
  function set(size, left, top) {
    if (size >= 0.999) look = null;
    else look = { size, left: Math.max(0, Math.min(left, 1 - size)), top: Math.max(0, Math.min(top, 1 - size)) };
    apply();
  }
  // The place under the pointer, as a share of the sheet.
  function share(x, y) {
    const drawn = sheet(), full = whole(drawn);
    const at = new DOMPoint(x, y).matrixTransform(drawn.getScreenCTM().inverse());
    return [(at.x - full.x) / full.width, (at.y - full.y) / full.height];
  }
  function zoom(by, x, y) {
    const drawn = sheet();
    if (!drawn) return;
    const box = drawn.getBoundingClientRect();
    const [sx, sy] = share(x ?? box.left + box.width / 2, y ?? box.top + box.height / 2);
    const from = look ?? { left: 0, top: 0, size: 1 };
    const size = Math.max(1 / MOST, Math.min(from.size / by, 1));
    set(size, sx - (sx - from.left) * size / from.size, sy - (sy - from.top) * size / from.size);
  }
  function tools() {
    const holder = document.getElementById("sheet-holder"), drawn = sheet();
    if (where !== location.pathname) { look = null; where = location.pathname; }
    if (!holder || !drawn) return;
    if (!holder.querySelector(".zoom-tools")) {
      const made = document.createElement("div");
      made.className = "zoom-tools";
      made.setAttribute("role", "group");
      made.setAttribute("aria-label", "Look closer");
      for (const [key, sign, words] of [["out", "−", "Further away"], ["whole", "", "Whole sheet"], ["in", "+", "Closer"]]) {
        const button = document.createElement("button");
        button.type = "button";
        button.dataset.zoom = key;
        button.title = words;
        if (sign) { button.textContent = sign; button.setAttribute("aria-label", words); }
        else button.append(document.createElement("output"));
        made.append(button);
      }
      holder.append(made);
    }
    delete drawn.dataset.whole;
    apply();
  }
  window.evrant.wholeBox = (drawn) => whole(drawn);
  window.evrant.zoomAgain = () => { const drawn = sheet(); if (drawn) { delete drawn.dataset.whole; apply(); } };
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.(".zoom-tools button");
    if (!button) return;
    if (button.dataset.zoom === "whole") set(1, 0, 0);
    else zoom(button.dataset.zoom === "in" ? STEP : 1 / STEP);
  });
  document.addEventListener("wheel", (event) => {
    if (!(event.ctrlKey || event.metaKey) || !event.target.closest?.("#sheet-holder")) return;
    event.preventDefault();
    zoom(Math.exp(-Math.max(-60, Math.min(event.deltaY, 60)) / 160), event.clientX, event.clientY);
  }, { passive: false });

  // --- fingers and pulling -----------------------------------------------------------------------
  document.addEventListener("pointerdown", (event) => {
    if (!event.target.closest?.("#sheet-holder > #sheet")) return;
    if (event.pointerType === "touch") fingers.set(event.pointerId, [event.clientX, event.clientY]);
    if (fingers.size === 2) {
      pull = null;
      window.dispatchEvent(new Event("pointercancel"));
      const [a, b] = [...fingers.values()];
      pinch = Math.hypot(a[0] - b[0], a[1] - b[1]);
      return;
    }
    if (!look || event.button !== 0 || event.target.closest(".grab, .hold, .wall-spot, a, button")) return;
    pull = [event.clientX, event.clientY];
  });
  window.addEventListener("pointermove", (event) => {
    if (fingers.has(event.pointerId)) fingers.set(event.pointerId, [event.clientX, event.clientY]);
    if (pinch && fingers.size === 2) {
      const [a, b] = [...fingers.values()], wide = Math.hypot(a[0] - b[0], a[1] - b[1]);
      if (wide > 10) { zoom(wide / pinch, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2); pinch = wide; }
      return;
    }
    if (!pull || !look) return;
    const drawn = sheet(), full = whole(drawn), scale = drawn.getScreenCTM().a;
    set(look.size, look.left - (event.clientX - pull[0]) / scale / full.width, look.top - (event.clientY - pull[1]) / scale / full.height);
    pull = [event.clientX, event.clientY];
  });
  function lift(event) {
    fingers.delete(event.pointerId);
    if (fingers.size < 2) pinch = null;
    pull = null;
  }
  window.addEventListener("pointerup", lift);
  window.addEventListener("pointercancel", (event) => { if (event.pointerId !== undefined) lift(event); });
  document.addEventListener("DOMContentLoaded", tools);
  document.addEventListener("htmx:after:swap", tools);
})();
