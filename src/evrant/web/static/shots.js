// A shot as its picture: the frame's edges are dragged in or out, the aperture slides and what is sharp follows.
(() => {
  "use strict";
  const SNAP = 0.035, SETTLE_MS = 450, LEAST = 0.02, MOST = 6;
  const base = () => `/studios/${window.evrant.page().dataset.studio}`;
  let drag = null, nudge = null, settle = 0;

  const words = (metres, units) => window.evrant.length(metres, units, true);
  // A frame near a usual crop takes it.
  function wanted(finder, height) {
    const crops = JSON.parse(finder.dataset.crops);
    const near = Object.entries(crops).map(([crop, size]) => [Math.abs(Math.log(height / size)), crop, size]).sort((a, b) => a[0] - b[0])[0];
    return near && near[0] < SNAP ? { crop: near[1], height: near[2] } : { crop: null, height };
  }
  function show(finder, height) {
    const [wide, tall, across, up] = JSON.parse(finder.dataset.frame), ratio = height / Number(finder.dataset.height);
    const w = across * ratio, h = up * ratio, x = (wide - w) / 2, y = (tall - h) / 2;
    const frame = finder.querySelector(".finder-frame");
    for (const [name, value] of Object.entries({ x, y, width: w, height: h })) frame.setAttribute(name, value);
    finder.querySelector(".left-out").setAttribute("d", `M0 0H${wide}V${tall}H0ZM${x} ${y}h${w}v${h}h${-w}Z`);
    const found = wanted(finder, height);
    const said = `${words(found.height, finder.dataset.units)} high${found.crop ? `, ${found.crop}` : ""}`;
    const word = finder.querySelector(".finder-word");
    word.textContent = said;
    word.setAttribute("y", Math.max(y - 10, 16));
    const slider = finder.querySelector("[role=slider]");
    slider.setAttribute("aria-valuenow", Math.round(ratio * 100));
    slider.setAttribute("aria-valuetext", said);
  }
  function commit(finder, height) {
    const target = finder.closest("[data-shot]").dataset.shot, found = wanted(finder, height);
    if (Math.abs(height / Number(finder.dataset.height) - 1) < 0.004) { show(finder, Number(finder.dataset.height)); return; }
    const fields = found.crop ? { crop: found.crop, frame_height: null } : { frame_height: Math.round(height * 1000) / 1000 };
    window.htmx.ajax("POST", `${base()}/edits`, {
      source: "#said", target: "#page", swap: "outerMorph", values: { edit: JSON.stringify({ verb: "set", target, fields }) },
    });
  }
  const held = (height) => Math.max(LEAST, Math.min(height, MOST));
  document.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.(".frame-grip");
    if (!grip || event.button !== 0) return;
    event.preventDefault();
    const finder = grip.closest(".finder"), [, , across, up] = JSON.parse(finder.dataset.frame);
    const level = grip.dataset.edge === "left" || grip.dataset.edge === "right";
    drag = {
      finder, level, x: event.clientX, y: event.clientY, half: (level ? across : up) / 2,
      out: { top: -1, bottom: 1, left: -1, right: 1 }[grip.dataset.edge], height: Number(finder.dataset.height),
    };
  });
  window.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const scale = drag.finder.getScreenCTM().a;
    const by = (drag.level ? event.clientX - drag.x : event.clientY - drag.y) / scale * drag.out;
    drag.now = held(drag.height * Math.max((drag.half + by) / drag.half, 0.1));
    show(drag.finder, drag.now);
  });
  function release(keep) {
    if (!drag) return;
    const done = drag;
    drag = null;
    if (keep && done.now) commit(done.finder, done.now);
    else show(done.finder, done.height);
  }
  window.addEventListener("pointerup", () => release(true));
  window.addEventListener("pointercancel", () => release(false));
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && drag) { release(false); return; }
    const grip = event.target.closest?.(".frame-grip");
    const step = { ArrowUp: 1.02, ArrowRight: 1.02, ArrowDown: 1 / 1.02, ArrowLeft: 1 / 1.02 }[event.key];
    if (!grip || !step) return;
    event.preventDefault();
    const finder = grip.closest(".finder");
    if (!nudge || nudge.finder !== finder) nudge = { finder, height: Number(finder.dataset.height) };
    nudge.height = held(nudge.height * (event.shiftKey ? step ** 5 : step));
    show(finder, nudge.height);
    clearTimeout(settle);
    settle = setTimeout(() => { const done = nudge; nudge = null; if (done) commit(done.finder, done.height); }, SETTLE_MS);
  });

  // --- aperture ----------------------------------------------------------------------------------
  document.addEventListener("input", (event) => {
    const row = event.target.closest?.(".aperture");
    if (!row || event.target.type !== "range") return;
    const stop = JSON.parse(row.dataset.stops)[Number(event.target.value)], sharp = row.querySelector(".strip-sharp");
    sharp.setAttribute("x", stop.x);
    sharp.setAttribute("width", stop.width);
    row.querySelector("output").textContent = stop.says;
    event.target.setAttribute("aria-valuetext", stop.says);
  });
  document.addEventListener("change", (event) => {
    const row = event.target.closest?.(".aperture");
    if (!row || event.target.type !== "range") return;
    const stop = JSON.parse(row.dataset.stops)[Number(event.target.value)];
    const edit = { verb: "set", target: row.closest("[data-shot]").dataset.shot, fields: { aperture: stop.f } };
    window.htmx.ajax("POST", `${base()}/edits`, { source: "#said", target: "#page", swap: "outerMorph", values: { edit: JSON.stringify(edit) } });
  });
  // The strip begins at the shot's own aperture.
  function begin() {
    for (const row of document.querySelectorAll(".aperture")) {
      const slide = row.querySelector("input[type=range]");
      const stop = JSON.parse(row.dataset.stops)[Number(slide.getAttribute("value"))], sharp = row.querySelector(".strip-sharp");
      if (slide !== document.activeElement) slide.value = slide.getAttribute("value");
      sharp.setAttribute("x", stop.x);
      sharp.setAttribute("width", stop.width);
    }
  }
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", begin);
})();
