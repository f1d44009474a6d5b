// Nothing typed is lost: text and Enter that come while an answer is under way wait and are sent in order.
(() => {
  "use strict";
  const KEPT = "lash-typed";
  const { waitingWords, withUnit } = globalThis.lashLogic;
  let underWay = false;
  const waiting = [];

  const form = () => document.getElementById("reading");
  const field = () => document.querySelector("#reading input.value");
  const line = () => document.getElementById("waiting");

  const show = () => {
    const words = waitingWords(waiting);
    line().textContent = words;
    line().hidden = !words;
  };

  // Before the form's own submit is seen by htmx: while an answer is under way it only joins the queue.
  document.addEventListener("submit", (event) => {
    if (event.target.id !== "reading" || !underWay) return;
    const input = field();
    if (!input) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (input.value.trim()) waiting.push(input.value);
    input.value = "";
    show();
  }, true);

  // What was sent is in the request by now: the field is free for the next one.
  document.addEventListener("htmx:beforeSend", (event) => {
    if (event.target.id !== "reading") return;
    const input = field();
    underWay = true;
    if (input) { input.dataset.sent = input.value; input.value = ""; }
  });

  // Not sent, or no answer: what was typed stands in its field again, and is sent again from there.
  const back = (event) => {
    if (event.target.id !== "reading") return;
    const input = field();
    underWay = false;
    if (!input || input.dataset.sent === undefined) return;
    if (input.value.trim()) waiting.unshift(input.value);
    input.value = input.dataset.sent;
    show();
  };
  document.addEventListener("htmx:sendError", back);
  document.addEventListener("htmx:timeout", back);
  document.addEventListener("htmx:responseError", back);

  // The answer replaces the field: what stands in it half typed goes along.
  let half = null;
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target.id !== "bench") return;
    const input = field();
    half = underWay && input && input.dataset.sent !== undefined ? input.value : null;
  });
  document.addEventListener("htmx:load", (event) => {
    if (event.target.id !== "bench") return;
    const was = underWay;
    underWay = false;
    const input = field();
    if (!input || !form() || input.disabled) { if (was && half) waiting.push(half); half = null; show(); return; }
    // Refused or questioned: that comes first, and what waits goes on waiting.
    const stopped = document.querySelector("#bench .entry-error, #reading [name=questioned]");
    if (stopped) { if (half) waiting.push(half); half = null; show(); return; }
    if (waiting.length) {
      const next = waiting.shift();
      const rest = half;
      show();
      input.value = next;
      form().requestSubmit();
      if (rest && field()) field().value = rest;
    } else if (half) {
      input.value = half;
      input.setSelectionRange(half.length, half.length);
    }
    half = null;
  });

  // ---- another unit is another page: what was typed and not stored comes along, with the unit it was typed in
  document.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-leaves]")) return;
    const typed = [...document.querySelectorAll("main input, main textarea")]
      .filter((input) => input.name && !["hidden", "checkbox", "radio", "file", "range", "password"].includes(input.type))
      .filter((input) => input.value !== input.defaultValue && input.value.trim())
      .map((input) => {
        const unit = input.closest(".value-row")?.querySelector(".value-unit")?.textContent.trim() || "";
        return [input.form?.getAttribute("hx-post") || input.form?.id || "", input.name, withUnit(input.value, unit)];
      });
    if (typed.length) sessionStorage.setItem(KEPT, JSON.stringify({ path: location.pathname + location.search, typed }));
  });
  const kept = JSON.parse(sessionStorage.getItem(KEPT) || "null");
  sessionStorage.removeItem(KEPT);
  if (kept && kept.path === location.pathname + location.search) {
    kept.typed.forEach(([place, name, value]) => {
      const input = [...document.querySelectorAll(`main [name="${CSS.escape(name)}"]`)]
        .find((other) => (other.form?.getAttribute("hx-post") || other.form?.id || "") === place && other.type !== "hidden");
      if (input) input.value = value;
    });
  }
})();
