// The live picture: worn or draft, which scene, shade and state of controls. The choice of
// look and scene lasts while the page does; the scene also from page to page.
const figure = () => document.querySelector("[data-picture]");
const state = { look: null, scene: null, shade: "", controls: "" };

function draw() {
  const f = figure();
  if (!f) return;
  const scene = state.scene ?? f.dataset.scene;
  const look = state.look ?? f.dataset.look;
  const img = f.querySelector("[data-picture-img]");
  const version = new URL(img.src, location.href).searchParams.get("v") ?? "";
  const at = (shade) =>
    `${f.dataset.src}?${new URLSearchParams({ look, scene, shade, state: state.controls, v: version })}`;
  const night = f.querySelector("[data-picture-night]");
  const src = at(state.shade);
  if (img.getAttribute("src") !== src) img.src = src;
  if (night) {
    night.hidden = look === "worn" || state.shade !== "";
    const dark = at("dark");
    if (!night.hidden && night.getAttribute("src") !== dark) night.src = dark;
  }
  for (const a of f.querySelectorAll("[data-picture-open], [data-picture-svg]"))
    a.href = src;
  for (const b of f.querySelectorAll("[data-look-is]"))
    b.setAttribute("aria-pressed", b.dataset.lookIs === look);
  const pictured = f.querySelector("[data-scene-is]");
  if (pictured.value !== scene) pictured.value = scene;
  for (const b of f.querySelectorAll("[data-shade-is]"))
    b.setAttribute("aria-pressed", b.dataset.shadeIs === state.shade);
  const controls = f.querySelector("[data-state-is]");
  if (controls.value !== state.controls) controls.value = state.controls;
}

document.addEventListener("click", (event) => {
  const look = event.target.closest("[data-look-is]");
  if (look) state.look = look.dataset.lookIs;
  const shade = event.target.closest("[data-shade-is]");
  if (shade) state.shade = shade.dataset.shadeIs;
  if (look || shade) draw();
});
document.addEventListener("change", (event) => {
  const controls = event.target.closest("[data-state-is]");
  const scene = event.target.closest("[data-scene-is]");
  if (controls) state.controls = controls.value;
  if (scene) state.scene = scene.value;
  if (controls || scene) draw();
});
// A click, or z, shows the picture at its actual size, to be moved about in.
function zoom(img, x, y) {
  const box = img.closest(".picture-both");
  const at = { x: x / img.clientWidth, y: y / img.clientHeight };
  const near = box.classList.toggle("is-near");
  if (!near) return;
  box.scrollTo(
    at.x * img.naturalWidth - box.clientWidth / 2,
    at.y * img.naturalHeight - box.clientHeight / 2,
  );
}
document.addEventListener("click", (event) => {
  const img = event.target.closest("[data-picture-img], [data-picture-night]");
  if (img) zoom(img, event.offsetX, event.offsetY);
});
document.addEventListener("keydown", (event) => {
  if (
    event.key !== "z" ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.target.closest("input, select, textarea")
  )
    return;
  const img = document.querySelector("[data-picture-img]");
  if (img) zoom(img, img.clientWidth / 3, img.clientHeight / 4);
});

// A PNG is made here, from the same picture, at its size or twice that.
async function png(scale) {
  const f = figure();
  const from = new Image();
  from.src = f.querySelector("[data-picture-img]").src;
  await from.decode();
  const canvas = document.createElement("canvas");
  canvas.width = from.naturalWidth * scale;
  canvas.height = from.naturalHeight * scale;
  canvas.getContext("2d").drawImage(from, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise((done) => canvas.toBlob(done, "image/png"));
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = f
    .querySelector("[data-picture-svg]")
    .download.replace(".svg", scale > 1 ? `@${scale}x.png` : ".png");
  f.dataset.png = `${canvas.width}x${canvas.height} ${blob.size}`;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}

document.addEventListener("click", (event) => {
  const b = event.target.closest("[data-picture-png]");
  if (b) png(Number(b.dataset.picturePng));
});
document.addEventListener("htmx:oobAfterSwap", (event) => {
  if (event.detail.target?.id === "picture") {
    state.look = null;
    draw();
  }
});
draw();
