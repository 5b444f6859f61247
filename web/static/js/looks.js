// Comparing looks: a form that follows its fields, and the edge of a wipe. What a slider says
// beside it moves with it.
document.addEventListener("change", (event) =>
  event.target.closest("form[data-auto]")?.requestSubmit(),
);

const follow = (wipe) =>
  wipe.style.setProperty("--cut", `${wipe.querySelector("input").value}%`);
document.addEventListener("input", (event) => {
  const wipe = event.target.closest("[data-wipe]");
  if (wipe) follow(wipe);
  const says = event.target.matches("[type=range]") && event.target.nextElementSibling;
  if (says?.matches("output"))
    says.textContent = says.textContent.replace(/^[\d.]+/, event.target.value); // its unit stays
});
document.querySelectorAll("[data-wipe]").forEach(follow);

// One key flips between the looks that are compared, each in the others' place.
document.addEventListener("keydown", (event) => {
  const looks = document.querySelector(".looks");
  if (
    !looks ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.target.closest("input, select, textarea")
  )
    return;
  const all = [...looks.querySelectorAll("figure")];
  const at = all.findIndex((f) => f.classList.contains("is-shown"));
  if (event.key === "v") {
    looks.classList.add("flipping");
    all.forEach((f, i) =>
      f.classList.toggle("is-shown", i === (at + 1) % all.length),
    );
  } else if (event.key === "Escape" && at >= 0) {
    looks.classList.remove("flipping");
    all.forEach((f) => f.classList.remove("is-shown"));
  }
});

// What a button flips is shown as it would be, and back; by the same key where no looks are compared.
const flip = (button) => {
  const on = document.querySelector(button.dataset.flip).classList.toggle("is-then");
  button.setAttribute("aria-pressed", on);
};
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-flip]");
  if (button) flip(button);
});
document.addEventListener("keydown", (event) => {
  const button = document.querySelector("[data-flip]");
  if (
    button &&
    event.key === "v" &&
    !event.ctrlKey &&
    !event.metaKey &&
    !event.altKey &&
    !event.target.closest("input, select, textarea")
  )
    flip(button);
});

// At their actual size the looks are scrolled together.
document.addEventListener(
  "scroll",
  (event) => {
    if (!event.target.matches?.(".looks-actual .look-window")) return;
    for (const other of document.querySelectorAll(
      ".looks-actual .look-window",
    )) {
      if (other.scrollLeft !== event.target.scrollLeft)
        other.scrollLeft = event.target.scrollLeft;
      if (other.scrollTop !== event.target.scrollTop)
        other.scrollTop = event.target.scrollTop;
    }
  },
  true,
);
