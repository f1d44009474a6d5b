// What goes on behind the page: photos that are sent, work that takes a while, forms that wait for the link.
(() => {
  "use strict";
  const { uploadWords, workingWords } = globalThis.lashLogic;
  const line = () => document.getElementById("waiting");
  const say = (words) => { line().textContent = words; line().hidden = !words; };

  // ---- a photo is sent while the work goes on
  document.addEventListener("htmx:xhr:progress", (event) => {
    if (!event.target.matches(".photo-form") || !event.detail.lengthComputable) return;
    say(uploadWords(event.detail.loaded, event.detail.total));
  });
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.matches(".photo-form")) say(uploadWords(0, 0));
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.target.matches(".photo-form")) say("");
  });
  // What became of it: the page is drawn anew as soon as no hand is on it.
  document.addEventListener("photo-kept", (event) => {
    if (event.target.matches("form")) event.target.reset();
    say("The photo is kept.");
    window.setTimeout(() => say(""), 4000);
    // Once the form itself is done with it: nothing is drawn anew while something is under way.
    window.setTimeout(() => {
      const live = document.getElementById("live");
      if (live) window.htmx.trigger(live, "refresh");
    }, 150);
  });

  // ---- a form that was sent is drawn anew: what was typed on meanwhile stands in its field again
  let going = null;
  document.addEventListener("htmx:beforeSend", (event) => {
    if (!event.target.matches("form[hx-boost]")) return;
    going = new Map([...event.target.elements].filter((field) => field.name).map((field) => [field.name, field.value]));
  });
  let half = null;
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target !== document.body || !going) return;
    const field = document.activeElement;
    const typed = field.matches("main input, main textarea") && field.name && going.has(field.name);
    half = typed && field.value.trim() && field.value !== going.get(field.name) ? [field.name, field.value] : null;
  });
  document.addEventListener("htmx:load", (event) => {
    if (event.target !== document.body) return;
    going = null;
    if (!half) return;
    const field = document.querySelector(`main [name="${half[0]}"]:not([type=hidden])`);
    if (field) { field.value = half[1]; field.focus(); field.setSelectionRange?.(half[1].length, half[1].length); }
    half = null;
  });

  // ---- work that takes a while says so, and for how long
  document.addEventListener("submit", (event) => {
    const what = event.target.dataset.long;
    if (!what || event.defaultPrevented) return;
    const began = Date.now();
    say(workingWords(what, 0));
    window.setInterval(() => say(workingWords(what, Math.round((Date.now() - began) / 1000))), 1000);
  });
})();
