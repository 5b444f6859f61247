// Lists by arrow keys: [data-list] holds [data-item]s; one list leads on to the
// next. Enter presses the item's
// [data-open], Space its [data-choose].
const shown = (el) => el.offsetParent !== null;

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const at = document.activeElement;
  const inList = at?.closest("[data-list]");
  const item = at?.matches("[data-item]") ? at : null;
  if (item && event.key === "Enter" && item.tagName !== "BUTTON") {
    const open = item.querySelector("[data-open]");
    if (open) {
      event.preventDefault();
      open.click();
    }
    return;
  }
  if (item && event.key === " ") {
    const choose = item.matches("[data-choose]")
      ? item
      : item.querySelector("[data-choose]");
    event.preventDefault();
    if (choose) choose.click();
    return;
  }
  if (item && event.key === "x") {
    item.querySelector("[data-mark]")?.click();
    return;
  }
  const step = {
    ArrowRight: [1, 0],
    ArrowLeft: [-1, 0],
    ArrowDown: [0, 1],
    ArrowUp: [0, -1],
  }[event.key];
  if (!step || at?.closest("input, select, textarea, dialog, .diff, .tree-box, .picture-both"))
    return;
  const list = inList ?? document.querySelector("#work [data-list]");
  if (!list) return;
  const items = [...list.querySelectorAll("[data-item]")].filter(shown);
  if (!items.length) return;
  event.preventDefault();
  if (!inList || !item) {
    items[0].focus();
    return;
  }
  const columns =
    list.dataset.list === "grid"
      ? items.filter((i) => i.offsetTop === items[0].offsetTop).length
      : 1;
  const to = items.indexOf(item) + step[0] + step[1] * columns;
  if (items[to]) {
    items[to].focus();
    return;
  }
  if (columns > 1 && Math.abs(step[0])) return;
  // Past its end the next list begins.
  const lists = [...document.querySelectorAll("#work [data-list]")];
  const next = lists[lists.indexOf(list) + (to < 0 ? -1 : 1)];
  const others = next
    ? [...next.querySelectorAll("[data-item]")].filter(shown)
    : [];
  others.at(to < 0 ? -1 : 0)?.focus();
});

// htmx swaps a part in anew: the focus keeps its place, or, if that is gone or can no longer be
// pressed, goes to the part around it that changed, and not to the top of the page.
let places = [];
document.addEventListener("htmx:beforeSwap", () => {
  places = [];
  for (let at = document.activeElement; at && at !== document.body; at = at.parentElement)
    if (at.id) places.push(at.id);
});
document.addEventListener("htmx:afterSettle", () => {
  for (const id of places) {
    if (document.activeElement !== document.body) return;
    const part = document.getElementById(id);
    part?.focus({ preventScroll: true });
    if (!part || document.activeElement !== document.body) continue;
    part.tabIndex = -1;
    part.focus({ preventScroll: true });
  }
});

// What was chosen is marked on the wall, which is not swapped for it.
document.addEventListener("htmx:oobAfterSwap", () => {
  const { marks } = document.getElementById("off")?.dataset ?? {};
  if (marks === undefined) return;
  for (const pick of document.querySelectorAll("#picks .pick"))
    pick.setAttribute("aria-checked", pick.value === marks);
});

// A link to a folded part unfolds it.
function unfold() {
  const part = location.hash && document.getElementById(location.hash.slice(1));
  if (part?.tagName !== "DETAILS") return;
  part.open = true;
  part.scrollIntoView({ block: "center" });
}
addEventListener("hashchange", unfold);
unfold();
