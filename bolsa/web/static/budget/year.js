// The year's cells: a field shows the figure, and while one is in it what was typed; a change is kept at once; arrows walk the column.
import { all, one } from "../page.js";

const cellOf = (target) => (target.matches && target.matches("[data-cell]") ? target : null);

function keep(cell) {
  const form = one("#year-cell");
  const [, category, month] = cell.name.split(".");
  form.elements.category_id.value = category;
  form.elements.cell.value = month;
  form.elements.expected.value = cell.value;
  form.requestSubmit();
}

function step(cell, by) {
  const month = cell.name.split(".")[2];
  const column = all("[data-cell]").filter((other) => other.name.endsWith(month));
  const next = column[column.indexOf(cell) + by];
  if (next) { next.focus(); next.select(); }
  return Boolean(next);
}

document.addEventListener("focusin", (event) => {
  const cell = cellOf(event.target);
  if (cell && cell.value === cell.defaultValue && cell.dataset.cell) { cell.value = cell.dataset.cell; cell.select(); }
});
document.addEventListener("focusout", (event) => {
  const cell = cellOf(event.target);
  if (!cell) return;
  if (cell.value.trim() === (cell.dataset.cell || cell.defaultValue)) cell.value = cell.defaultValue;
  else keep(cell);
});
document.addEventListener("keydown", (event) => {
  const cell = cellOf(event.target);
  if (!cell) return;
  const by = { ArrowDown: 1, ArrowUp: -1, Enter: 1 }[event.key];
  if (by) { event.preventDefault(); if (!step(cell, by)) cell.blur(); }
  if (event.key === "Escape") cell.value = cell.dataset.cell || cell.defaultValue;
}, true);
