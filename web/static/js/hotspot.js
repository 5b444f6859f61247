// The mark of a hot spot follows its two numbers, and moves by the pointer and the arrow keys.
const fields = (field) => [...field.closest(".hot-row").querySelectorAll("input[type=number]")];

const place = (field) => {
  const image = field.querySelector("img");
  const times = Number(image.dataset.times);
  image.style.width = `${image.width * times}px`;
  image.style.height = `${image.height * times}px`;
};

const mark = (field) => {
  const image = field.querySelector("img");
  const times = Number(image.dataset.times);
  const [x, y] = fields(field).map((input) => Number(input.value));
  const cross = field.querySelector("i");
  cross.style.left = `${(x + 0.5) * times}px`;
  cross.style.top = `${(y + 0.5) * times}px`;
};

const move = (field, x, y) => {
  const set = (input, value) => {
    input.value = Math.min(Math.max(Math.floor(value), 0), Number(input.max) - 1);
  };
  const [first, second] = fields(field);
  set(first, x);
  set(second, y);
  mark(field);
};

const ready = () =>
  document.querySelectorAll("[data-hot]:not([data-ready])").forEach((field) => {
    field.dataset.ready = "1";
    place(field);
    mark(field);
  });
ready();
document.addEventListener("htmx:afterSettle", ready);

document.addEventListener("input", (event) => {
  const field = event.target.closest(".hot-row")?.querySelector("[data-hot]");
  if (field) mark(field);
});

const to = (field, event) => {
  const box = field.querySelector("img").getBoundingClientRect();
  const times = Number(field.querySelector("img").dataset.times);
  move(field, (event.clientX - box.left) / times, (event.clientY - box.top) / times);
};
document.addEventListener("pointerdown", (event) => {
  const field = event.target.closest("[data-hot]");
  if (!field) return;
  event.preventDefault();
  field.focus();
  field.setPointerCapture(event.pointerId);
  to(field, event);
});
document.addEventListener("pointermove", (event) => {
  const field = event.target.closest?.("[data-hot]");
  if (field?.hasPointerCapture(event.pointerId)) to(field, event);
});

document.addEventListener("keydown", (event) => {
  const field = event.target.closest?.("[data-hot]");
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (!field || !step) return;
  event.preventDefault();
  const [x, y] = fields(field).map((input) => Number(input.value));
  move(field, x + step[0], y + step[1]);
});
