// The closer view lies over the wall: it opens when something was swapped into it.
const view = document.getElementById("closer");
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target?.id !== "closer-body" || !view) return;
  if (!view.open) view.showModal();
  view.scrollTop = 0;
  view.querySelector("[autofocus]")?.focus();
});
document.addEventListener("click", (event) => {
  if (event.target === view) view.close();
  if (event.target.closest("[data-closes]")) setTimeout(() => view?.close());
});
// A form that is sent as soon as its file is chosen.
document.addEventListener("change", (event) =>
  event.target.closest("[data-auto-send]")?.requestSubmit(),
);
