// The order of categories: a row is dragged to its place; the form that holds the list is sent at once. Without script each row has
// buttons, and by keys Shift and J or K move the row one is at.
import { all, one } from "../page.js";

const rowOf = (target) => (target.closest ? target.closest("[data-order] tr[data-id]") : null);
let dragged = null;

document.addEventListener("dragstart", (event) => {
  dragged = rowOf(event.target);
  if (!dragged) return;
  event.dataTransfer.effectAllowed = "move";
  event.dataTransfer.setData("text/plain", dragged.dataset.id);
  dragged.setAttribute("data-dragged", "");
});
document.addEventListener("dragover", (event) => {
  const over = dragged && rowOf(event.target);
  if (!over) return;
  event.preventDefault();
  all("[data-over]").forEach((row) => row.removeAttribute("data-over"));
  over.setAttribute("data-over", "");
});
document.addEventListener("drop", (event) => {
  const over = dragged && rowOf(event.target);
  if (!over || over === dragged) return;
  event.preventDefault();
  over.before(dragged);
  one("#order").requestSubmit();
});
document.addEventListener("dragend", () => {
  all("[data-dragged], [data-over]").forEach((row) => { row.removeAttribute("data-dragged"); row.removeAttribute("data-over"); });
  dragged = null;
});
