// A word of the trade is explained in the first line that uses it, on the first few pages that do.
(() => {
  "use strict";
  const KEPT = "evrant:words", TIMES = 3;
  const load = () => { try { return JSON.parse(localStorage.getItem(KEPT) ?? "{}"); } catch { return {}; } };
  const save = (seen) => { try { localStorage.setItem(KEPT, JSON.stringify(seen)); } catch { /* asked again next time */ } };
  const lines = () => [...document.querySelectorAll("#ledger .term")];
  let shown = new Set();
  function hide() {
    const seen = load();
    for (const line of lines()) line.hidden = (seen[line.dataset.term] ?? 0) >= TIMES && !shown.has(line.dataset.term);
    const button = document.getElementById("words-known");
    if (button && lines().length && lines().every((line) => line.hidden)) button.textContent = button.dataset.again;
  }
  function begin() {
    const seen = load();
    shown = new Set();
    for (const { dataset: { term } } of lines()) {
      if ((seen[term] ?? 0) >= TIMES || shown.has(term)) continue;
      shown.add(term);
      seen[term] = (seen[term] ?? 0) + 1;
    }
    save(seen);
    hide();
  }
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("#words-known");
    if (!button) return;
    const again = lines().every((line) => line.hidden), seen = load();
    for (const { dataset: { term } } of lines()) seen[term] = again ? 0 : TIMES;
    shown = new Set();
    save(seen);
    button.textContent = again ? "I know these words" : button.dataset.again;
    hide();
  });
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", hide);
})();
