// An outfit file is opened as soon as it is chosen; the sheet goes to paper.
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submits]") && event.target.files.length) event.target.form.submit();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
});
