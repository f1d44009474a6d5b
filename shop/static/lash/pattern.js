// What the pattern's pages alone know: a line drawn by hand, corners dragged, the sliders.
(() => {
  "use strict";
  const SVG = "http://www.w3.org/2000/svg";
  const toPicture = (svg, event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const short = (point) => [Number(point.x.toFixed(1)), Number(point.y.toFixed(1))];
  const make = (name, kind, parent) => {
    const made = document.createElementNS(SVG, name);
    made.setAttribute("class", kind);
    parent.append(made);
    return made;
  };

  // ---- a line drawn around the wiped area; the server says where on the tooth it lies
  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest(".flank-form.is-drawing svg");
    if (!svg || event.target.closest(".s-handle")) return;
    event.preventDefault();
    const form = svg.closest("form");
    const points = [short(toPicture(svg, event))];
    const band = make("polyline", "band-rubber", svg);
    svg.setPointerCapture(event.pointerId);
    const draw = (move) => {
      // A busy browser hands over several places at once: every one of them was drawn.
      const every = move.getCoalescedEvents ? move.getCoalescedEvents() : [];
      (every.length ? every : [move]).forEach((place) => points.push(short(toPicture(svg, place))));
      band.setAttribute("points", points.join(" "));
    };
    svg.addEventListener("pointermove", draw);
    svg.addEventListener("pointerup", (up) => {
      svg.removeEventListener("pointermove", draw);
      points.push(short(toPicture(svg, up)));
      form.elements.line.value = JSON.stringify(points);
      form.elements.shape.value = "";
      drawn(form);
    }, { once: true });
  });
  // On the bench htmx sends it; a page of its own sends its form.
  const drawn = (form) => { if (form.hasAttribute("hx-post")) window.htmx.trigger(form, "patch-drawn"); else form.requestSubmit(); };

  // ---- a corner of a patch is dragged, or nudged with the arrow keys
  const shapeOf = (svg) => {
    const blobs = [];
    svg.querySelectorAll(".s-handle").forEach((handle) => {
      (blobs[handle.dataset.blob] ||= []).push([Number(handle.getAttribute("cx")), Number(handle.getAttribute("cy"))]);
    });
    return blobs;
  };
  const redraw = (svg) => {
    const band = svg.querySelector(".band-shape") || make("path", "band-shape", svg);
    band.setAttribute("d", shapeOf(svg).map((blob) => `M${blob.join(" L")}Z`).join(""));
  };
  const corrected = (svg) => {
    const holder = svg.closest("form");
    holder.elements.shape.value = JSON.stringify(shapeOf(svg));
    if (holder.matches(".flank-form")) {
      holder.elements.line.value = "";
      drawn(holder);
    }
  };
  const put = (handle, x, y) => { handle.setAttribute("cx", x); handle.setAttribute("cy", y); redraw(handle.ownerSVGElement); };
  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest(".s-handle");
    if (!handle) return;
    event.preventDefault();
    const svg = handle.ownerSVGElement;
    handle.setPointerCapture(event.pointerId);
    const drag = (move) => { const [x, y] = short(toPicture(svg, move)); put(handle, x, y); };
    handle.addEventListener("pointermove", drag);
    handle.addEventListener("pointerup", () => { handle.removeEventListener("pointermove", drag); corrected(svg); }, { once: true });
  });
  const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  const nudge = (event) => ARROWS[event.key] && ARROWS[event.key].map((step) => (event.shiftKey ? step * 10 : step));
  document.addEventListener("keydown", (event) => {
    const by = nudge(event);
    if (!by || !event.target.matches(".s-handle")) return;
    event.preventDefault();
    const handle = event.target;
    put(handle, Number(handle.getAttribute("cx")) + by[0], Number(handle.getAttribute("cy")) + by[1]);
  });
  document.addEventListener("keyup", (event) => {
    if (ARROWS[event.key] && event.target.matches(".found .s-handle")) corrected(event.target.ownerSVGElement);
    if (event.key === "Enter" && event.target.matches(".flank-form .s-handle")) corrected(event.target.ownerSVGElement);
  });

  // ---- sliders: one question at a time, always the newest
  let asking = false;
  let wanted = null;
  const ask = async () => {
    if (asking || !wanted) return;
    asking = true;
    const address = wanted;
    wanted = null;
    try {
      const answer = await fetch(address, { headers: { Accept: "application/json" } });
      const found = await answer.json();
      if (answer.ok) show(found);
    } catch { /* the drawing stays; the next move of a slider asks again */ }
    asking = false;
    ask();
  };
  const show = (found) => {
    ["drive", "coast"].forEach((name) => document.querySelector(`.flank-form[data-flank="${name}"] [data-role="computed"]`)?.setAttribute("d", found[name]));
    ["depth", "ring"].forEach((name) => { const shown = document.querySelector(`#shown-${name} b`); if (shown) shown.textContent = found[name]; });
    const lash = document.getElementById("shown-backlash");
    if (lash) lash.textContent = found.backlash;
    document.getElementById("shown-facts").textContent = found.facts;
    document.getElementById("sliders").dataset.shown = `${found.depth} ${found.ring}`;
  };
  document.addEventListener("input", (event) => {
    const sliders = event.target.closest("#sliders");
    if (!sliders) return;
    const place = new URLSearchParams({ depth: document.getElementById("slide-depth").value, ring: document.getElementById("slide-ring").value });
    wanted = `${document.querySelector("[data-pattern]").dataset.pattern}?${place}`;
    ask();
  });
})();
