// A tour of a demo: a line at the foot of each of its pages, and the way to the next.
(() => {
  "use strict";
  const KEPT = "tour";
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-tour]");
    if (button) sessionStorage.setItem(KEPT, JSON.stringify({ key: button.dataset.tour, at: 0 }));
  }, true);
  function kept() {
    try { return JSON.parse(sessionStorage.getItem(KEPT) ?? "null"); } catch { return null; }
  }
  async function begin() {
    const tour = kept(), studio = document.getElementById("page")?.dataset.studio;
    document.querySelector(".tour")?.remove();
    if (!tour || !studio) return;
    if (tour.studio && tour.studio !== studio) return;
    const answer = await fetch("/tours").then((one) => one.json()).catch(() => null);
    const steps = answer?.[tour.key];
    if (!steps) return;
    tour.studio = studio;
    sessionStorage.setItem(KEPT, JSON.stringify(tour));
    show(tour, steps);
  }
  function show(tour, steps) {
    const step = steps[tour.at], bar = document.createElement("aside");
    bar.className = "tour";
    bar.setAttribute("aria-label", "Tour");
    const words = document.createElement("p"), count = document.createElement("b"), next = document.createElement("button"), end = document.createElement("button");
    count.textContent = `${tour.at + 1} of ${steps.length} `;
    words.setAttribute("role", "status");
    words.append(count, step.says);
    next.type = end.type = "button";
    next.className = "strong";
    end.className = "quiet";
    const last = tour.at + 1 >= steps.length;
    next.textContent = last ? "Done" : "Next";
    end.textContent = "End the tour";
    next.addEventListener("click", () => (last ? stop() : go(tour, steps, tour.at + 1)));
    end.addEventListener("click", stop);
    bar.append(words, next);
    if (!last) bar.append(end);
    document.body.append(bar);
    const here = document.getElementById("page").dataset.path.split("/")[0];
    if (here !== step.page) go(tour, steps, tour.at);
  }
  function go(tour, steps, at) {
    tour.at = at;
    sessionStorage.setItem(KEPT, JSON.stringify(tour));
    const link = [...document.querySelectorAll(".rail a, .set-tabs a")].find((one) => one.getAttribute("href").includes(`/${steps[at].page}`));
    location.assign(link ? link.href : `/studios/${tour.studio}/${steps[at].page}`);
  }
  function stop() {
    sessionStorage.removeItem(KEPT);
    document.querySelector(".tour")?.remove();
  }
  document.addEventListener("DOMContentLoaded", begin);
})();
