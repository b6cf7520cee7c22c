// Requests, drafts, undo keys, and lighting up what a ledger line is about.
(() => {
  "use strict";
  const page = () => document.getElementById("page");
  const token = () => document.querySelector('meta[name="evrant-token"]').content;
  const say = (id, words) => {
    const at = document.getElementById(id);
    if (!at) return;
    at.textContent = words;
    if (id === "saved") at.classList.toggle("short", /not saved/.test(words));
  };

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

  // One action has one edit_id, however often it is sent: a second click while the first is on its way is the same.
  document.addEventListener("htmx:config:request", (event) => {
    const { ctx } = event.detail;
    if (ctx.request.method === "GET") return;
    if (ctx.request.body?.set && !ctx.request.body.has("edit_id")) {
      const source = ctx.sourceElement?.closest?.("form") ?? ctx.sourceElement;
      const sticky = source && source.id !== "said";
      if (sticky) source.dataset.editId ??= newId();
      ctx.request.body.set("edit_id", sticky ? source.dataset.editId : newId());
    }
    ctx.fetch = stubborn;
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
    const source = ctx.sourceElement?.closest?.("form") ?? ctx.sourceElement;
    if (status >= 500 || status === 0) { keep(ctx); return; }
    if (status !== 204 && source) delete source.dataset.editId;
    if (status < 300) {
      forget(ctx.sourceElement);
      pause = 1500;
      const notice = document.getElementById("notice");
      if (notice && !outbox.length && !waiting.size) notice.replaceChildren();
    }
    tellSaved(status < 300);
    if ([403, 413, 421].includes(status)) complain(ctx.text);
  });
  document.addEventListener("htmx:error", (event) => {
    const ctx = event.detail?.ctx;
    if (ctx && ctx.request?.method !== "GET" && !ctx.response) keep(ctx);
  });

  // What could not be saved is kept here, marked where it was typed, and sent again by itself until it is taken.
  const OUTBOX = () => `outbox:${page()?.dataset.studio ?? ""}`;
  let outbox = [], retry = 0, wait = 1500;
  function tellSaved(good) {
    const left = outbox.length + waiting.size;
    say("saved", left ? `${left} not saved, trying again` : good ? "saved" : "not saved");
  }
  function store() {
    if (outbox.length) sessionStorage.setItem(OUTBOX(), JSON.stringify(outbox));
    else sessionStorage.removeItem(OUTBOX());
  }
  function keep(ctx) {
    const address = ctx.request.action ?? "", body = ctx.request.body;
    const form = ctx.sourceElement?.closest?.("form.field");
    if (!/\/edits$/.test(new URL(address, location.href).pathname) || !body?.entries || !page()?.dataset.studio) {
      keepWaiting(ctx.sourceElement?.closest?.("form") ?? ctx.sourceElement);
      return;
    }
    const entries = [...body.entries()].filter(([, value]) => typeof value === "string");
    const id = body.get("edit_id");
    const mark = form?.id ?? "";
    outbox = outbox.filter((one) => one.id !== id && !(mark && one.mark === mark));
    outbox.push({ id, mark, address: new URL(address, location.href).pathname, entries, headers: headers() });
    if (form) form.dataset.editId = id;
    store();
    markUnsaved();
    document.getElementById("ledger")?.classList.remove("previewing");
    tellSaved(false);
    complain("The last change is not saved: the server does not answer. It is sent again until it does.", true);
    clearTimeout(retry);
    retry = setTimeout(sendAgain, wait);
  }
  // A file, a copy, a restored state: the form or button itself is the draft, and is pressed again once the server answers.
  const waiting = new Set();
  let press = 0, pause = 1500;
  function keepWaiting(source) {
    if (!source) return;
    waiting.add(source);
    tellSaved(false);
    complain("That is not done: the server does not answer. It is asked again until it does.", true);
    clearTimeout(press);
    press = setTimeout(pressAgain, pause);
  }
  async function pressAgain() {
    pause = Math.min(pause * 1.6, 20000);
    const there = await fetch("/bare").then((answer) => answer.ok, () => false);
    if (!there) { press = setTimeout(pressAgain, pause); return; }
    for (const source of [...waiting]) {
      waiting.delete(source);
      if (!source.isConnected) continue;
      if (source.requestSubmit) source.requestSubmit();
      else source.click();
    }
  }
  function markUnsaved() {
    for (const one of outbox) if (one.mark) document.getElementById(one.mark)?.classList.add("unsaved");
  }
  async function sendAgain() {
    while (outbox.length) {
      const [one] = outbox;
      let answer = null;
      try {
        answer = await fetch(one.address, {
          method: "POST",
          headers: { ...one.headers, "X-Evrant-Token": token(), "HX-Request": "true" },
          body: new URLSearchParams(one.entries),
        });
      } catch { /* still away */ }
      if (!answer || answer.status >= 500) {
        wait = Math.min(wait * 1.6, 20000);
        retry = setTimeout(sendAgain, wait);
        tellSaved(false);
        return;
      }
      outbox.shift();
      store();
      if (answer.status >= 400) await placeRefusal(answer);
      else for (const [name] of one.entries) sessionStorage.removeItem(`draft:${page().dataset.studio}:${one.mark}:${name}`);
    }
    wait = 1500;
    for (const form of document.querySelectorAll("form.field.unsaved")) form.classList.remove("unsaved");
    tellSaved(true);
    if (!document.querySelector("#notice .conflict, form.field.wrong")) document.getElementById("notice")?.replaceChildren();
    fresh();
  }
  async function placeRefusal(answer) {
    const goal = document.querySelector(answer.headers.get("HX-Retarget") ?? "#notice");
    if (!goal) return;
    const made = document.createElement("template");
    made.innerHTML = await answer.text();
    if (answer.headers.get("HX-Reswap") === "outerHTML") goal.replaceWith(made.content);
    else goal.replaceChildren(made.content);
    window.htmx.process(document.body);
  }
  function fresh() {
    const here = page();
    if (!here?.dataset.studio) return;
    window.htmx.ajax("GET", `/studios/${here.dataset.studio}/${here.dataset.path}`, { source: "#said", target: "#page", swap: "outerMorph" });
  }
  function letGo() {
    outbox = [];
    store();
    for (const key of Object.keys(sessionStorage)) if (key.startsWith(`draft:${page()?.dataset.studio}:`)) sessionStorage.removeItem(key);
    location.reload();
  }
  document.addEventListener("click", (event) => { if (event.target.closest?.("[data-let-go]")) letGo(); });
  window.addEventListener("online", () => {
    if (outbox.length) { clearTimeout(retry); sendAgain(); }
    if (waiting.size) { clearTimeout(press); pressAgain(); }
  });
  window.addEventListener("pageshow", (event) => {
    if (event.persisted) for (const one of document.querySelectorAll("[data-edit-id]")) delete one.dataset.editId;
  });

  // A button may name the page that shows what it made.
  document.addEventListener("htmx:after:request", (event) => {
    const { ctx } = event.detail;
    const goal = ctx.sourceElement?.dataset?.goto;
    if (goal && ctx.response?.status === 200) location.assign(goal);
  });

  function complain(words, unsaved = false) {
    const note = document.createElement("div");
    note.className = "notice";
    const line = document.createElement("p");
    line.textContent = words;
    note.append(line);
    if (unsaved) {
      const drop = document.createElement("button");
      drop.type = "button";
      drop.className = "quiet";
      drop.dataset.letGo = "";
      drop.textContent = "Let it go and show what is saved";
      note.append(drop);
    }
    document.getElementById("notice")?.replaceChildren(note);
  }

  // What is typed but not yet taken is kept until it is.
  const draftKey = (form, name) => `draft:${page()?.dataset.studio ?? "new"}:${form.id}:${name}`;
  document.addEventListener("input", (event) => {
    const form = event.target.closest?.("form.field, #new-studio");
    if (form) delete form.dataset.editId;
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
  // A draft that a reload put back, and that was never refused, is sent as if it had just been typed.
  function sendDrafts() {
    try { outbox = JSON.parse(sessionStorage.getItem(OUTBOX()) ?? "[]"); } catch { outbox = []; }
    markUnsaved();
    for (const form of document.querySelectorAll("form.field.unsaved")) {
      if (!outbox.some((one) => one.mark === form.id)) form.dispatchEvent(new Event("change", { bubbles: true }));
    }
    if (outbox.length) { tellSaved(false); sendAgain(); }
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

  // On a narrow screen the step and the set one is in are brought into view.
  function bringIntoView() {
    for (const here of document.querySelectorAll(".rail a[aria-current], .set-tabs a[aria-current]")) {
      const strip = here.parentElement;
      if (strip.scrollWidth > strip.clientWidth) strip.scrollLeft = here.offsetLeft - (strip.clientWidth - here.offsetWidth) / 2;
    }
  }
  document.addEventListener("DOMContentLoaded", bringIntoView);
  document.addEventListener("htmx:after:swap", bringIntoView);

  // What a search says is said once, when it changes; the figures beside it may run on in silence.
  let heard = "";
  document.addEventListener("htmx:after:swap", () => {
    const state = document.querySelector("[data-say]"), words = state?.dataset.say ?? "";
    if (words && words !== heard) say("said", words);
    heard = words;
  });

  // Each question of the survey puts the cursor where its answer is typed.
  let question = "";
  function askNext() {
    const ask = document.querySelector(".survey .ask");
    if (!ask || page().dataset.path === question) return;
    question = page().dataset.path;
    ask.querySelector("form.field input:not([type=hidden]), form.field select, form.field textarea")?.focus({ preventScroll: true });
  }
  document.addEventListener("DOMContentLoaded", askNext);
  document.addEventListener("htmx:after:swap", askNext);

  // A link to a field opens what holds it and puts the cursor there; `words` choose among empty fields.
  const WORDS = "evrant:enter";
  function openTarget() {
    const id = decodeURIComponent(location.hash.slice(1));
    const words = sessionStorage.getItem(WORDS) ?? "";
    sessionStorage.removeItem(WORDS);
    const panel = id && window.evrant.choosePanel?.(id);
    const holder = panel || (id ? document.getElementById(id) : words ? document.getElementById("main") : null);
    if (!holder) return;
    if (holder.tagName === "DETAILS") holder.open = true;
    const field = fieldFor(holder, words);
    for (let at = field; at && at !== document.body; at = at.parentElement) if (at.tagName === "DETAILS") at.open = true;
    holder.scrollIntoView({ block: "center" });
    if (!field) return;
    field.scrollIntoView({ block: "center" });
    field.focus({ preventScroll: true });
  }
  function fieldFor(holder, words) {
    const fields = [...holder.querySelectorAll("form.field input:not([type=hidden]), form.field select, form.field textarea")]
      .filter((one) => !one.closest(".sure"));
    if (holder.matches("form.field")) return fields[0] ?? null;
    if (!words) return fields.find((one) => !one.value) ?? null;
    const said = new Set(words.toLowerCase().match(/[a-z]{3,}/g) ?? []);
    const score = (one) => {
      const label = one.closest("form").querySelector("label")?.textContent.toLowerCase().match(/[a-z]{3,}/g) ?? [];
      const hits = label.filter((word) => said.has(word) || said.has(`${word}s`)).length;
      return hits * 4 - label.length * 0.1 + (one.value ? 0 : 2);
    };
    return fields.sort((one, other) => score(other) - score(one))[0] ?? null;
  }
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[href*='#'], a[data-enter]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    const goal = new URL(link.href, location.href);
    if (link.dataset.enter) sessionStorage.setItem(WORDS, link.dataset.enter);
    if (goal.pathname !== location.pathname) return;
    event.preventDefault();
    if (goal.hash && goal.hash !== location.hash) history.pushState(null, "", goal.hash);
    openTarget();
  });
  document.addEventListener("DOMContentLoaded", () => { restore(); setTimeout(sendDrafts, 50); openTarget(); });
  document.addEventListener("htmx:after:swap", () => {
    for (const form of document.querySelectorAll("form.field.wrong")) {
      const why = form.querySelector(".error")?.textContent;
      const input = form.querySelector("[aria-invalid]");
      if (!why || !input) continue;
      sessionStorage.setItem(draftKey(form, input.name), input.value);
      sessionStorage.setItem(`${draftKey(form, input.name)}:why`, why);
    }
    restore();
    markUnsaved();
  });
  window.addEventListener("hashchange", openTarget);
  // A length in the studio's units, as a person says it.
  function length(metres, units, fine = false) {
    if (units !== "imperial") return fine && metres < 1 ? `${Math.round(metres * 1000) / 10} cm` : `${metres.toFixed(2)} m`;
    const eighths = Math.round(metres / 0.0254 * 8), feet = Math.floor(eighths / 96), left = eighths - feet * 96;
    let top = left % 8, under = 8;
    while (top && top % 2 === 0) { top /= 2; under /= 2; }
    const whole = Math.floor(left / 8), part = top ? `${top}/${under}` : "";
    const inches = `${whole || !part ? whole : ""}${whole && part ? " " : ""}${part}"`;
    return feet ? `${feet}' ${inches}` : inches;
  }
  window.evrant = { headers, length, newId, page, say, tellSaved };
})();
