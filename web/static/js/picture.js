// The live picture: worn or draft, which scene, light or dark. The choice of
// look and scene lasts while the page does; the scene also from page to page.
const figure = () => document.querySelector("[data-picture]");
const state = { look: null, scene: null };

function draw() {
  const f = figure();
  if (!f) return;
  const scene = state.scene ?? f.dataset.scene;
  const look = state.look ?? f.dataset.look;
  const img = f.querySelector("[data-picture-img]");
  const version = new URL(img.src, location.href).searchParams.get("v") ?? "";
  const q = new URLSearchParams({ look, scene, shade: document.documentElement.dataset.theme, v: version });
  const src = `${f.dataset.src}?${q}`;
  if (img.getAttribute("src") !== src) img.src = src;
  for (const b of f.querySelectorAll("[data-look-is]")) b.setAttribute("aria-pressed", b.dataset.lookIs === look);
  for (const b of f.querySelectorAll("[data-scene-is]")) b.setAttribute("aria-pressed", b.dataset.sceneIs === scene);
}

document.addEventListener("click", (event) => {
  const look = event.target.closest("[data-look-is]");
  const scene = event.target.closest("[data-scene-is]");
  if (look) state.look = look.dataset.lookIs;
  if (scene) state.scene = scene.dataset.sceneIs;
  if (look || scene) draw();
});
document.addEventListener("theme-turned", draw);
document.addEventListener("htmx:oobAfterSwap", (event) => {
  if (event.detail.target?.id === "picture") { state.look = null; draw(); }
});
draw();
