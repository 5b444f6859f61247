// An outfit file is opened as soon as it is chosen; the sheet goes to paper.
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submits]") && event.target.files.length)
    event.target.form.submit();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
});

// One box that marks or unmarks all of a part.
document.addEventListener("change", (event) => {
  const of = event.target.dataset?.allOf;
  if (!of) return;
  for (const box of event.target
    .closest("form")
    .querySelectorAll(`${of} input[type=checkbox]:not(:disabled)`))
    box.checked = event.target.checked;
});
