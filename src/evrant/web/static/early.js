// What is pressed before the page's scripts are there is kept, and done as soon as they are.
(() => {
  "use strict";
  let ready = false;
  const kept = [];
  function keep(event, again) {
    event.preventDefault();
    event.stopImmediatePropagation();
    kept.push(again);
  }
  document.addEventListener("submit", (event) => {
    if (ready) return;
    const form = event.target, by = event.submitter;
    keep(event, () => form.isConnected && form.requestSubmit(by?.isConnected ? by : undefined));
  }, true);
  document.addEventListener("click", (event) => {
    const button = ready ? null : event.target.closest?.("button[hx-post], button[hx-get]");
    if (button) keep(event, () => button.isConnected && button.click());
  }, true);
  // So is a field that is changed: it is told again when somebody listens.
  document.addEventListener("change", (event) => {
    const field = ready ? null : event.target;
    if (!field?.closest?.("form[hx-post]")) return;
    event.stopImmediatePropagation();
    kept.push(() => field.isConnected && field.dispatchEvent(new Event("change", { bubbles: true })));
  }, true);
  // A press that begins on a link or button counts for it, also when the page moves under the pointer before it ends.
  let pressed = null;
  document.addEventListener("pointerdown", (event) => {
    const at = event.target.closest?.("a[href], button");
    pressed = at && event.button === 0 && !at.closest("svg") ? { at, x: event.clientX, y: event.clientY } : null;
  }, true);
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("a[href], button") === pressed?.at) pressed = null;
  }, true);
  document.addEventListener("pointerup", (event) => {
    const mine = pressed;
    if (!mine || Math.hypot(event.clientX - mine.x, event.clientY - mine.y) > 3 || mine.at.contains(event.target)) return;
    setTimeout(() => {
      if (pressed !== mine) return;
      pressed = null;
      const again = mine.at.isConnected ? mine.at : mine.at.id ? document.getElementById(mine.at.id) : null;
      again?.click();
    });
  }, true);
  function listen() {
    if (ready) return;
    ready = true;
    for (const again of kept.splice(0)) again();
  }
  document.addEventListener("DOMContentLoaded", () => setTimeout(listen, 250));
  window.addEventListener("load", () => setTimeout(listen, 30));
})();
