// Light or dark before the first paint: the choice kept in a cookie, else what
// the browser prefers.
(() => {
  const root = document.documentElement;
  const prefers = matchMedia("(prefers-color-scheme: dark)");
  const settle = () => {
    const kept = document.cookie.match(/(?:^|; )theme=(light|dark)/);
    root.dataset.theme = kept ? kept[1] : prefers.matches ? "dark" : "light";
  };
  settle();
  prefers.addEventListener("change", settle);
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-theme-turn]")) return;
    const next = root.dataset.theme === "dark" ? "light" : "dark";
    document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=strict`;
    settle();
    document.dispatchEvent(new CustomEvent("theme-turned"));
  });
})();
