// An effect is played again by asking for its picture anew: it moves once, when it is loaded.
let played = 0;
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-play]");
  const image = button?.closest(".effect").querySelector("img");
  if (!image) return;
  const address = new URL(image.src);
  address.searchParams.set("again", ++played);
  image.src = address.href;
});
