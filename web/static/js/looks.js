// Comparing looks: a form that follows its fields, and the edge of a wipe.
document.addEventListener("change", (event) => event.target.closest("form[data-auto]")?.requestSubmit());

const follow = (wipe) => wipe.style.setProperty("--cut", `${wipe.querySelector("input").value}%`);
document.addEventListener("input", (event) => {
  const wipe = event.target.closest("[data-wipe]");
  if (wipe) follow(wipe);
});
document.querySelectorAll("[data-wipe]").forEach(follow);
