// What moves: a shim that is dragged turns its slider, a step for so many pixels.
(() => {
  "use strict";
  const { dragged } = globalThis.lashLogic;
  let held = null;

  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-drag]");
    const field = handle && document.querySelector(`#moves-form [name="${handle.dataset.drag}"]`);
    if (!field) return;
    event.preventDefault();
    held = { field, from: Number(field.value), x: event.clientX };
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const value = String(dragged(held.from, event.clientX - held.x, Number(held.field.min), Number(held.field.max)));
    if (held.field.value === value) return;
    held.field.value = value;
    held.field.dispatchEvent(new Event("input", { bubbles: true }));
  });
  ["pointerup", "pointercancel"].forEach((name) => document.addEventListener(name, () => { held = null; }));

  // All back: the sliders first, then what they show.
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-resets]");
    if (!button) return;
    event.preventDefault();
    const fields = [...button.form.querySelectorAll("[type=range]")];
    fields.forEach((field) => { field.value = "0"; });
    fields[0].dispatchEvent(new Event("input", { bubbles: true }));
  });
})();
