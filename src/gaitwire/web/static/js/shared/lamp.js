// The lamp: light or dark, set before anything is painted.
(() => {
  let lamp = null;
  try { lamp = localStorage.getItem("lamp"); } catch { /* storage may be off; then the light is on */ }
  if (lamp === "off") document.documentElement.dataset.lamp = "off";
})();
