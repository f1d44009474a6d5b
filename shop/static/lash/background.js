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
  document.addEventListener("photo-kept", () => {
    say("The photo is kept.");
    window.setTimeout(() => say(""), 4000);
    const live = document.getElementById("live");
    if (live) window.htmx.trigger(live, "refresh");
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
