// Accounts: a form shows what its kind asks for; rows are dragged into another's place.
import { all, one } from "../page.js";

document.addEventListener("change", (event) => {
  if (!event.target.matches("[data-kind]")) return;
  all("[data-of-kind]").forEach((field) => { field.hidden = !field.dataset.ofKind.split(" ").includes(event.target.value); });
});
let dragged = null;
document.addEventListener("dragstart", (event) => { dragged = event.target.closest && event.target.closest("tr[data-account]"); });
document.addEventListener("dragover", (event) => {
  const over = event.target.closest && event.target.closest("tr[data-account]");
  if (dragged && over && over.dataset.everyday === dragged.dataset.everyday) event.preventDefault();
});
document.addEventListener("drop", (event) => {
  const over = event.target.closest && event.target.closest("tr[data-account]");
  const form = one("[data-drag]");
  if (!dragged || !over || over === dragged || !form) return;
  event.preventDefault();
  const url = form.getAttribute("action").replace("/0/", `/${dragged.dataset.account}/`);
  form.setAttribute("action", url);
  form.removeAttribute("hx-post");
  one("[name=to]", form).value = over.dataset.account;
  form.submit();
});
