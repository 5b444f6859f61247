// The cut of a backdrop follows the hand and the arrow keys: its two numbers, and the pictures of all
// monitors, of which the last that was asked for counts.
const numbers = (screen) => ["across", "down"].map((name) => screen.closest("form").elements[name]);

let wanted = 0;
const show = (form) => {
  const turn = ++wanted;
  const [across, down] = ["across", "down"].map((name) => form.elements[name].value);
  form.querySelectorAll(".screen img").forEach((image) => {
    const address = new URL(image.src);
    address.searchParams.set("across", across);
    address.searchParams.set("down", down);
    const next = new Image();
    next.onload = () => {
      if (turn === wanted || !image.dataset.turn || Number(image.dataset.turn) < turn) {
        image.dataset.turn = turn;
        image.src = next.src;
      }
    };
    next.src = address.href;
  });
};

let waits = 0;
const soon = (form) => {
  cancelAnimationFrame(waits);
  waits = requestAnimationFrame(() => show(form));
};

const within = (value) => Math.min(Math.max(value, 0), 100);
const move = (screen, from, dx, dy) => {
  const [freeX, freeY] = screen.dataset.free.split(" ").map(Number);
  const [across, down] = numbers(screen);
  const set = (input, at, by, free) => {
    if (Math.abs(free) >= 1) input.value = Math.round(within(at + (100 * by) / free));
  };
  set(across, from[0], dx, freeX);
  set(down, from[1], dy, freeY);
  soon(screen.closest("form"));
};
const changed = (screen) => numbers(screen)[0].dispatchEvent(new Event("change", { bubbles: true }));

let held = null;
document.addEventListener("pointerdown", (event) => {
  const screen = event.target.closest("[data-cut]");
  if (!screen) return;
  event.preventDefault();
  screen.focus();
  screen.setPointerCapture(event.pointerId);
  held = { screen, x: event.clientX, y: event.clientY, from: numbers(screen).map((input) => Number(input.value)) };
});
document.addEventListener("pointermove", (event) => {
  if (!held || !held.screen.hasPointerCapture(event.pointerId)) return;
  const times = Number(held.screen.dataset.wide) / held.screen.clientWidth;
  move(held.screen, held.from, (event.clientX - held.x) * times, (event.clientY - held.y) * times);
});
document.addEventListener("pointerup", () => {
  if (held) changed(held.screen);
  held = null;
});

let rests = 0;
document.addEventListener("keydown", (event) => {
  const screen = event.target.closest?.("[data-cut]");
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (!screen || !step) return;
  event.preventDefault();
  const by = (free) => (Math.abs(free) * (event.shiftKey ? 10 : 2)) / 100;
  const [freeX, freeY] = screen.dataset.free.split(" ").map(Number);
  const from = numbers(screen).map((input) => Number(input.value));
  move(screen, from, step[0] * by(freeX), step[1] * by(freeY));
  clearTimeout(rests);
  rests = setTimeout(() => {
    const kept = [...document.querySelectorAll("[data-cut]")].indexOf(screen);
    document.addEventListener(
      "htmx:afterSettle",
      () => document.querySelectorAll("[data-cut]")[kept]?.focus({ preventScroll: true }),
      { once: true },
    );
    changed(screen);
  }, 600);
});

// The picture of a tint follows its two fields.
document.addEventListener("input", (event) => {
  const form = event.target.closest("[data-tint]");
  if (!form) return;
  const { toward, strength } = form.elements;
  form.querySelector("output").value = `${strength.value} %`;
  const image = form.querySelector("img");
  const address = new URL(image.src);
  address.searchParams.set("toward", toward.value);
  address.searchParams.set("strength", strength.value);
  clearTimeout(Number(form.dataset.waits));
  form.dataset.waits = setTimeout(() => (image.src = address.href), 60);
});
