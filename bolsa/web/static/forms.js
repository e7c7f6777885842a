// Forms: one that is busy says so, an answer that is a page of words about a mistake is shown too.
document.addEventListener("submit", (event) => {
  const button = event.submitter;
  if (button && button.dataset.busy) { button.dataset.words = button.textContent; button.textContent = button.dataset.busy; }
});
document.addEventListener("htmx:beforeSwap", (event) => {
  // An answer that is a page of words about a mistake is shown too.
  if (event.detail.xhr.status >= 400) event.detail.shouldSwap = true;
});
document.addEventListener("change", (event) => {
  if (event.target.matches("input[type=file]")) refuseTooLarge(event.target);
  if (event.target.matches("[data-submit]")) event.target.form.requestSubmit();
});

// Files that are too large together are refused here, before the way there: the server ends such a request without a page.
function refuseTooLarge(field) {
  const most = Number(document.body.dataset.most);
  const bytes = [...field.files].reduce((sum, file) => sum + file.size, 0);
  const inMegabytes = (size) => Math.ceil(size / 1024 / 1024);
  field.setCustomValidity(bytes > most ? `Together that is ${inMegabytes(bytes)} MB. Bolsa takes in ${inMegabytes(most)} MB at once.` : "");
  field.reportValidity();
}
