// A photo of a print: places pointed at under the magnifier, two fingers to zoom, a finger that wipes or paints.
(() => {
  "use strict";
  const form = document.querySelector("[data-corners]");
  if (!form) return;
  const SVG = "http://www.w3.org/2000/svg";
  const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  const svg = form.querySelector(".photo-svg");
  const lens = form.querySelector(".photo-lens");
  const names = form.dataset.names.split(",");
  const needed = 4;
  const width = Number(svg.dataset.width);
  const height = Number(svg.dataset.height);
  const handles = svg.querySelector(".corner-handles");
  const overlay = svg.querySelector(".photo-overlay");
  // An address may hold anything: what is no list of places is none.
  const listed = (text) => {
    try {
      const found = JSON.parse(text);
      return Array.isArray(found) ? found : [];
    } catch {
      return [];
    }
  };
  const corners = listed(form.elements.corners.value).filter((one) => Array.isArray(one) && one.every(Number.isFinite)).slice(0, names.length);
  const strokes = listed(form.elements.strokes.value);
  const done = corners.map(() => "corner");
  const view = { x: 0, y: 0, w: width, h: height };
  const fingers = new Map();
  let gesture = null;

  const make = (name, kind, parent) => {
    const made = document.createElementNS(SVG, name);
    made.setAttribute("class", kind);
    parent.append(made);
    return made;
  };
  const toPicture = (event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return [Math.min(Math.max(point.x, 0), width), Math.min(Math.max(point.y, 0), height)];
  };
  // Size of a finger in the picture's points, whatever the zoom.
  const reach = () => view.w / 26;
  const mode = () => form.querySelector("input[name=hand]:checked").value;

  // ---- what is in sight
  const showView = () => {
    svg.setAttribute("viewBox", `${view.x} ${view.y} ${view.w} ${view.h}`);
    handles.querySelectorAll(".corner-ring").forEach((ring) => ring.setAttribute("r", reach() / 2));
    handles.querySelectorAll(".corner-name").forEach((words) => {
      words.setAttribute("y", -reach() * 0.7);
      words.setAttribute("font-size", reach() * 0.62);
    });
  };
  const zoom = (by, [x, y]) => {
    const w = Math.min(Math.max(view.w / by, width / 12), width);
    const share = w / view.w;
    view.x = Math.min(Math.max(x - (x - view.x) * share, 0), width - w);
    view.y = Math.min(Math.max(y - (y - view.y) * share, 0), height - view.h * share);
    view.h *= share;
    view.w = w;
    showView();
  };
  const look = ([x, y]) => {
    const r = reach() * 0.9;
    lens.classList.add("is-shown");
    // Away from the finger that it shows.
    lens.classList.toggle("is-left", x > view.x + view.w / 2 && y < view.y + view.h / 2);
    lens.setAttribute("viewBox", `${x - r} ${y - r} ${2 * r} ${2 * r}`);
    lens.querySelector(".lens-cross").setAttribute("d", `M${x - r} ${y}H${x + r}M${x} ${y - r}V${y + r}`);
  };

  // ---- places pointed at
  const say = () => {
    const next = document.getElementById("corner-next");
    const isRefused = document.querySelector("#found .wrong") !== null;
    if (corners.length < needed) next.textContent = `Tap the ${names[corners.length]} corner.`;
    else if (isRefused) next.textContent = "Not read: what to do stands beside the photo or under it.";
    else if (document.querySelector("#found .note")) next.textContent = "Read, with a question: it stands beside the photo or under it.";
    else if (corners.length < names.length) next.textContent = `For a surer height tap the ${names[corners.length]} too, or drag a corner.`;
    else next.textContent = "Drag a place to put it right; the patch follows.";
    handles.classList.toggle("is-whole", corners.length >= needed);
    svg.querySelector(".corner-frame").setAttribute("points", corners.slice(0, needed).join(" "));
    form.querySelector("[data-undo]").disabled = !done.length;
  };
  const settle = () => {
    const whole = corners.length >= names.length ? names.length : needed;
    form.elements.corners.value = JSON.stringify(corners.slice(0, whole));
    form.elements.strokes.value = JSON.stringify(strokes);
    if (corners.length === needed || corners.length === names.length) window.htmx.trigger(form, "corners-set");
  };
  const place = (at, [x, y]) => {
    corners[at] = [Math.min(Math.max(x, 0), width), Math.min(Math.max(y, 0), height)];
    handles.children[at].setAttribute("transform", `translate(${corners[at][0]} ${corners[at][1]})`);
    look(corners[at]);
    say();
  };
  const add = (at) => {
    const handle = make("g", "corner-handle", handles);
    handle.setAttribute("tabindex", "0");
    handle.setAttribute("role", "button");
    handle.setAttribute("aria-label", names[at]);
    make("circle", "corner-ring", handle);
    const words = make("text", "corner-name", handle);
    words.setAttribute("text-anchor", "middle");
    words.textContent = names[at];
    handle.addEventListener("focus", () => look(corners[at]));
    handle.addEventListener("keydown", (event) => {
      const step = ARROWS[event.key];
      if (!step) return;
      event.preventDefault();
      const by = event.shiftKey ? 10 : 1;
      place(at, [corners[at][0] + step[0] * by, corners[at][1] + step[1] * by]);
    });
    handle.addEventListener("keyup", (event) => { if (ARROWS[event.key]) settle(); });
    showView();
  };
  const remove = () => {
    corners.pop();
    handles.lastElementChild.remove();
    say();
  };
  const near = ([x, y]) => {
    if (corners.length < needed) return -1;
    return corners.findIndex(([a, b]) => Math.hypot(a - x, b - y) < reach() * 0.7);
  };

  // ---- one gesture: a place put down and dragged, a place moved, a finger's way
  const begin = (point, target) => {
    const what = mode();
    if (what === "drop") {
      if (!target.closest(".found-patch")) return null;
      strokes.push({ drops: point });
      done.push("stroke");
      settle();
      return null;
    }
    if (what !== "point") {
      const line = make("polyline", `stroke-${what}`, overlay);
      line.setAttribute("stroke-width", reach() * 0.8);
      return { kind: "stroke", line, stroke: { wipes: what === "wipe", radius: reach() * 0.4, points: [point] } };
    }
    const at = near(point);
    if (at >= 0) return { kind: "corner", at, before: corners[at] };
    if (corners.length >= names.length) return null;
    corners.push(point);
    add(corners.length - 1);
    place(corners.length - 1, point);
    return { kind: "new", at: corners.length - 1 };
  };
  const go = (point) => {
    if (!gesture) return;
    if (gesture.kind !== "stroke") { place(gesture.at, point); return; }
    if (gesture.stroke.points.length < 390) gesture.stroke.points.push(point);
    gesture.line.setAttribute("points", gesture.stroke.points.join(" "));
    look(point);
  };
  const end = () => {
    if (!gesture) return;
    if (gesture.kind === "stroke") { strokes.push(gesture.stroke); done.push("stroke"); }
    if (gesture.kind === "new") { done.push("corner"); handles.children[gesture.at].focus({ preventScroll: true }); }
    gesture = null;
    if (corners.length >= needed) lens.classList.remove("is-shown");
    say();
    settle();
  };
  // A second finger makes a zoom of it: what the first had begun is taken back.
  const cancel = () => {
    if (!gesture) return;
    if (gesture.kind === "stroke") gesture.line.remove();
    if (gesture.kind === "new") remove();
    if (gesture.kind === "corner") place(gesture.at, gesture.before);
    gesture = null;
  };
  svg.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    svg.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
    if (fingers.size > 1) { cancel(); return; }
    gesture = begin(toPicture(event), event.target);
  });
  svg.addEventListener("pointermove", (event) => {
    if (!fingers.has(event.pointerId)) {
      if (corners.length < needed) look(toPicture(event));
      return;
    }
    if (fingers.size === 2) {
      const [one, two] = [...fingers.values()];
      const apart = Math.hypot(one[0] - two[0], one[1] - two[1]);
      const middle = toPicture({ clientX: (one[0] + two[0]) / 2, clientY: (one[1] + two[1]) / 2 });
      fingers.set(event.pointerId, [event.clientX, event.clientY]);
      const [a, b] = [...fingers.values()];
      const now = toPicture({ clientX: (a[0] + b[0]) / 2, clientY: (a[1] + b[1]) / 2 });
      view.x = Math.min(Math.max(view.x + middle[0] - now[0], 0), width - view.w);
      view.y = Math.min(Math.max(view.y + middle[1] - now[1], 0), height - view.h);
      if (apart > 4) zoom(Math.hypot(a[0] - b[0], a[1] - b[1]) / apart, middle);
      return;
    }
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
    go(toPicture(event));
  });
  const lift = (event) => {
    fingers.delete(event.pointerId);
    if (!fingers.size) end();
  };
  svg.addEventListener("pointerup", lift);
  svg.addEventListener("pointercancel", (event) => { fingers.delete(event.pointerId); cancel(); });
  svg.addEventListener("wheel", (event) => { event.preventDefault(); zoom(event.deltaY < 0 ? 1.25 : 0.8, toPicture(event)); }, { passive: false });

  // ---- buttons
  form.addEventListener("click", (event) => {
    const button = event.target.closest("button[type=button]");
    if (!button) return;
    if (button.dataset.zoom) zoom(Number(button.dataset.zoom), [view.x + view.w / 2, view.y + view.h / 2]);
    if ("undo" in button.dataset) {
      const last = done.pop();
      if (last === "corner") remove();
      if (last === "stroke") strokes.pop();
      say();
      settle();
      if (corners.length < needed) overlay.replaceChildren();
    }
    if ("swap" in button.dataset) {
      [[0, 1], [3, 2]].forEach(([a, b]) => { const kept = corners[a]; place(a, corners[b]); place(b, kept); });
      settle();
    }
    if (button.dataset.flank) {
      form.elements.flank.value = button.dataset.flank;
      settle();
    }
    if ("mirror" in button.dataset) {
      form.elements.pose.value = form.elements.pose.value === "1" ? "0" : "1";
      settle();
    }
  });

  // ---- what was found, drawn on the photo itself
  const draw = () => {
    const told = document.querySelector("#found")?.dataset.overlay;
    overlay.replaceChildren();
    if (!told) return;
    const lines = JSON.parse(told);
    make("path", "found-grid", overlay).setAttribute("d", lines.grid);
    make("path", "found-frame", overlay).setAttribute("d", lines.frame);
    lines.others.forEach((d) => make("path", "found-other", overlay).setAttribute("d", d));
    lines.patches.forEach((d) => make("path", "found-patch", overlay).setAttribute("d", d));
  };
  document.addEventListener("htmx:afterSwap", () => { draw(); say(); });

  corners.forEach((corner, at) => { add(at); place(at, corner); });
  showView();
  say();
  draw();
})();
