// One key for every action. Keys are ignored while typing.
const typing = (el) =>
  el.closest?.(
    "input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable]",
  );
const press = (selector) => document.querySelector(selector)?.click();
let goPending = -Infinity;

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Escape" && typing(event.target)) {
    event.target.blur();
    return;
  }
  if (typing(event.target) || document.querySelector("dialog[open]")) return;
  const now = performance.now();
  if (now - goPending < 1500) {
    goPending = -Infinity;
    const stage = document.querySelector(
      `[data-go-key="${CSS.escape(event.key)}"]`,
    );
    if (stage) {
      event.preventDefault();
      stage.click();
      return;
    }
  }
  const act = {
    g: () => {
      goPending = now;
    },
    "/": () => document.querySelector("[data-go]")?.focus(),
    s: () => document.querySelector("[data-page-search]")?.select(),
    "?": () => document.getElementById("keys").showModal(),
    "[": () => press('[data-look-is="worn"]'),
    "]": () => press('[data-look-is="draft"]'),
    r: () => press('[data-key="r"]'),
    u: () => press('[data-key="u"]'),
    U: () => press('[data-key="U"]'),
    y: () => press("[data-try]"),
    k: () => press('[data-key="k"]'),
    K: () => press('[data-key="K"]'),
    B: () => press('[data-key="B"]'),
    e: () => press('[data-key="e"]'),
    i: () => press("[data-asks]"),
    A: () => press('[data-key="A"]'),
    a: () => press("[data-main]:not([disabled])"),
    t: () => press("[data-theme-turn]"),
    n: () => press('[data-key="n"]'),
    p: () => press("[data-side-fold]"),
  }[event.key];
  if (!act && /^[1-9]$/.test(event.key)) {
    press(`[data-key="${event.key}"]`);
    return;
  }
  if (!act) return;
  event.preventDefault();
  act();
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-side-fold]"))
    document.body.classList.toggle("side-folded");
  if (event.target.closest("[data-keys-open]"))
    document.getElementById("keys").showModal();
});
