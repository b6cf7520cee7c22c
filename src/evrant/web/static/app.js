// Requests, drafts, undo keys, and lighting up what a ledger line is about.
(() => {
  "use strict";
  const page = () => document.getElementById("page");
  const token = () => document.querySelector('meta[name="evrant-token"]').content;
  const say = (id, words) => { const at = document.getElementById(id); if (at) at.textContent = words; };

  const newId = () => crypto.randomUUID();

  // A change that meets a broken line is sent again with the same edit_id; the server applies it once.
  async function stubborn(address, request) {
    for (let attempt = 0; ; attempt += 1) {
      try {
        return await fetch(address, request);
      } catch (fault) {
        if (attempt === 3 || request.signal?.aborted) throw fault;
        say("saved", "not saved, trying again");
        await new Promise((done) => setTimeout(done, 400 * 2 ** attempt));
      }
    }
  }

  function headers() {
    const here = page();
    return {
      "X-Evrant-Token": token(),
      "X-Evrant-Revision": here?.dataset.revision ?? "0",
      "X-Evrant-Page": here?.dataset.path ?? "",
    };
  }

  document.addEventListener("htmx:config:request", (event) => {
    const { ctx } = event.detail;
    if (ctx.request.method !== "GET" && ctx.request.body?.set && !ctx.request.body.has("edit_id")) {
      ctx.request.body.set("edit_id", newId());
    }
    if (ctx.request.method !== "GET") ctx.fetch = stubborn;
  });
  document.addEventListener("htmx:before:request", (event) => {
    const { ctx } = event.detail;
    Object.assign(ctx.request.headers, headers());
    if (ctx.request.method !== "GET") say("saved", "saving");
  });
  document.addEventListener("htmx:after:request", (event) => {
    const { ctx } = event.detail;
    const status = ctx.response?.status ?? 0;
    if (ctx.request.method === "GET") return;
    if (status < 300) {
      forget(ctx.sourceElement);
      const notice = document.getElementById("notice");
      if (notice) notice.replaceChildren();
    }
    say("saved", status < 300 ? "saved" : "not saved");
    if (status >= 500) complain("The server could not do that. What you typed is kept; try again.");
    if ([403, 413, 421].includes(status)) complain(ctx.text);
  });
  document.addEventListener("htmx:error", () => say("saved", "not saved"));

  // A button may name the page that shows what it made.
  document.addEventListener("htmx:after:request", (event) => {
    const { ctx } = event.detail;
    const goal = ctx.sourceElement?.dataset?.goto;
    if (goal && ctx.response?.status === 200) location.assign(goal);
  });

  function complain(words) {
    const note = document.createElement("div");
    note.className = "notice";
    const line = document.createElement("p");
    line.textContent = words;
    note.append(line);
    document.getElementById("notice")?.replaceChildren(note);
  }

  // What is typed but not yet taken is kept until it is.
  const draftKey = (form, name) => `draft:${page()?.dataset.studio ?? "new"}:${form.id}:${name}`;
  document.addEventListener("input", (event) => {
    const form = event.target.closest?.("form.field, #new-studio");
    if (form?.id && event.target.name && event.target.type !== "file" && event.target.type !== "checkbox") {
      sessionStorage.setItem(draftKey(form, event.target.name), event.target.value);
    }
  });
  function forget(source) {
    const form = source?.closest?.("form");
    if (!form?.id) return;
    for (const input of form.elements) {
      if (input.name) for (const kept of ["", ":why"]) sessionStorage.removeItem(draftKey(form, input.name) + kept);
    }
  }
  function complainBeside(form, words) {
    form.classList.add("wrong");
    if (form.querySelector(".error")) return;
    const line = document.createElement("p");
    line.className = "error";
    line.textContent = words;
    form.append(line);
  }
  function restore() {
    for (const form of document.querySelectorAll("form.field, #new-studio")) {
      for (const input of form.elements) {
        const draft = input.name ? sessionStorage.getItem(draftKey(form, input.name)) : null;
        if (draft === null || input.value === draft) continue;
        input.value = draft;
        const why = sessionStorage.getItem(`${draftKey(form, input.name)}:why`);
        if (why) complainBeside(form, why);
        else if (input !== document.activeElement) form.classList.add("unsaved");
      }
    }
  }
  document.addEventListener("submit", (event) => { if (event.target.matches("form.field")) event.preventDefault(); });

  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-dismiss]")) document.getElementById("notice").replaceChildren();
  });
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
    if (event.target.matches?.("input, textarea")) return;
    event.preventDefault();
    document.getElementById(event.shiftKey ? "redo" : "undo")?.click();
  });

  // Pointing at a line lights up its place in every view, and the other way round.
  let pointed = [[], undefined];
  function light(paths, key) {
    pointed = [paths, key];
    for (const lit of document.querySelectorAll(".lit")) lit.classList.remove("lit");
    if (!paths.length && !key) return;
    for (const thing of document.querySelectorAll("#sheet [data-path]")) {
      if (paths.includes(thing.dataset.path)) thing.classList.add("lit");
    }
    for (const mark of document.querySelectorAll("#sheet [data-key]")) {
      if (mark.dataset.key === key) mark.classList.add("lit");
    }
  }
  function point(event) {
    const line = event.target.closest?.("[data-about]");
    if (line) { light(line.dataset.about.split(" "), line.dataset.key); return; }
    const thing = event.target.closest?.("#sheet [data-path], #sheet [data-key]");
    light(thing?.dataset.path ? [thing.dataset.path] : [], thing?.dataset.key);
    if (!thing) return;
    for (const other of document.querySelectorAll("[data-about]")) {
      const about = other.dataset.about.split(" ");
      if (other.dataset.key === thing.dataset.key || about[0] === thing.dataset.path) other.classList.add("lit");
    }
  }
  document.addEventListener("htmx:after:swap", () => light(...pointed));
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);

  // Remedies are computed after the page has answered: line by line, worst first, until the page changes.
  let asked = "";
  async function askRemedies() {
    const ledger = document.getElementById("ledger");
    const nonce = ledger?.dataset.nonce;
    if (!nonce || nonce === asked) return;
    asked = nonce;
    const { studio, revision } = page().dataset;
    const lines = Math.min(Number(ledger.dataset.open), 12);
    for (let line = 0; line < lines && document.getElementById("ledger")?.dataset.nonce === nonce; line += 1) {
      const query = new URLSearchParams({ revision, set_id: ledger.dataset.set, only: ledger.dataset.only, start: line, count: 1 });
      const answer = await fetch(`/studios/${studio}/remedies?${query}`).catch(() => null);
      if (!answer?.ok || document.getElementById("ledger")?.dataset.nonce !== nonce) return;
      const found = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("[data-for]");
      const place = found && document.getElementById(`rem-${found.dataset.for}`);
      if (!place) continue;
      place.replaceChildren(...found.childNodes);
      window.htmx.process(place);
    }
  }
  // Those who listen hear how the ledger stands after each change.
  let told = "";
  document.addEventListener("htmx:after:swap", () => {
    const ledger = document.getElementById("ledger");
    if (!ledger || ledger.dataset.nonce === told) return;
    told = ledger.dataset.nonce;
    say("said", `${ledger.querySelector("h1").textContent}. ${ledger.querySelector(".counts").textContent}`);
  });
  document.addEventListener("DOMContentLoaded", askRemedies);
  document.addEventListener("htmx:after:swap", askRemedies);

  function openTarget() {
    const id = decodeURIComponent(location.hash.slice(1));
    const card = id ? document.getElementById(id) : null;
    if (card?.tagName === "DETAILS") card.open = true;
    card?.scrollIntoView({ block: "center" });
  }
  document.addEventListener("DOMContentLoaded", () => { restore(); openTarget(); });
  document.addEventListener("htmx:after:swap", () => {
    for (const form of document.querySelectorAll("form.field.wrong")) {
      const why = form.querySelector(".error")?.textContent;
      const input = form.querySelector("[aria-invalid]");
      if (!why || !input) continue;
      sessionStorage.setItem(draftKey(form, input.name), input.value);
      sessionStorage.setItem(`${draftKey(form, input.name)}:why`, why);
    }
    restore();
  });
  window.addEventListener("hashchange", openTarget);
  window.evrant = { headers, newId, page, say };
})();
