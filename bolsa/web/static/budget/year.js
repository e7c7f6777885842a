// The year's cells: a field shows the figure, and while one is in it what was typed; a change is kept at once; arrows walk the column.
// A row that is pasted is kept whole; Ctrl D takes the figure above.
import { all, one } from "../page.js";

const cellOf = (target) => (target.matches && target.matches("[data-cell]") ? target : null);

function keep(cell, text = cell.value) {
  const form = one("#year-cell");
  const [, category, month] = cell.name.split(".");
  form.elements.category_id.value = category;
  form.elements.cell.value = month;
  form.elements.expected.value = text;
  form.requestSubmit();
}

function beside(cell, by) {
  const month = cell.name.split(".")[2];
  const column = all("[data-cell]").filter((other) => other.name.endsWith(month));
  return column[column.indexOf(cell) + by];
}

function step(cell, by) {
  const next = beside(cell, by);
  if (next) { next.focus(); next.select(); }
  return Boolean(next);
}

function takeFromAbove(cell) {
  const above = beside(cell, -1);
  if (!above) return;
  cell.value = above.dataset.cell || above.defaultValue || (above.placeholder === "–" ? "0" : above.placeholder);
}

document.addEventListener("focusin", (event) => {
  const cell = cellOf(event.target);
  if (cell && cell.value === cell.defaultValue && cell.dataset.cell) { cell.value = cell.dataset.cell; cell.select(); }
});
document.addEventListener("focusout", (event) => {
  const cell = cellOf(event.target);
  if (!cell || cell.dataset.pasted) return;
  if (cell.value.trim() === (cell.dataset.cell || cell.defaultValue)) cell.value = cell.defaultValue;
  else keep(cell);
});
document.addEventListener("paste", (event) => {
  const cell = cellOf(event.target);
  const text = cell ? event.clipboardData.getData("text").replace(/\r?\n[^]*$/, "") : "";
  if (!text.includes("\t")) return;
  event.preventDefault();
  cell.dataset.pasted = "yes";
  keep(cell, text);
});
document.addEventListener("keydown", (event) => {
  const cell = cellOf(event.target);
  if (!cell) return;
  if (event.key === "d" && (event.ctrlKey || event.metaKey)) { event.preventDefault(); takeFromAbove(cell); return; }
  const by = { ArrowDown: 1, ArrowUp: -1, Enter: 1 }[event.key];
  if (by) { event.preventDefault(); if (!step(cell, by)) cell.blur(); }
  if (event.key === "Escape") cell.value = cell.dataset.cell || cell.defaultValue;
}, true);
