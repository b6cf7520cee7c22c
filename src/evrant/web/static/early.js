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
  window.addEventListener("load", () => setTimeout(() => {
    ready = true;
    for (const again of kept.splice(0)) again();
  }, 30));
})();
