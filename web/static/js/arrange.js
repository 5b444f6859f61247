// Things on bars follow the hand and the arrow keys. Where something may go, and what becomes of it, is
// reckoned by Ivelt: here a thing is only taken along until it is let go.
const map = () => document.querySelector(".arrange-map");
const number = (thing, name) => Number(thing.dataset[name]);

// The one change that is on its way, and the next: what was asked for before that has no use any more.
let busy = false;
let next = null;
const ask = async (values) => {
  if (busy) {
    next = values;
    return;
  }
  busy = true;
  await htmx.ajax("POST", document.getElementById("arrange").dataset.arrange, {
    values,
    source: "#arrange",
    target: "#arrange",
    select: "#arrange",
    selectOOB: "#draft,#strip,#picture",
    swap: "outerHTML",
  });
  busy = false;
  if (next) {
    const values = next;
    next = null;
    ask(values);
  }
};

let chosen = null; // what lies on the desk and was moved
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.target.id !== "arrange") return;
  if (drawing) draw(null); // a picture that was on its way is of what was there before
  const lying = chosen && map()?.querySelector(`[data-lying="${chosen}"]`);
  (lying ?? map()?.querySelector("[aria-current]"))?.focus({ preventScroll: true });
  chosen = null;
});

// What is undone beside the page, in the list of the draft, is seen on it.
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful && map() && event.target.closest?.("#draft, #strip"))
    htmx.ajax("GET", document.getElementById("arrange").dataset.arrange, {
      source: "#arrange",
      target: "#arrange",
      select: "#arrange",
      swap: "outerHTML",
    });
});

const at = (event) => {
  const point = new DOMPoint(event.clientX, event.clientY);
  return point.matrixTransform(map().getScreenCTM().inverse());
};
const box = (thing) => thing.querySelector(".edge").getBBox();
const inside = (p, b, by = 0) =>
  p.x >= b.x - by && p.x <= b.x + b.width + by && p.y >= b.y - by && p.y <= b.y + b.height + by;

// The spot on a bar that is nearest to a place: before or after the nearest of its things.
const spotOn = (bar, p, held) => {
  const upright = ["left", "right"].includes(bar.dataset.edge);
  const along = (b) => (upright ? b.y + b.height / 2 : b.x + b.width / 2);
  const here = upright ? p.y : p.x;
  const things = [...map().querySelectorAll(`.thing[data-bar="${bar.dataset.bar}"]`)].filter(
    (t) => t !== held && number(t, "item") >= 0,
  );
  if (!things.length) return { tobar: bar.dataset.bar, side: "start", at: 0 };
  const nearest = things.reduce((a, b) => (Math.abs(along(box(b)) - here) < Math.abs(along(box(a)) - here) ? b : a));
  const beside = things.filter((t) => t.dataset.side === nearest.dataset.side);
  const after = along(box(nearest)) < here ? 1 : 0;
  return { tobar: bar.dataset.bar, side: nearest.dataset.side, at: beside.indexOf(nearest) + after };
};

// The edge of the screen that is nearest to a place.
const edgeAt = (p) => {
  const { width, height } = map().viewBox.baseVal;
  const far = { top: p.y / height, bottom: 1 - p.y / height, left: p.x / width, right: 1 - p.x / width };
  return Object.keys(far).reduce((a, b) => (far[b] < far[a] ? b : a));
};

const toEdge = (thing, edge) =>
  "dock" in thing.dataset ? { of: "dock", do: "edge", edge } : { bar: thing.dataset.bar, do: "bar", edge };

const askLying = (thing, how, x, y) => {
  chosen = thing.dataset.lying;
  ask({ of: "lying", facet: chosen, do: how, x, y });
};

// What letting a thing go at a place asks for, null for nothing.
const goal = ({ thing, from }, p) => {
  const own = { bar: thing.dataset.bar, item: thing.dataset.item };
  if (thing.dataset.lying) {
    const b = box(thing);
    const [x, y] = [b.x + p.x - from.x, b.y + p.y - from.y].map(Math.round);
    return { of: "lying", facet: thing.dataset.lying, do: "put", x, y };
  }
  if (number(thing, "item") < 0) return edgeAt(p) === thing.dataset.edge ? null : toEdge(thing, edgeAt(p));
  const bar = [...map().querySelectorAll(".thing-bar")].find((b) => inside(p, box(b), 24));
  return bar ? { ...own, do: "move", ...spotOn(bar, p, thing) } : null;
};

