// Asking the picture: a click on it tells what decides how that place looks. The arrow keys move
// the place, in steps of 8 px.
const figure = () => document.querySelector("[data-picture]");
const asks = () => figure()?.classList.contains("is-asking");
let place = null;

function turn(on) {
  figure().classList.toggle("is-asking", on);
  document.querySelector("[data-asks]").setAttribute("aria-pressed", on);
  if (on) figure().querySelector(".picture-both").focus({ preventScroll: true });
  else close();
}

function close() {
  document.getElementById("asked").hidden = true;
}

function ask(img, x, y) {
  if (!img.naturalWidth) return; // it is just being exchanged
  place = {
    x: Math.min(Math.max(x, 0), img.naturalWidth - 1),
    y: Math.min(Math.max(y, 0), img.naturalHeight - 1),
  };
  const shown = new URL(img.src, location.href).searchParams;
  const wishes = new URLSearchParams({ ...place });
  for (const name of ["look", "scene", "shade", "state"])
    if (shown.get(name)) wishes.set(name, shown.get(name));
  const url = figure().dataset.src.replace("picture.svg", `ask?${wishes}`);
  htmx.ajax("GET", url, { target: "#asked", swap: "outerHTML" });
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-asks]")) turn(!asks());
  if (event.target.closest("[data-asked-close]")) close();
  const img = event.target.closest("[data-picture-img], [data-picture-night]");
  if (!img || !asks()) return;
  const k = img.naturalWidth / img.clientWidth;
  ask(img, Math.round(event.offsetX * k), Math.round(event.offsetY * k));
});

document.addEventListener("keydown", (event) => {
  const step = { ArrowLeft: [-8, 0], ArrowRight: [8, 0], ArrowUp: [0, -8], ArrowDown: [0, 8] }[event.key];
  if (event.key === "Escape" && asks()) turn(false);
  if (!step || !asks() || !event.target.matches(".picture-both")) return;
  event.preventDefault();
  const img = figure().querySelector("[data-picture-img]");
  const at = place ?? { x: img.naturalWidth / 2, y: img.naturalHeight / 2 };
  ask(img, at.x + step[0], at.y + step[1]);
});
