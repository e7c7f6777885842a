// Rows: j and k walk them, a click anywhere on one opens it; a page that was swapped keeps its place.
import { all, one, press } from "./page.js";

let here = -1;

export function walk(step) {
  const rows = all("[data-row]");
  if (!rows.length) return;
  const current = rows.findIndex((row) => row.hasAttribute("data-here"));
  here = Math.max(0, Math.min(rows.length - 1, current < 0 ? (step > 0 ? 0 : rows.length - 1) : current + step));
  rows.forEach((row, i) => row.toggleAttribute("data-here", i === here));
  rows[here].scrollIntoView({ block: "nearest" });
}

export const rowHere = () => one("[data-row][data-here]");

function keepPlace() {
  const rows = all("[data-row]");
  if (rows[here] && !rowHere()) rows[here].setAttribute("data-here", "");
}

// The row with this number is the one at hand once the page is swapped.
export function comeBackTo(place) { here = place; }

// A row opens by a click anywhere on it that is not meant for something in it, nor marks words to copy.
document.addEventListener("click", (event) => {
  const row = event.target.closest("[data-row]");
  if (!row || event.target.closest("a, button, input, select, label, summary, [role=listbox]") || String(getSelection())) return;
  all("[data-row][data-here]").forEach((other) => other.toggleAttribute("data-here", other === row));
  row.setAttribute("data-here", "");
  here = all("[data-row]").indexOf(row);
  press("[data-open]", row);
});

document.addEventListener("htmx:afterSettle", keepPlace);

// Who decides one after the other goes on where they were: the field of that name in the page that comes.
let kept = "";
document.addEventListener("htmx:beforeRequest", (event) => {
  const place = event.target.closest("[data-focus]");
  kept = place && event.detail.requestConfig.verb === "post" ? place.dataset.focus : "";
});
document.addEventListener("htmx:afterSettle", () => {
  const place = kept && one(`[data-focus="${kept}"] input:not([type=hidden])`);
  kept = "";
  if (place) setTimeout(() => place.focus());
});
