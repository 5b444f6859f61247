// Bring in a parcel: by the file button, or by dropping it on any page. The
// way up is shown with progress and can be broken off; then the page goes on
// to the parcel, or says why not.
const say = () => document.getElementById("message");

function send(file) {
  const form = new FormData();
  form.append("parcel", file, file.name);
  const request = new XMLHttpRequest();
  const box = document.createElement("div");
  box.className = "job";
  const line = document.createElement("div");
  line.className = "row-line";
  const name = document.createElement("b");
  name.textContent = `Bring in ${file.name}`;
  const bar = document.createElement("progress");
  bar.max = 100;
  bar.setAttribute("aria-label", "Taking it in");
  const stop = document.createElement("button");
  stop.className = "act";
  stop.type = "button";
  stop.textContent = "Cancel";
  stop.addEventListener("click", () => request.abort());
  line.append(name, bar, stop);
  box.append(line);
  say().replaceChildren(box);
  request.upload.addEventListener("progress", (event) => {
    if (event.lengthComputable) bar.value = (100 * event.loaded) / event.total;
  });
  request.addEventListener("load", () => location.assign(request.responseURL));
  request.addEventListener("error", () => {
    name.textContent = `${file.name} did not get through. Try again.`;
    bar.remove();
    stop.remove();
  });
  request.addEventListener("abort", () => say().replaceChildren());
  request.open("POST", `/d/${document.body.dataset.desk}/bring`);
  request.send(form);
}

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-bring]") && event.target.files.length)
    send(event.target.files[0]);
});

const carries = (event) =>
  [...(event.dataTransfer?.types ?? [])].includes("Files");
document.addEventListener("dragover", (event) => {
  if (!carries(event)) return;
  event.preventDefault();
  document.body.classList.add("dropping");
});
document.addEventListener("dragleave", (event) => {
  if (!event.relatedTarget) document.body.classList.remove("dropping");
});
document.addEventListener("drop", (event) => {
  if (!carries(event)) return;
  event.preventDefault();
  document.body.classList.remove("dropping");
  if (event.dataTransfer.files.length) send(event.dataTransfer.files[0]);
});
