// The live picture: worn or draft, which scene, shade and state of controls. The choice of
// look and scene lasts while the page does; the scene also from page to page.
const figure = () => document.querySelector("[data-picture]");
const state = { look: null, scene: null, shade: "", controls: "" };

// What one is about to choose is pictured ahead: with the pointer over it, or the focus on it.
// One picture is asked for at a time; one that is not chosen is dropped.
let ahead = null;

// wished is the address of a picture: as pages write it, so that none is asked for twice.
function wished(f, wishes) {
  const lay = document.getElementById("making")?.dataset.lay; // changes to a theme that are made
  const told = Object.entries({ ...wishes, lay }).filter(([, value]) => value);
  return `${f.dataset.src}?${new URLSearchParams(told)}`;
}

function pictureAhead(pick) {
  const f = figure();
  const facet = pick.form?.elements.facet?.value;
  if (!f || !facet || !pick.value) return null;
  const now = f.querySelector("[data-picture-img]");
  const src = wished(f, {
    look: `with ${facet} ${pick.value}`,
    scene: state.scene ?? f.dataset.scene,
    shade: state.shade,
    state: state.controls,
    v: new URL(now.src, location.href).searchParams.get("v"),
  });
  if (ahead?.src === src) return ahead;
  if (ahead && !ahead.chosen) ahead.img.src = "";
  const img = new Image();
  img.src = src;
  ahead = { img, src, chosen: false };
  return ahead;
}

let soon = 0;
function consider(event) {
  const pick = event.target.closest?.(".pick[data-choose]");
  clearTimeout(soon);
  if (pick && pick.ariaChecked !== "true")
    soon = setTimeout(() => pictureAhead(pick), event.type === "focusin" ? 0 : 40);
}
document.addEventListener("pointerover", consider);
document.addEventListener("focusin", consider);
document.addEventListener("click", (event) => {
  const pick = event.target.closest(".pick[data-choose]");
  if (!pick || pick.ariaChecked === "true") return;
  clearTimeout(soon);
  const made = pictureAhead(pick);
  if (!made) return;
  made.chosen = true;
  made.img
    .decode()
    .then(() => {
      if (ahead === made) figure().querySelector("[data-picture-img]").src = made.src;
    })
    .catch(() => {});
});

// pressed marks the buttons that show a scene, wherever on the page.
function pressed(scene) {
  for (const b of document.querySelectorAll("[data-scene-to]"))
    b.setAttribute("aria-pressed", b.dataset.sceneTo === scene);
}

function draw() {
  const f = figure();
  if (!f) return;
  const scene = state.scene ?? f.dataset.scene;
  const look = state.look ?? f.dataset.look;
  const img = f.querySelector("[data-picture-img]");
  const version = new URL(img.src, location.href).searchParams.get("v") ?? "";
  const at = (shade) => wished(f, { look, scene, shade, state: state.controls, v: version });
  const night = f.querySelector("[data-picture-night]");
  const src = f.dataset.ahead ?? at(state.shade);
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
  pressed(scene);
  const controls = f.querySelector("[data-state-is]");
  if (controls.value !== state.controls) controls.value = state.controls;
}

document.addEventListener("click", (event) => {
  const look = event.target.closest("[data-look-is]");
  if (look) state.look = look.dataset.lookIs;
  const shade = event.target.closest("[data-shade-is]");
  if (shade) state.shade = shade.dataset.shadeIs;
  const to = event.target.closest("[data-scene-to]");
  if (to) state.scene = to.dataset.sceneTo;
  if (look || shade || to) redraw();
});
document.addEventListener("change", (event) => {
  const controls = event.target.closest("[data-state-is]");
  const scene = event.target.closest("[data-scene-is]");
  if (controls) state.controls = controls.value;
  if (scene) state.scene = scene.value;
  if (controls || scene) redraw();
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
  if (img && !figure().classList.contains("is-asking")) zoom(img, event.offsetX, event.offsetY);
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
// redraw draws what was asked for since, and not what was pictured ahead.
function redraw() {
  delete figure().dataset.ahead;
  draw();
}

document.addEventListener("htmx:responseError", () => {
  if (!ahead?.chosen) return;
  ahead = null; // it was refused
  redraw();
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (["making", "asked"].includes(event.target.id)) redraw();
  if (event.target.id === "moves") pressed(state.scene ?? figure().dataset.scene);
});
document.addEventListener("htmx:oobAfterSwap", (event) => {
  if (event.detail.target?.id !== "picture") return;
  state.look = null;
  // The picture of what was chosen is there already: it is not asked for twice.
  if (ahead?.chosen) figure().dataset.ahead = ahead.src;
  ahead = null;
  draw();
});
draw();
