// Before the first paint: light for the yard, dark for the pit, as this device was left.
(() => {
  const kept = localStorage.getItem("lash-theme");
  if (kept === "dark" || kept === "light") document.documentElement.dataset.theme = kept;
})();
