// A hosted studio: who else is here, each other's changes as they come, and pages that may only be looked at.
(() => {
  "use strict";
  const page = () => document.getElementById("page");
  const me = () => page()?.dataset.me ?? "";
  let stream = null, of = "", waiting = 0, known = {};

  // --- to look at --------------------------------------------------------------------------------
  function lookOnly() {
    const here = page();
    if (!here?.hasAttribute("data-look-only")) return;
    for (const form of here.querySelectorAll("form[hx-post]:not([data-look])")) {
      for (const field of form.elements) field.disabled = true;
    }
    for (const one of here.querySelectorAll("button[hx-post]:not([data-look]), input[hx-post], select[hx-post]")) one.disabled = true;
  }

  // What came after the page did is held back too; the server would refuse it in any case.
  document.addEventListener("click", (event) => {
    if (!page()?.hasAttribute("data-look-only") || !event.target.closest?.("[hx-post]:not([data-look])")) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    window.evrant?.say?.("said", "You may look at this studio, not change it.");
  }, true);

  // --- others' changes ---------------------------------------------------------------------------
  const at = () => Number(page()?.dataset.revision ?? 0);
  const busy = () => {
    const held = document.activeElement;
    return document.querySelector(".dragging, dialog[open]") || (held?.matches("input, select, textarea") && held.value !== held.defaultValue);
  };
  function show() {
    if (!waiting || waiting <= at()) { waiting = 0; return; }
    if (busy()) { setTimeout(show, 1500); return; }
    const here = page();
    window.htmx.ajax("GET", `/studios/${here.dataset.studio}/${here.dataset.path}`, {
      source: "#said", target: "#page", swap: "outerMorph",
    });
    waiting = 0;
  }
  function changed(words) {
    const here = page();
    if (words.key !== here?.dataset.studio || words.number <= at() || words.by === me()) return;
    window.evrant?.say?.("said", `Changed by another: ${words.label}.`);
    waiting = words.number;
    setTimeout(show, 250);
  }
  function here(names) {
    const shown = document.getElementById("others");
    known = names;
    if (!shown) return;
    const mine = shown.dataset.me;
    const others = Object.keys(names).filter((name) => name !== mine);
    shown.textContent = others.length ? `${others.join(", ")} ${others.length > 1 ? "are" : "is"} here` : "";
  }
  function listen() {
    const studio = page()?.dataset.studio;
    if (!studio || studio === of) return;
    stream?.close();
    of = studio;
    known = {};
    stream = new EventSource(`/studios/${studio}/events`);
    stream.addEventListener("now", (event) => {
      const { number } = JSON.parse(event.data);
      if (number > at()) { waiting = number; setTimeout(show, 1200); }
    });
    stream.addEventListener("changed", (event) => changed(JSON.parse(event.data)));
    stream.addEventListener("remarked", (event) => {
      if (JSON.parse(event.data).by !== me()) { waiting = at() + 0.5; setTimeout(show, 250); }
    });
    stream.addEventListener("here", (event) => here(JSON.parse(event.data).names));
  }
  window.addEventListener("pagehide", () => { stream?.close(); of = ""; });
  window.addEventListener("pageshow", (event) => { if (event.persisted) listen(); });
  document.addEventListener("DOMContentLoaded", () => { lookOnly(); listen(); });
  document.addEventListener("htmx:after:swap", () => { lookOnly(); listen(); here(known); });
})();
