// The closer view lies over the wall: it opens when something was swapped into it.
const box = document.getElementById("closer");
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target?.id !== "closer-body" || !box) return;
  if (!box.open) box.showModal();
  box.scrollTop = 0;
  box.querySelector("[autofocus]")?.focus();
});
document.addEventListener("click", (event) => {
  if (event.target === box) box.close();
  if (event.target.closest("[data-closes]")) setTimeout(() => box?.close());
});
// A form that is sent as soon as its file is chosen.
document.addEventListener("change", (event) => event.target.closest("[data-auto-send]")?.requestSubmit());
