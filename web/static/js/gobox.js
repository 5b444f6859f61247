// The go-anywhere box: arrows walk its list, Enter goes to the first.
const box = document.querySelector("[data-go]");
const list = document.getElementById("go-list");
const links = () => [...list.querySelectorAll("[data-go-item]")];

box?.addEventListener("keydown", (event) => {
  if (event.key === "Enter") {
    event.preventDefault();
    links()[0]?.click();
  }
  if (event.key === "ArrowDown" && links().length) {
    event.preventDefault();
    links()[0].focus();
  }
});
list?.addEventListener("keydown", (event) => {
  const all = links();
  const i = all.indexOf(document.activeElement);
  if (event.key === "ArrowDown") {
    event.preventDefault();
    all[Math.min(i + 1, all.length - 1)].focus();
  }
  if (event.key === "ArrowUp") {
    event.preventDefault();
    (i > 0 ? all[i - 1] : box).focus();
  }
  if (event.key === "Escape") box.focus();
  if (event.key.startsWith("Arrow")) event.stopPropagation();
});
document.addEventListener("click", (event) => {
  if (!event.target.closest(".goto")) list?.replaceChildren();
});
