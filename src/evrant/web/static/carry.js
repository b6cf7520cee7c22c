// Keeps the screen awake while a session is carried out, and again after the telephone slept.
(() => {
  "use strict";
  let held = null;
  async function stayAwake() {
    if (!document.querySelector("[data-awake]") || document.visibilityState !== "visible") return;
    try { held = await navigator.wakeLock?.request("screen") ?? null; } catch { held = null; }
  }
  document.addEventListener("DOMContentLoaded", stayAwake);
  document.addEventListener("visibilitychange", () => { if (!held || held.released) stayAwake(); });
  // A step that is done gives way to the next: begin at its top again.
  document.addEventListener("htmx:after:swap", () => {
    const heading = document.querySelector(".carry h1");
    const at = heading?.textContent ?? "";
    if (at === document.body.dataset.carried) return;
    document.body.dataset.carried = at;
    window.scrollTo(0, 0);
  });
})();