// The picture follows the hand: as things would be if it let go, one picture after the other. As soon as
// there is one without what is at the edges, only that is drawn again, over it.
let asked = "";
let drawing = false;
const load = async (address) => {
  const picture = new Image();
  picture.src = address;
  await picture.decode().catch(() => {});
  return picture.naturalWidth ? picture.src : null;
};
const draw = async (values) => {
  asked = values ? `&${new URLSearchParams(values)}` : "";
  if (drawing) return;
  drawing = true;
  for (let drawn = null; drawn !== asked; ) {
    drawn = asked;
    const over = map().querySelector(".over");
    const address = await load(map().dataset.screen + (over ? "&part=edges" : "") + drawn);
    const image = over ?? map()?.querySelector("image");
    if (image && address) image.setAttribute("href", address);
  }
  drawing = false;
};
const apart = async () => {
  const at = map();
  const [rest, edges] = await Promise.all(["rest", "edges"].map((part) => load(`${at.dataset.screen}&part=${part}`)));
  if (!held || !rest || !edges || at !== map()) return;
  const image = at.querySelector("image");
  const over = image.cloneNode();
  over.classList.add("over");
  over.setAttribute("href", edges);
  image.setAttribute("href", rest);
  image.after(over);
};
const together = () => {
  const over = map()?.querySelector(".over");
  if (!over) return;
  over.remove();
  map().querySelector("image").setAttribute("href", map().dataset.screen);
};

let held = null;
document.addEventListener("pointerdown", (event) => {
  const thing = event.target.closest?.(".arrange-map .thing");
  if (!thing || event.button !== 0) return;
  event.preventDefault();
  thing.focus();
  thing.setPointerCapture(event.pointerId);
  held = { thing, from: at(event), moved: false };
});
document.addEventListener("dragstart", (event) => {
  if (event.target.closest?.(".arrange-map")) event.preventDefault(); // it is a link, which browsers take along
});
// A finger that takes a thing along does not scroll the page too.
document.addEventListener(
  "touchstart",
  (event) => {
    if (event.target.closest?.(".arrange-map .thing") && event.touches.length === 1) event.preventDefault();
  },
  { passive: false },
);
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const p = at(event);
  const dx = p.x - held.from.x;
  const dy = p.y - held.from.y;
  if (!held.moved && Math.hypot(dx, dy) < 6) return;
  if (!held.moved) apart();
  held.moved = true;
  held.thing.classList.add("is-held");
  held.thing.querySelector(".edge").setAttribute("transform", `translate(${dx} ${dy})`);
  draw(goal(held, p));
});
const letGo = (event) => {
  if (!held) return;
  const { thing, moved } = held;
  const wants = goal(held, at(event));
  held = null;
  thing.classList.remove("is-held");
  thing.querySelector(".edge").removeAttribute("transform");
  if (!moved && event.pointerType === "touch" && event.type === "pointerup")
    thing.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true })); // it was tapped
  if (!moved) return;
  thing.addEventListener("click", (e) => e.preventDefault(), { once: true });
  if (event.type === "pointercancel" || !wants) {
    together();
    draw(null);
    return;
  }
  if (wants.of === "lying") chosen = wants.facet;
  ask(wants);
};
document.addEventListener("pointerup", letGo);
document.addEventListener("pointercancel", letGo);

const steps = {
  ArrowLeft: "earlier",
  ArrowUp: "earlier",
  ArrowRight: "later",
  ArrowDown: "later",
  PageUp: "previous",
  PageDown: "next",
  Delete: "remove",
};
const edges = { ArrowLeft: "left", ArrowUp: "top", ArrowRight: "right", ArrowDown: "bottom" };
document.addEventListener("keydown", (event) => {
  const thing = event.target.closest?.(".arrange-map .thing");
  if (!thing || event.ctrlKey || event.altKey || event.metaKey) return;
  if (thing.dataset.lying) {
    const by = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, -10], ArrowDown: [0, 10] }[event.key];
    if (by) askLying(thing, "by", ...by.map((n) => (event.shiftKey ? n / 10 : n)));
    else if (event.key === "Delete") askLying(thing, "away", 0, 0);
    else return;
    event.preventDefault();
    return;
  }
  const isBar = number(thing, "item") < 0;
  const own = { bar: thing.dataset.bar, item: thing.dataset.item };
  if (isBar && edges[event.key]) ask(toEdge(thing, edges[event.key]));
  else if (isBar && event.key === "Delete")
    ask("dock" in thing.dataset ? { of: "dock", do: "remove-dock" } : { ...own, do: "remove-bar" });
  else if (!isBar && steps[event.key]) ask({ ...own, do: steps[event.key] });
  else return;
  event.preventDefault();
});
