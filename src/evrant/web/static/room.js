// The room by hand: put things on its plan, drag them, draw a wall to its length, type a figure at any moment.
(() => {
  "use strict";
  const NEAR = 9, START = 4, STEP = 0.01, BIG_STEP = 0.1, SETTLE_MS = 450, BY_HAND = 0.05, LEAST = 0.3;
  const NS = "http://www.w3.org/2000/svg";
  const plan = () => document.querySelector("#sheet.room-sheet");
  const base = () => `/studios/${window.evrant.page().dataset.studio}`;
  const round = (value) => Math.round(value * 1000) / 1000;
  const clamp = (value, low, high) => Math.max(low, Math.min(value, high));
  const holdOf = (group) => ({ id: group.id, ...JSON.parse(group.dataset.hold) });

  // --- between the room [m] and the drawing ---------------------------------------------------
  function frame() {
    const [scale, lowX, lowY, high] = JSON.parse(plan().dataset.frame);
    return { scale, lowX, lowY, high };
  }
  function toSheet(x, y) {
    const f = frame();
    return [(x - f.lowX) * f.scale, f.high - (y - f.lowY) * f.scale];
  }
  function toRoom(event) {
    const f = frame(), view = document.getElementById("view-plan");
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(view.getScreenCTM().inverse());
    // An inner svg's matrix already counts its own x and y.
    return [at.x / f.scale + f.lowX, (f.high - at.y) / f.scale + f.lowY];
  }
  const walls = () => JSON.parse(plan().dataset.walls).map(([id, ax, ay, bx, by]) => {
    const long = Math.hypot(bx - ax, by - ay), along = [(bx - ax) / long, (by - ay) / long];
    return { id, a: [ax, ay], b: [bx, by], long, along, inward: [-along[1], along[0]] };
  });
  function extent() {
    const xs = walls().map((wall) => wall.a[0]), ys = walls().map((wall) => wall.a[1]);
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  }
  function others(id) {
    return [...document.querySelectorAll("#sheet .hold")].filter((one) => one.id !== id)
      .map((one) => JSON.parse(one.dataset.hold)).filter((one) => one.kind === "floor" && one.rect[2] > 0 && one.rect[3] > 0);
  }
  const words = (metres) => window.evrant.length(metres, plan().dataset.units);

  // --- what is drawn while something moves ------------------------------------------------------
  const ghost = () => document.getElementById("room-ghost");
  function mark(tag, attributes, content = "") {
    const made = document.createElementNS(NS, tag);
    for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
    made.textContent = content;
    ghost().append(made);
    return made;
  }
  function stroke(from, to, kind) {
    const [x1, y1] = toSheet(...from), [x2, y2] = toSheet(...to);
    mark("line", { x1, y1, x2, y2, class: kind });
  }
  function figure(from, to, value, shift = [0, 0]) {
    if (value < 0.015) return;
    stroke([from[0] + shift[0], from[1] + shift[1]], [to[0] + shift[0], to[1] + shift[1]], "ghost-measure");
    const [x, y] = toSheet((from[0] + to[0]) / 2 + shift[0], (from[1] + to[1]) / 2 + shift[1]);
    mark("text", { x, y: y - 5, class: "readout", "text-anchor": "middle" }, words(value));
  }
  function outline(points) {
    mark("path", { d: `M${points.map(([x, y]) => toSheet(x, y).join(" ")).join("L")}Z`, class: "ghost-body" });
  }

  // --- what moves: the places of a hold under the hand ------------------------------------------
  function snap(value, sizes, marks) {
    const reach = NEAR / frame().scale;
    let best = { by: reach, value, wall: false };
    for (const size of sizes) for (const [at, wall] of marks) {
      const off = Math.abs(value + size - at);
      if (off < best.by) best = { by: off, value: at - size, wall };
    }
    return best;
  }
  function moveFloor(held, dx, dy, loose) {
    const [x, y, long, across] = held.rect, [lowX, lowY, highX, highY] = extent();
    let nx = clamp(x + dx, lowX, Math.max(highX - long, lowX)), ny = clamp(y + dy, lowY, Math.max(highY - across, lowY));
    held.firm = { x: false, y: false };
    if (!loose) {
      const upright = walls().filter((wall) => Math.abs(wall.along[0]) < 0.01).map((wall) => [wall.a[0], true]);
      const level = walls().filter((wall) => Math.abs(wall.along[1]) < 0.01).map((wall) => [wall.a[1], true]);
      const beside = others(held.id).map((one) => one.rect);
      const sx = snap(nx, [0, long], [...upright, ...beside.flatMap((r) => [[r[0], false], [r[0] + r[2], false]])]);
      const sy = snap(ny, [0, across], [...level, ...beside.flatMap((r) => [[r[1], false], [r[1] + r[3], false]])]);
      nx = clamp(sx.value, lowX, Math.max(highX - long, lowX));
      ny = clamp(sy.value, lowY, Math.max(highY - across, lowY));
      held.firm = { x: sx.wall, y: sy.wall };
    }
    held.now = { dx: nx - x, dy: ny - y };
    if (held.others?.length) { keepAllIn(held); return; }
    held.main = Math.abs(dx) >= Math.abs(dy) ? "x" : "y";
    held.changed = {};
    for (const [name, from] of Object.entries(held.fields)) {
      const by = name.endsWith("x") ? held.now.dx : held.now.dy;
      if (Math.abs(by) > 0.0005) held.changed[name] = [from + by, held.firm[name.endsWith("x") ? "x" : "y"]];
    }
  }
  function showFloor(held) {
    if (held.others?.length) showOthers(held);
    const [x, y, long, across] = held.rect, nx = x + held.now.dx, ny = y + held.now.dy;
    outline([[nx, ny], [nx + long, ny], [nx + long, ny + across], [nx, ny + across]]);
    const mx = nx + long / 2, my = ny + across / 2;
    const ways = [[[nx, my], [-1, 0]], [[nx + long, my], [1, 0]], [[mx, ny], [0, -1]], [[mx, ny + across], [0, 1]]];
    for (const [from, way] of ways) {
      const far = freeWay(held.id, from, way);
      if (far < 20) figure(from, [from[0] + way[0] * far, from[1] + way[1] * far], far);
    }
  }
  // How far it is from a point to the next wall or piece of furniture.
  function freeWay(id, from, way) {
    let best = 99;
    const sides = walls().map((wall) => [wall.a, wall.b]);
    for (const { rect: [x, y, long, across] } of others(id)) {
      const c = [[x, y], [x + long, y], [x + long, y + across], [x, y + across]];
      for (let i = 0; i < 4; i += 1) sides.push([c[i], c[(i + 1) % 4]]);
    }
    for (const [a, b] of sides) {
      const side = [b[0] - a[0], b[1] - a[1]], cross = way[0] * side[1] - way[1] * side[0];
      if (Math.abs(cross) < 1e-9) continue;
      const gap = [a[0] - from[0], a[1] - from[1]];
      const far = (gap[0] * side[1] - gap[1] * side[0]) / cross, share = (gap[0] * way[1] - gap[1] * way[0]) / cross;
      if (far > -0.001 && share > -0.001 && share < 1.001) best = Math.min(best, Math.max(far, 0));
    }
    return best;
  }
  // A door, window or socket: along its own wall, or over to the wall the hand is nearest to.
  function nearestWall(at, span, own) {
    let best = null;
    for (const wall of walls()) {
      if (wall.long < span) continue;
      const along = (at[0] - wall.a[0]) * wall.along[0] + (at[1] - wall.a[1]) * wall.along[1];
      const spot = [wall.a[0] + wall.along[0] * clamp(along, 0, wall.long), wall.a[1] + wall.along[1] * clamp(along, 0, wall.long)];
      const far = Math.hypot(at[0] - spot[0], at[1] - spot[1]) - (wall.id === own ? 0.25 : 0);
      if (!best || far < best.far) best = { wall, along, far };
    }
    return best;
  }
  function placeInWall(held, wall, start) {
    const most = wall.long - held.span;
    const ends = [[0, true], [wall.long, true]];
    for (const group of document.querySelectorAll("#sheet .hold")) {
      const one = JSON.parse(group.dataset.hold);
      if (group.id !== held.id && one.kind === "wall" && one.wall === wall.id) ends.push([one.offset, false], [one.offset + one.span, false]);
    }
    const found = held.loose ? { value: start, wall: false } : snap(start, [0, held.span], ends);
    const middle = Math.abs(found.value - most / 2) < NEAR / frame().scale / 2 ? most / 2 : found.value;
    held.at = { wall, offset: clamp(middle, 0, most) };
    held.main = "offset";
    held.changed = {};
    if (wall.id !== held.wall) held.changed.wall = [wall.id, null];
    if (wall.id !== held.wall || Math.abs(held.at.offset - held.offset) > 0.0005) held.changed.offset = [held.at.offset, found.wall];
  }
  function showInWall(held) {
    const { wall, offset } = held.at;
    const on = (along) => [wall.a[0] + wall.along[0] * along, wall.a[1] + wall.along[1] * along];
    if (held.span) stroke(on(offset), on(offset + held.span), "ghost-line");
    else { const [cx, cy] = toSheet(...on(offset)); mark("circle", { cx, cy, r: 6, class: "ghost-body" }); }
    const into = wall.inward.map((part) => part * 20 / frame().scale);
    figure(wall.a, on(offset), offset, into);
    figure(on(offset + held.span), wall.b, wall.long - offset - held.span, into);
  }
  function movePull(held, dx, dy) {
    const by = dx * held.way[0] + dy * held.way[1];
    const grid = plan().dataset.units === "imperial" ? 0.0254 / 2 : STEP;
    held.by = Math.max(Math.round((held.value + by) / grid) * grid, held.field === "niche_offset" ? 0 : LEAST) - held.value;
    held.main = held.field;
    held.changed = Math.abs(held.by) > 0.0005 ? { [held.field]: [held.value + held.by, false] } : {};
  }
  function showPull(held) {
    const shift = held.way.map((part) => part * held.by), [a, b] = held.line.map((p) => [p[0] + shift[0], p[1] + shift[1]]);
    stroke(a, b, "ghost-line");
    const [x, y] = toSheet((a[0] + b[0]) / 2, (a[1] + b[1]) / 2);
    mark("text", { x: x - held.way[0] * 34, y: y + held.way[1] * 26 + 5, class: "readout big", "text-anchor": "middle" }, words(held.value + held.by));
  }
  function moveCorner(held, dx, dy) {
    const spot = held.spots[held.index], count = held.spots.length;
    const near = [held.spots[(held.index + 1) % count], held.spots[(held.index + count - 1) % count]];
    const sx = snap(Math.max(spot[0] + dx, 0), [0], near.map((p) => [p[0], true])), sy = snap(Math.max(spot[1] + dy, 0), [0], near.map((p) => [p[1], true]));
    held.spot = [round(sx.value), round(sy.value)];
    held.changed = Math.hypot(held.spot[0] - spot[0], held.spot[1] - spot[1]) > 0.0005 ? { corner: [0, true] } : {};
  }
  function showCorner(held) {
    const count = held.spots.length;
    for (const next of [1, count - 1]) {
      const other = held.spots[(held.index + next) % count];
      stroke(held.spot, other, "ghost-line");
      figure(held.spot, other, Math.hypot(held.spot[0] - other[0], held.spot[1] - other[1]));
    }
  }
  // A wall of a round goes out or in along its normal: the walls beside it grow or shrink, its own turns stay.
  function moveSide(held, dx, dy) {
    const count = held.legs.length, before = (held.index + count - 1) % count, after = (held.index + 1) % count;
    const along = (way, of) => way[0] * of[0] + way[1] * of[1];
    const by = Math.round((dx * held.way[0] + dy * held.way[1]) / STEP) * STEP;
    const first = by / along(held.before, held.way), second = by / along(held.after, held.way);
    const [a, b] = [held.line[0].map((p, i) => p + held.before[i] * first), held.line[1].map((p, i) => p + held.after[i] * second)];
    const along_wall = held.line[1].map((p, i) => (p - held.line[0][i]) / held.lengths[held.index]);
    const lengths = { [before]: held.lengths[before] + first, [after]: held.lengths[after] - second, [held.index]: along([b[0] - a[0], b[1] - a[1]], along_wall) };
    if (Object.values(lengths).some((one) => one < LEAST)) return;
    Object.assign(held, { now: [a, b], grown: lengths, changed: Math.abs(by) > 0.0005 ? { walls: [by, false] } : {} });
  }
  function showSide(held) {
    if (!held.now) return;
    stroke(...held.now, "ghost-line");
    const count = held.legs.length, ends = [[held.corners[(held.index + count - 1) % count], held.now[0]], [held.now[1], held.corners[(held.index + 2) % count]]];
    for (const [from, to] of [...ends, held.now]) figure(from, to, Math.hypot(from[0] - to[0], from[1] - to[1]));
  }
  function legsOf(held) {
    return held.legs.map((leg, i) => {
      const now = held.grown[i];
      return now === undefined || Math.abs(now - held.lengths[i]) < 0.0005 ? leg : { ...leg, length: { value: round(now), pm: BY_HAND, origin: "guess" } };
    });
  }
  function move(held, dx, dy, at, loose) {
    held.loose = loose;
    if (held.kind === "floor") moveFloor(held, dx, dy, loose || held.others?.length > 0);
    else if (held.kind === "side") moveSide(held, dx, dy);
    else if (held.kind === "pull") movePull(held, dx, dy);
    else if (held.kind === "corner") moveCorner(held, dx, dy);
    else {
      const own = walls().find((wall) => wall.id === held.wall);
      const found = at ? nearestWall(at, held.span, held.wall) : null;
      const wall = found ? found.wall : own;
      if (!wall) return;
      const by = dx * wall.along[0] + dy * wall.along[1];
      const grip = held.grip ?? held.span / 2;
      placeInWall(held, wall, found && wall.id !== held.wall ? found.along - grip : held.offset + by);
    }
    draw(held);
  }
  function draw(held) {
    if (!ghost()) return;
    ghost().replaceChildren();
    for (const one of document.querySelectorAll("#sheet .hold.moving")) one.classList.remove("moving");
    document.getElementById(held.id)?.classList.add("moving");
    ({ floor: showFloor, pull: showPull, corner: showCorner, side: showSide, wall: showInWall })[held.kind](held);
    if (held.typed !== undefined) showTyped(held);
  }
  function showTyped(held) {
    const box = document.getElementById(held.id)?.getBBox();
    if (!box) return;
    mark("text", { x: box.x + box.width / 2, y: box.y + box.height / 2 + 5, class: "readout big typed", "text-anchor": "middle" },
      `${NAMES[held.main] ?? held.main.replaceAll("_", " ")}: ${held.typed}▏`);
  }
  const NAMES = { x: "along A–B", y: "off A–B", to_x: "along A–B", to_y: "off A–B", offset: "from the wall's start" };
  function clear() {
    ghost()?.replaceChildren();
    for (const one of document.querySelectorAll("#sheet .hold.moving")) one.classList.remove("moving");
  }

  // What is chosen together moves together: as far as all of it stays in the room, and as one edit.
  const many = new Set();
  function together(target) {
    if (many.has(target)) many.delete(target);
    else many.add(target);
    drawMany();
    window.evrant.say("said", many.size ? `${many.size} chosen together` : "None chosen together");
  }
  function drawMany() {
    for (const group of document.querySelectorAll("#sheet .hold")) group.classList.toggle("together", many.has(group.dataset.path));
  }
  function withOthers(held) {
    if (held.kind !== "floor" || !many.has(held.target)) return held;
    const seen = new Set([held.target]);
    held.others = [];
    for (const group of document.querySelectorAll("#sheet .hold")) {
      const one = holdOf(group);
      if (one.kind !== "floor" || !many.has(one.target) || seen.has(one.target)) continue;
      seen.add(one.target);
      held.others.push(one);
    }
    return held;
  }
  const shifted = (one, by) => Object.fromEntries(Object.entries(one.fields).map(([name, from]) => {
    const to = round(Math.max(from + (name.endsWith("x") ? by.dx : by.dy), 0));
    return [name, { value: to, pm: BY_HAND, origin: "guess" }];
  }));
  function keepAllIn(held) {
    const [lowX, lowY, highX, highY] = extent(), { now } = held;
    for (const { rect: [x, y, long, across] } of held.others) {
      now.dx = clamp(now.dx, Math.min(lowX - x, 0), Math.max(highX - long - x, 0));
      now.dy = clamp(now.dy, Math.min(lowY - y, 0), Math.max(highY - across - y, 0));
    }
    held.changed = Math.hypot(now.dx, now.dy) > 0.0005 ? { together: [Math.hypot(now.dx, now.dy), false] } : {};
  }
  function showOthers(held) {
    for (const { rect: [x, y, long, across] } of held.others) {
      const nx = x + held.now.dx, ny = y + held.now.dy;
      outline([[nx, ny], [nx + long, ny], [nx + long, ny + across], [nx, ny + across]]);
    }
  }

  // --- what is sent ----------------------------------------------------------------------------
  function post(values) {
    window.htmx.ajax("POST", `${base()}/edits`, { source: "#said", target: "#page", swap: "outerMorph", values });
  }
  // A place by the eye is a guess of five centimetres; against a wall it is known.
  function commit(held) {
    const names = Object.keys(held.changed ?? {});
    if (!names.length) { clear(); return; }
    if (held.kind === "corner") {
      const corners = held.spots.map((spot, i) => (i === held.index ? held.spot : spot)).map(([x, y]) => ({ x, y }));
      post({ edit: JSON.stringify({ verb: "reshape", footprint: { kind: "outline", corners } }) });
      return;
    }
    if (held.kind === "side") {
      post({ edit: JSON.stringify({ verb: "reshape", footprint: { kind: "walls", legs: legsOf(held) } }) });
      return;
    }
    if (held.others?.length) {
      const edits = [held, ...held.others].map((one) => ({ verb: "set", target: one.target, fields: shifted(one, held.now) }));
      window.evrant.say("said", `Moved: ${edits.length} things together`);
      post({ edit: JSON.stringify({ verb: "several", edits, label: `Move ${edits.length} things` }) });
      return;
    }
    const fields = {};
    for (const name of names) {
      const [value, firm] = held.changed[name];
      fields[name] = typeof value === "string" ? value : firm ? round(Math.max(value, 0)) : { value: round(Math.max(value, 0)), pm: BY_HAND, origin: "guess" };
    }
    window.evrant.say("said", `Moved: ${names.map((name) => `${name.replaceAll("_", " ")} ${typeof held.changed[name][0] === "number" ? words(held.changed[name][0]) : ""}`).join(", ")}`);
    post({ edit: JSON.stringify({ verb: "set", target: held.target, fields }) });
  }

  // --- pointer ---------------------------------------------------------------------------------
  let drag = null, drop = null, nudge = null, settle = 0;
  document.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || !event.isPrimary || !plan()) return;
    const thing = event.target.closest?.(".tray-thing");
    if (thing && event.pointerType === "mouse") {
      drop = { what: thing.dataset.what, x: event.clientX, y: event.clientY, begun: false, button: thing };
      return;
    }
    const group = event.target.closest?.("#sheet .hold");
    if (!group) return;
    event.preventDefault();
    closeMenu();
    finishNudge();
    group.focus({ preventScroll: true });
    if (event.shiftKey && holdOf(group).kind === "floor") { together(group.dataset.path); return; }
    if (!many.has(group.dataset.path)) { many.clear(); drawMany(); }
    const held = withOthers(holdOf(group)), at = toRoom(event);
    if (held.kind === "wall") {
      const wall = walls().find((one) => one.id === held.wall);
      if (wall) held.grip = (at[0] - wall.a[0]) * wall.along[0] + (at[1] - wall.a[1]) * wall.along[1] - held.offset;
    }
    drag = { held, at, x: event.clientX, y: event.clientY, begun: false };
  });
  window.addEventListener("pointermove", (event) => {
    if (!event.isPrimary) return;
    if (drop) { carry(event); return; }
    if (!drag) return;
    if (!drag.begun && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < START) return;
    drag.begun = true;
    document.documentElement.classList.add("dragging");
    const at = toRoom(event);
    move(drag.held, at[0] - drag.at[0], at[1] - drag.at[1], at, event.altKey);
  });
  window.addEventListener("pointerup", (event) => {
    if (!event.isPrimary) return;
    document.documentElement.classList.remove("dragging");
    if (drop) { letDrop(event); return; }
    if (!drag) return;
    const { held, begun } = drag;
    drag = null;
    choose(held.target);
    if (begun) commit(held);
  });
  window.addEventListener("pointercancel", cancel);
  function cancel() {
    drag = null;
    drop = null;
    nudge = null;
    clearTimeout(settle);
    document.documentElement.classList.remove("dragging");
    clear();
  }
  // From the tray onto the plan: what goes in a wall takes the nearest wall, all else stands where it is let go.
  const IN_WALL = ["door", "window", "socket", "slope"];
  function carry(event) {
    if (!drop.begun && Math.hypot(event.clientX - drop.x, event.clientY - drop.y) < START) return;
    drop.begun = true;
    document.documentElement.classList.add("dragging");
    if (!ghost()) return;
    ghost().replaceChildren();
    const at = toRoom(event);
    drop.at = null;
    if (!event.target.closest?.("#sheet-holder")) return;
    drop.at = at;
    const found = IN_WALL.includes(drop.what) ? nearestWall(at, 0, "") : null;
    if (found) {
      drop.wall = { id: found.wall.id, along: clamp(found.along, 0, found.wall.long) };
      const spot = [found.wall.a[0] + found.wall.along[0] * drop.wall.along, found.wall.a[1] + found.wall.along[1] * drop.wall.along];
      figure(found.wall.a, spot, drop.wall.along, found.wall.inward.map((part) => part * 20 / frame().scale));
      const [cx, cy] = toSheet(...spot);
      mark("circle", { cx, cy, r: 8, class: "ghost-body" });
    } else {
      const [cx, cy] = toSheet(...at);
      mark("circle", { cx, cy, r: 8, class: "ghost-body" });
    }
  }
  let skipClick = null;
  function letDrop(event) {
    const done = drop;
    drop = null;
    if (!done.begun) return;
    skipClick = done.button;
    setTimeout(() => { skipClick = null; }, 0);
    clear();
    if (!done.at) return;
    const place = done.wall ? { wall: done.wall.id, along: done.wall.along.toFixed(3) } : { x: done.at[0].toFixed(3), y: done.at[1].toFixed(3) };
    add({ action: "usual", what: done.what, ...place });
    event.preventDefault();
  }
  // A drag that ends over its own button is no press of it.
  document.addEventListener("click", (event) => {
    if (skipClick && event.target.closest?.(".tray-thing") === skipClick) { event.preventDefault(); event.stopImmediatePropagation(); }
  }, true);

  document.addEventListener("dblclick", (event) => {
    const group = event.target.closest?.("#sheet .hold");
    if (!group || !plan() || !holdOf(group).turns) return;
    event.preventDefault();
    post({ action: "turn", target: holdOf(group).target });
  });

  // --- the menu of a wall -----------------------------------------------------------------------
  let menuFor = null;
  const menu = () => document.getElementById("wall-menu");
  function openMenu(spot, along, x, y) {
    menuFor = { wall: spot.dataset.wall, along, spot };
    const box = menu().parentElement.getBoundingClientRect();
    menu().hidden = false;
    menu().style.left = `${clamp(x - box.left - 60, 4, box.width - 140)}px`;
    menu().style.top = `${clamp(y - box.top + 10, 4, box.height - 150)}px`;
    menu().querySelector("button").focus();
  }
  function closeMenu(back = false) {
    if (!menu() || menu().hidden) return;
    menu().hidden = true;
    if (back) menuFor?.spot.focus();
  }
  document.addEventListener("click", (event) => {
    if (!plan()) return;
    const item = event.target.closest?.("#wall-menu button");
    if (item) {
      closeMenu();
      add({ action: "usual", what: item.dataset.what, wall: menuFor.wall, along: menuFor.along.toFixed(3) });
      return;
    }
    const spot = event.target.closest?.("#sheet .wall-spot");
    if (!spot) { closeMenu(); return; }
    const at = toRoom(event), wall = walls().find((one) => one.id === spot.dataset.wall);
    const along = (at[0] - wall.a[0]) * wall.along[0] + (at[1] - wall.a[1]) * wall.along[1];
    openMenu(spot, clamp(along, 0, wall.long), event.clientX, event.clientY);
  });

  // --- keys -------------------------------------------------------------------------------------
  const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
  document.addEventListener("keydown", (event) => {
    if (!plan()) return;
    if (event.target.closest?.("#wall-menu")) { menuKey(event); return; }
    if (event.key === "Escape" && (drag || nudge || drop)) { event.preventDefault(); cancel(); return; }
    const spot = event.target.closest?.("#sheet .wall-spot");
    if (spot && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      const box = spot.getBoundingClientRect();
      openMenu(spot, Number(spot.dataset.middle), box.left + box.width / 2, box.top + box.height / 2);
      return;
    }
    const group = event.target.closest?.("#sheet .hold");
    if (!group || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape" && many.size) { event.preventDefault(); many.clear(); drawMany(); return; }
    if (event.key === "Enter" && event.shiftKey && holdOf(group).kind === "floor") { event.preventDefault(); together(group.dataset.path); return; }
    const held = drag?.held ?? nudge ?? withOthers(holdOf(group));
    if (typing(event, held)) { event.preventDefault(); return; }
    if (event.key === "Enter" || event.key === " ") { event.preventDefault(); finishNudge(); choose(held.target, true); return; }
    if (event.key.toLowerCase() === "t" && held.turns) { event.preventDefault(); finishNudge(); post({ action: "turn", target: held.target }); return; }
    if (event.key === "Delete" && held.target !== "room/footprint") {
      event.preventDefault();
      post({ edit: JSON.stringify({ verb: "remove", target: held.target }) });
      return;
    }
    const way = WAYS[event.key];
    if (!way || drag) return;
    event.preventDefault();
    if (!nudge || nudge.id !== group.id) { finishNudge(); nudge = { ...held, by: [0, 0] }; }
    const step = event.shiftKey ? BIG_STEP : STEP;
    nudge.path = [(nudge.path?.[0] ?? 0) + way[0] * step, (nudge.path?.[1] ?? 0) + way[1] * step];
    move(nudge, ...nudge.path, null, true);
    clearTimeout(settle);
    settle = setTimeout(finishNudge, SETTLE_MS);
  });
  function menuKey(event) {
    const items = [...menu().querySelectorAll("button")], at = items.indexOf(document.activeElement);
    if (event.key === "Escape") { event.preventDefault(); closeMenu(true); }
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) { event.preventDefault(); items[(at + step + items.length) % items.length].focus(); }
  }
  function finishNudge() {
    clearTimeout(settle);
    if (!nudge || nudge.typed !== undefined) return;
    const held = nudge;
    nudge = null;
    commit(held);
  }
  window.addEventListener("pagehide", finishNudge);
  document.addEventListener("focusout", (event) => {
    if (nudge && event.target.id === nudge.id && event.relatedTarget) { if (nudge.typed === undefined) finishNudge(); else cancel(); }
  });
  // A figure typed while a thing is held: shown beside it, taken with Enter.
  function typing(event, held) {
    if (held.kind === "corner" || held.kind === "side" || held.others?.length) return false;
    const begun = held.typed !== undefined;
    if (begun && event.key === "Enter") { sendTyped(held); return true; }
    if (begun && event.key === "Backspace") held.typed = held.typed.slice(0, -1);
    else if (event.key.length === 1 && (begun ? /[0-9.,'"\/ cmftin-]/i : /[0-9.,]/).test(event.key)) held.typed = (held.typed ?? "") + event.key;
    else return false;
    held.main ??= held.kind === "pull" ? held.field : held.kind === "wall" ? "offset" : Object.keys(held.fields)[0];
    if (!drag) nudge = held;
    clearTimeout(settle);
    if (!held.changed) move(held, 0, 0, null, true);
    else draw(held);
    return true;
  }
  function sendTyped(held) {
    const values = { target: held.target, [held.main]: held.typed };
    drag = null;
    nudge = null;
    clear();
    choose(held.target);
    post(values);
  }

  // --- what is chosen: its figures under the plan --------------------------------------------------
  let chosen = null, known = null;
  function cardOf(target) {
    if (target === "room/footprint") return null;
    return document.getElementById(`card-${target.replaceAll("/", "-")}`);
  }
  function choose(target, enter = false) {
    chosen = target;
    const panel = paintChosen(true);
    if (!enter || !panel) return;
    const first = (cardOf(target) ?? panel).querySelector("form.field input:not([type=hidden]), form.field select");
    first?.focus();
  }
  function paintChosen(open) {
    for (const one of document.querySelectorAll("#sheet .hold.chosen")) one.classList.remove("chosen");
    if (!chosen) return null;
    for (const one of document.querySelectorAll("#sheet .hold")) if (one.dataset.path === chosen && chosen !== "room/footprint") one.classList.add("chosen");
    const card = cardOf(chosen), panel = card ? card.closest(".strip-panel") : document.getElementById("panel-shape");
    if (!panel) return null;
    if (open) window.evrant.choosePanel(panel.dataset.for);
    for (const other of document.querySelectorAll(".strip-panel.only")) if (other !== panel || !card) other.classList.remove("only");
    for (const other of document.querySelectorAll(".thing-card.is-chosen")) other.classList.remove("is-chosen");
    if (card) { card.open = true; card.classList.add("is-chosen"); panel.classList.add("only"); }
    return panel;
  }
  // Choosing a panel by its tab shows all of it again.
  document.addEventListener("click", (event) => {
    if (!plan() || !event.target.closest?.("#strip [role=tab]")) return;
    chosen = null;
    for (const one of document.querySelectorAll(".strip-panel.only")) one.classList.remove("only");
    paintChosen(false);
  });
  function add(values) {
    known = new Set([...document.querySelectorAll("#sheet .hold")].map((one) => one.id));
    post(values);
  }
  document.addEventListener("htmx:before:request", (event) => {
    if (plan() && event.detail.ctx.sourceElement?.matches?.(".tray-thing")) known = new Set([...document.querySelectorAll("#sheet .hold")].map((one) => one.id));
  });
  function begin() {
    if (!plan()) return;
    clear();
    drawMany();
    if (known) {
      const made = [...document.querySelectorAll("#sheet .hold")].find((one) => !known.has(one.id));
      if (made) { known = null; chosen = made.dataset.path; paintChosen(true); made.focus({ preventScroll: true }); return; }
    }
    if (chosen) paintChosen(false);
    else if (!document.querySelector("#strip [aria-selected=true]")) window.evrant.choosePanel("shape");
  }
  document.addEventListener("DOMContentLoaded", () => { if (plan() || document.querySelector(".room-desk")) { if (!location.hash) window.evrant.choosePanel("shape"); begin(); } });
  document.addEventListener("htmx:after:swap", begin);
})();
