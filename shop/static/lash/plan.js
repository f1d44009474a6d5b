// The board of the week: a bar that is dragged asks what would follow; the server says where it lies.
(() => {
  "use strict";
  let held = null;

  const shareAt = (board, x) => {
    const box = board.getBoundingClientRect();
    return Math.min(Math.max((x - box.left) / box.width, 0), 1);
  };
  const fields = (key) => {
    const [job, step] = [key.split(":")[0], key.split(":").slice(1).join(":")];
    return { job, step, at: key };
  };

  document.addEventListener("pointerdown", (event) => {
    const bar = event.target.closest("a.bar[data-stretch]");
    if (!bar || event.button !== 0) return;
    const board = bar.closest("svg");
    held = { bar, board, x: event.clientX, start: bar.getBoundingClientRect().left };
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    const by = event.clientX - held.x;
    if (!held.moved && Math.abs(by) < 6) return;
    held.moved = true;
    held.bar.classList.add("is-dragged");
    const scale = held.board.viewBox.baseVal.width / held.board.getBoundingClientRect().width;
    held.bar.setAttribute("transform", `translate(${by * scale} 0)`);
  });
  const drop = (event) => {
    const was = held;
    held = null;
    if (!was || !was.moved) return;
    // The click that ends a drag does not follow the link.
    was.bar.addEventListener("click", (click) => click.preventDefault(), { once: true, capture: true });
    const box = was.board.closest("[data-move]");
    const form = document.createElement("form");
    form.method = "post";
    form.action = `${box.dataset.move}#follows`;
    const share = shareAt(was.board, was.start + event.clientX - was.x);
    const token = document.querySelector("[name=csrfmiddlewaretoken]");
    const week = new URLSearchParams(was.bar.getAttribute("href").split("?")[1]).get("week");
    const given = { ...fields(was.bar.dataset.stretch), share, week, board: was.board.closest(".board-narrow") ? "narrow" : "", do: "look", csrfmiddlewaretoken: token ? token.value : "" };
    Object.entries(given).forEach(([name, value]) => {
      const field = document.createElement("input");
      field.type = "hidden";
      field.name = name;
      field.value = value;
      form.append(field);
    });
    document.body.append(form);
    form.submit();
  };
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", () => { held = null; });
  document.addEventListener("dragstart", (event) => { if (event.target.closest("a.bar")) event.preventDefault(); });
})();
