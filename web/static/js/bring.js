// Bring in a parcel: by the file button, or by dropping it on any page. The
// way up is shown with progress and can be broken off; then the page goes on
// to the parcel, or says why not.
const say = () => document.getElementById("message");
const words = (of, name = "") => say().dataset[of].replace("…", name);

// What is an archive by its name is a parcel of its own; all else that comes
// at once belongs together.
const packed = /\.(zip|7z|deb|tar|t[gxb]z|tar\.\w+)$/i;

async function bring(files, facet = "") {
  const loose = files.filter((f) => !packed.test(f.path));
  const parcels = files.filter((f) => packed.test(f.path));
  const ways = parcels.map((f) => [f]);
  if (loose.length) ways.push(loose);
  for (const [i, way] of ways.entries()) {
    const at = await send(way, ways.length > 1 ? ` (${i + 1}/${ways.length})` : "", facet);
    if (!at) return;
    if (i === ways.length - 1) goOn(at, ways.length === 1);
  }
}

// goOn leads to the parcel; what is dropped where a look is composed is tried on at once.
function goOn(at, alone) {
  const to = new URL(at);
  const sha = /\/parcel\/(\w+)$/.exec(to.pathname);
  const facet = to.searchParams.get("for") ?? "";
  const elsewhere = to.searchParams.has("everyone"); // no home is read for it
  if (!sha || !alone || elsewhere || !document.body.classList.contains("page-compose")) {
    location.assign(at);
    return;
  }
  const form = document.createElement("form");
  form.method = "post";
  form.action = `/d/${document.body.dataset.desk}/try`;
  for (const [name, value] of Object.entries({ parcel: sha[1], facet })) {
    const field = document.createElement("input");
    field.type = "hidden";
    field.name = name;
    field.value = value;
    form.append(field);
  }
  document.body.append(form);
  form.submit();
}

// nameOf is what several files are called: as the folder they lie in, or as
// the first of them.
function nameOf(files) {
  const top = files[0].path.split("/");
  if (top.length > 1 && files.every((f) => f.path.startsWith(`${top[0]}/`)))
    return top[0];
  return `${top.pop().replace(/\.\w+$/, "")} and more`;
}

// send resolves to where the page goes on, or to nothing if it was broken off.
function send(files, which, facet) {
  const form = new FormData();
  const title = files.length > 1 ? nameOf(files) : files[0].file.name;
  if (files.length > 1 || files[0].path.includes("/")) {
    form.append("together", nameOf(files));
    for (const { file, path } of files) {
      form.append("path", path);
      form.append("file", file, file.name);
    }
  } else {
    form.append("parcel", files[0].file, title);
  }
  const request = new XMLHttpRequest();
  const box = document.createElement("div");
  box.className = "job";
  const line = document.createElement("div");
  line.className = "row-line";
  const name = document.createElement("b");
  name.textContent = words("sayBring", title) + which;
  const bar = document.createElement("progress");
  bar.max = 100;
  bar.setAttribute("aria-label", words("sayTaking"));
  const stop = document.createElement("button");
  stop.className = "act";
  stop.type = "button";
  stop.textContent = words("sayCancel");
  stop.addEventListener("click", () => request.abort());
  line.append(name, bar, stop);
  box.append(line);
  say().replaceChildren(box);
  request.upload.addEventListener("progress", (event) => {
    if (event.lengthComputable) bar.value = (100 * event.loaded) / event.total;
  });
  return new Promise((done) => {
    request.addEventListener("load", () => done(request.responseURL));
    request.addEventListener("error", () => {
      name.textContent = words("sayLost", title);
      bar.remove();
      stop.remove();
      done("");
    });
    request.addEventListener("abort", () => {
      say().replaceChildren();
      done("");
    });
    const to = facet ? `?for=${encodeURIComponent(facet)}` : "";
    request.open("POST", `/d/${document.body.dataset.desk}/bring${to}`);
    request.send(form);
  });
}

// under lists the files of what was dropped, those of folders with their paths.
async function under(entry) {
  if (entry.isFile) {
    const file = await new Promise((ok, no) => entry.file(ok, no));
    return [{ file, path: entry.fullPath.replace(/^\//, "") }];
  }
  const reader = entry.createReader();
  const all = [];
  for (;;) {
    const some = await new Promise((ok, no) => reader.readEntries(ok, no));
    if (!some.length) return all;
    for (const e of some) all.push(...(await under(e)));
  }
}

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-bring]") && event.target.files.length)
    bring(
      [...event.target.files].map((file) => ({ file, path: file.name })),
      event.target.dataset.for,
    );
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
  const entries = [...event.dataTransfer.items]
    .map((item) => item.webkitGetAsEntry?.())
    .filter(Boolean);
  const plain = [...event.dataTransfer.files].map((file) => ({
    file,
    path: file.name,
  }));
  const all = entries.some((e) => e.isDirectory)
    ? Promise.all(entries.map(under)).then((lists) => lists.flat())
    : Promise.resolve(plain);
  all.then((files) => files.length && bring(files));
});
