// What the page alone knows: keys, keypad, drag, and sending again what could not be stored.
(() => {
  "use strict";
  const RETRY_MS = 3000;
  const { keyName, maySeek } = globalThis.lashLogic;

  // ---- a foot switch sends one key: it takes a reading, and pressed again stores it
  document.addEventListener("keydown", (event) => {
    const foot = document.body.dataset.foot;
    if (!foot || (event.key !== foot && event.code !== foot)) return;
    const take = document.querySelector("[data-take]");
    if (event.target.matches("[data-takes]")) {
      event.preventDefault();
      window.htmx.trigger(event.target, "take");
      return;
    }
    if (!take) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (event.repeat) return;
    if (document.querySelector("#value[data-taken]")) document.getElementById("reading").requestSubmit();
    else take.click();
  });
  document.addEventListener("keydown", (event) => {
    const inField = event.target.matches("input, textarea, select");
    if (event.key === "Escape" && inField) { event.target.blur(); return; }
    if (event.key === "?" && !inField) { document.getElementById("keys").showModal(); return; }
    // An element's data-key names the key that presses it.
    const name = keyName(event, inField);
    if (!maySeek(name, inField)) return;
    if (name === "NumpadMultiply" && event.target.matches("[data-takes]")) {
      event.preventDefault();
      window.htmx.trigger(event.target, "take");
      return;
    }
    if (document.querySelector("dialog[open]")) return;
    const target = document.querySelector(`[data-key="${name}"]`);
    if (!target) return;
    event.preventDefault();
    // What a role may not do says so, and whom to ask.
    if (target.dataset.says) { tell(target.dataset.says); return; }
    target.click();
    // A key that opens a form goes on into it.
    if (target.matches("summary")) target.parentElement.querySelector("input:not([type=hidden])")?.focus();
  });

  // ---- what somebody types while a reading is watched stays: the watch ends
  document.addEventListener("input", (event) => {
    const watch = event.target.matches("#value .value") && document.querySelector("#value [hx-get]");
    if (!watch) return;
    window.htmx.trigger(watch, "htmx:abort");
    watch.remove();
  });

  // ---- menus: one is open at a time, and closes at a click beside it or at Escape
  const closeMenus = (but) => document.querySelectorAll("details[data-menu][open]").forEach((menu) => {
    if (menu !== but) menu.open = false;
  });
  document.addEventListener("click", (event) => {
    closeMenus(event.target.closest("details[data-menu]"));
    if (event.target.closest("[data-keys]")) { closeMenus(); document.getElementById("keys").showModal(); }
  });
  document.addEventListener("keydown", (event) => {
    const open = event.key === "Escape" && document.querySelector("details[data-menu][open]");
    if (!open) return;
    open.open = false;
    open.querySelector("summary").focus();
  });

  // ---- what another person did appears by itself, and never under the hand that types
  const underHand = () => [...document.querySelectorAll("#bench input, #bench textarea, #bench select")].some((field) =>
    field === document.activeElement && field.matches("textarea, select") ||
    (["checkbox", "radio"].includes(field.type) ? field.checked !== field.defaultChecked : "defaultValue" in field && field.value !== field.defaultValue));
  let pressed = false;
  document.addEventListener("pointerdown", () => { pressed = true; });
  ["pointerup", "pointercancel"].forEach((name) => document.addEventListener(name, () => { pressed = false; }));
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.id !== "live") return;
    const busy = document.querySelector("dialog[open], details[data-menu][open], #bench details.deviation[open], #bench .htmx-request:not(#live)");
    if (busy || pressed || underHand()) event.preventDefault();
  });
  // What was typed while the answer came stays: it is asked for again.
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.requestConfig?.elt?.id === "live" && (pressed || underHand())) event.detail.shouldSwap = false;
  });

  // ---- what somebody has seen to himself is said with one press
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-claims]")) return;
    document.querySelectorAll("[data-claim]").forEach((box) => { box.checked = true; });
    document.querySelector("#reading input.value")?.focus();
  });

  // ---- theme
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-theme-switch]")) return;
    const next = document.documentElement.dataset.theme === "dark" ? "light" : "dark";
    document.documentElement.dataset.theme = next;
    localStorage.setItem("lash-theme", next);
  });

  // ---- moving between stations without a reload
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-bench]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    const address = link.getAttribute("href");
    window.htmx.ajax("GET", address, { target: "#bench", swap: "outerHTML" });
    window.history.replaceState(null, "", address);
  });

  // ---- records out of reach: say so, keep what was typed, send it again
  const line = () => document.getElementById("line");
  const tell = (words) => { line().textContent = words; line().hidden = false; };
  const again = (element) => window.setTimeout(() => {
    if (document.contains(element)) window.htmx.trigger(element, element.getAttribute("hx-trigger") || "submit");
  }, RETRY_MS);
  const lost = (element, words) => {
    if (element.closest("#timers, #live")) return; // they ask again by themselves
    const keeps = element.matches("form[data-keep]");
    tell(keeps ? `${words} What you entered is still here and is sent again by itself.` : words);
    if (keeps) again(element);
  };
  document.addEventListener("htmx:sendError", (event) => lost(event.detail.elt, "The shop's server does not answer. Not stored yet."));
  document.addEventListener("htmx:timeout", (event) => lost(event.detail.elt, "The shop's server is slow. Not stored yet."));
  document.addEventListener("htmx:responseError", (event) => {
    const status = event.detail.xhr.status;
    if (event.detail.elt.closest("#timers, #live")) return;
    if (status === 503) lost(event.detail.elt, "The records cannot be reached. Not stored yet.");
    else if (status === 401) tell("You are signed out. Sign in again in another tab, then press Enter here: what you typed is kept.");
    else if (status === 403) tell("This page is from before you signed in. Reload it; note what you typed first.");
    else tell(`Lash made a mistake (${status}). What you typed is still here; nothing was stored.`);
  });
  document.addEventListener("htmx:afterSwap", (event) => { if (event.target.id !== "timers") line().hidden = true; });

  // ---- a wait that is due sounds at every look until somebody says that it was heard
  let sound = null;
  const ring = () => {
    sound = sound || new AudioContext();
    if (sound.state === "suspended") sound.resume();
    [0, 0.28].forEach((later) => {
      const tone = sound.createOscillator();
      const level = sound.createGain();
      tone.frequency.value = 880;
      level.gain.value = 0.2;
      tone.connect(level).connect(sound.destination);
      tone.start(sound.currentTime + later);
      tone.stop(sound.currentTime + later + 0.2);
    });
    document.documentElement.dataset.rang = String(Number(document.documentElement.dataset.rang || "0") + 1);
  };
  // The list of waits is asked for anew under the hand that has it open: it stays open.
  let waitsOpen = false;
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target.id === "timers") waitsOpen = event.target.open === true;
  });
  document.addEventListener("htmx:load", (event) => {
    if (event.target.id === "timers" && waitsOpen && event.target.matches("details")) event.target.open = true;
  });
  document.addEventListener("htmx:load", (event) => {
    if (event.target.id === "timers" && event.target.querySelector("[data-ring]")) ring();
  });

  // ---- a chosen photo is sent at once
  document.addEventListener("change", (event) => {
    if (event.target.matches("[data-sends]")) event.target.form.requestSubmit();
  });

  // ---- keypad for touch
  document.addEventListener("alpine:init", () => {
    window.Alpine.data("keypad", () => ({
      press() { this.$refs.value.value += this.$el.dataset.digit; },
      rub() { this.$refs.value.value = this.$refs.value.value.slice(0, -1); },
      put() { this.$refs.value.value = this.$el.dataset.value; this.$refs.value.focus(); },
    }));
  });

  // ---- a new verdict and a new move are said to who does not see them
  let said = "";
  const say = () => {
    const told = [...document.querySelectorAll("#bench .verdict-head, #now .now-title")].map((e) => e.textContent.replace(/\s+/g, " ").trim());
    const words = told.filter(Boolean).join(". ");
    if (words !== said && said) document.getElementById("said").textContent = words;
    said = words;
  };
  document.addEventListener("htmx:load", (event) => { if (event.target.id === "bench") say(); });
  say();

  // ---- the entry's field has the focus after every answer, with its text selected
  const focusEntry = () => {
    const field = document.querySelector("main [autofocus]");
    if (field) { field.focus({ preventScroll: field.closest("#bench") !== null }); if (field.select) field.select(); }
  };
  document.addEventListener("htmx:load", (event) => { if (event.target.id === "bench" || event.target === document.body) focusEntry(); });
  // The browser's own autofocus comes with the first painting: a builder quicker than that typed into nothing.
  focusEntry();
})();
