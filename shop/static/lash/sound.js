// Marks on a recording while it plays: each press begins a stretch, and ends the one before.
(() => {
  "use strict";
  const player = () => document.querySelector("audio[data-sound]");
  const show = () => {
    const marking = document.querySelector("[data-marking]");
    if (marking && player()) marking.hidden = false;
  };
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-mark]");
    const field = document.querySelector("[data-spans]");
    if (!button || !field || !player()) return;
    const now = player().currentTime.toFixed(1);
    const end = Number.isFinite(player().duration) ? player().duration.toFixed(1) : now;
    // The last stretch runs to the end until the next press cuts it off.
    const closed = field.value.replace(/-[\d.]+ (\w+)\s*$/, `-${now} $1`);
    field.value = `${closed ? `${closed}, ` : ""}${now}-${end} ${button.dataset.mark}`;
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });
  document.addEventListener("DOMContentLoaded", show);
  show();
})();
