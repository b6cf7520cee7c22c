// The computed picture: in the sheet's corner it follows the hand, on its own page it is read, marked and compared.
(() => {
  "use strict";
  const OUTLINE = "evrant:outline", COARSE = 160, FINE = 480, TRIES = 5;
  const pause = (ms) => new Promise((done) => setTimeout(done, ms));
  const corner = () => document.querySelector("canvas.taken");
  const outlined = () => localStorage.getItem(OUTLINE) === "1";
  let last = null, lastOf = "", asked = 0, flying = false, waiting = null;

  // --- in the sheet's corner -----------------------------------------------------------------------
  function put(bitmap) {
    const canvas = corner();
    if (!canvas || !bitmap) return;
    canvas.width = bitmap.width;
    canvas.height = bitmap.height;
    canvas.getContext("2d").drawImage(bitmap, 0, 0);
    canvas.classList.add("there");
  }
  async function take(address, request) {
    const answer = await fetch(address, request);
    if (answer.status === 204 || answer.status === 429 || answer.status >= 500) throw new Error("later");
    if (!answer.ok) return null;
    return createImageBitmap(await answer.blob());
  }
  async function atRest() {
    const canvas = corner();
    if (!canvas || outlined()) return;
    const here = window.evrant.page(), of = `${here.dataset.studio} ${canvas.dataset.set} ${here.dataset.revision}`;
    const close = canvas.dataset.close ? "&close=1" : "";
    if (of === lastOf && last) { put(last); return; }
    if (last && lastOf.startsWith(`${here.dataset.studio} ${canvas.dataset.set} `)) put(last);
    waiting = null; // what the hand last asked for is older than what is now at rest
    const mine = asked += 1, base = `/studios/${here.dataset.studio}/picture/${canvas.dataset.set}/frame.png?revision=${here.dataset.revision}`;
    for (const query of [`&size=${COARSE}&coarse=1${close}`, `&size=${FINE}${close}`]) {
      for (let again = 0; again < TRIES; again += 1) {
        const bitmap = await take(base + query).catch(() => undefined);
        if (mine !== asked || bitmap === null) return; // there is no such picture
        if (bitmap) { last = bitmap; lastOf = of; put(bitmap); }
        await pause(bitmap ? 300 : 1500 * (again + 1)); // a busy server says so and is asked later
        if (mine !== asked) return;
        if (bitmap) break;
      }
    }
  }
  async function follow(edit) {
    const canvas = corner();
    put(last);
    if (!canvas || outlined()) return;
    if (flying) { waiting = edit; return; }
    flying = true;
    const mine = asked += 1;
    try {
      const bitmap = await take(`/studios/${window.evrant.page().dataset.studio}/picture/${canvas.dataset.set}/moving${canvas.dataset.close ? "?close=1" : ""}`, {
        method: "POST",
        headers: { ...window.evrant.headers(), "Content-Type": "application/json" },
        body: JSON.stringify({ edit }),
      });
      if (bitmap && mine === asked) { last = bitmap; lastOf = ""; put(bitmap); }
    } catch { /* the next movement asks again */ } finally {
      flying = false;
      if (waiting) { const next = waiting; waiting = null; follow(next); }
    }
  }
  document.addEventListener("evrant:preview", (event) => follow(event.detail.edit));
  document.addEventListener("click", (event) => {
    if (!event.target.closest?.("#outline-toggle")) return;
    if (outlined()) localStorage.removeItem(OUTLINE);
    else localStorage.setItem(OUTLINE, "1");
    drawOutline();
    atRest();
  });
  function drawOutline() {
    document.documentElement.classList.toggle("outline-picture", outlined());
    document.getElementById("outline-toggle")?.setAttribute("aria-pressed", String(outlined()));
  }

  // --- on its own page ---------------------------------------------------------------------------------
  const spot = { x: 0.5, y: 0.5 };
  let reading = null, soon = 0;
  function read() {
    const frame = document.getElementById("picture-frame"), out = document.getElementById("picture-reading");
    const cross = document.getElementById("picture-cross");
    cross.hidden = false;
    cross.style.left = `${spot.x * 100}%`;
    cross.style.top = `${spot.y * 100}%`;
    clearTimeout(soon);
    reading?.abort();
    soon = setTimeout(async () => {
      reading = new AbortController();
      try {
        const address = `${frame.dataset.reading}&x=${spot.x.toFixed(4)}&y=${spot.y.toFixed(4)}`;
        const answer = await fetch(address, { signal: reading.signal });
        const found = answer.ok ? await answer.json() : { words: "No reading there." };
        out.textContent = found.words;
        const into = document.querySelector("[data-reading-into]");
        if (into && found.value !== undefined) into.value = found.value;
      } catch { /* a later place is read */ }
    }, 80);
  }
  document.addEventListener("click", (event) => {
    const frame = event.target.closest?.("#picture-frame");
    if (!frame) return;
    const box = frame.getBoundingClientRect();
    spot.x = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1);
    spot.y = Math.min(Math.max((event.clientY - box.top) / box.height, 0), 1);
    read();
  });
  const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  document.addEventListener("keydown", (event) => {
    const way = event.target.id === "picture-frame" ? WAYS[event.key] : null;
    if (!way) return;
    event.preventDefault();
    const step = event.shiftKey ? 0.1 : 0.02;
    spot.x = Math.min(Math.max(spot.x + way[0] * step, 0), 1);
    spot.y = Math.min(Math.max(spot.y + way[1] * step, 0), 1);
    read();
  });
  document.addEventListener("change", (event) => {
    if (event.target.id === "picture-beside") {
      const { here } = event.target.dataset;
      location.href = event.target.value ? `${here}&beside=${encodeURIComponent(event.target.value)}` : here;
    }
    if (event.target.id === "picture-marks") {
      sharpen(event.target.checked ? "&marks=1" : "");
    }
  });
  // The coarse picture stands until the fine one is there.
  function sharpen(query = "") {
    for (const img of document.querySelectorAll("#picture-frame img[data-plain]")) {
      const fine = new Image();
      img.setAttribute("aria-busy", "true");
      fine.addEventListener("load", () => { img.src = fine.src; img.removeAttribute("aria-busy"); });
      fine.src = img.dataset.plain + query;
    }
  }
  function slide() {
    const other = document.getElementById("picture-other"), at = document.getElementById("picture-slide");
    if (other && at) other.style.clipPath = `inset(0 0 0 ${at.value}%)`;
  }
  document.addEventListener("input", (event) => { if (event.target.id === "picture-slide") slide(); });

  function begin() { drawOutline(); slide(); atRest(); }
  document.addEventListener("DOMContentLoaded", () => { begin(); sharpen(); });
  document.addEventListener("htmx:after:swap", begin);
})();
