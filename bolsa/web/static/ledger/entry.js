// An entry opened under its row: one at a time, closed by "Leave it" or Esc; a split grows by a row.
import { all, one } from "../page.js";
import { comeBackTo } from "../rows.js";

document.addEventListener("htmx:beforeRequest", (event) => {
  // What is kept leads on to the row after it.
  const done = event.target.matches(".entry-form") && event.target.closest("tr.opened")?.previousElementSibling;
  if (done) comeBackTo(all("[data-row]").indexOf(done) + 1);
  const row = event.target.closest("tr[data-row]");
  if (!row || !event.target.matches("[data-edit]")) return;
  const open = row.nextElementSibling?.matches("tr.opened");
  all("tr.opened").forEach((other) => other.remove());
  if (open) event.preventDefault();
});
document.addEventListener("htmx:afterSettle", () => { const field = one("tr.opened [name=payee]"); if (field && !field.closest("form").contains(document.activeElement)) field.focus(); });
document.addEventListener("click", (event) => {
  const cancel = event.target.closest("tr.opened [data-cancel]");
  if (cancel) { event.preventDefault(); cancel.closest("tr.opened").remove(); }
});

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-add-part]")) return;
  const rows = all(".split-row");
  const fresh = rows[rows.length - 1].cloneNode(true);
  all(".picker", fresh).forEach((picker) => {
    const field = one("select, [data-suggest]", picker);
    delete field.dataset.picked;
    delete field.dataset.suggesting;
    field.hidden = false;
    picker.replaceWith(field);
  });
  all("select, input", fresh).forEach((field) => { field.value = ""; });
  rows[rows.length - 1].after(fresh);
  fresh.dispatchEvent(new Event("parts:added", { bubbles: true }));
  one("[role=combobox], select", fresh).focus();
});
