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
  if (event.target.matches("[data-submit]")) event.target.form.requestSubmit();
});
