// Begins every page: what all pages have, then the modules for what stands on this one. Everything here also works without script,
// by links and forms.
import { one } from "./page.js";
import "./slips.js";
import "./rows.js";
import "./keys.js";
import "./ribbon.js";
import "./find.js";
import "./forms.js";

// Loaded when a page, or what htmx put into it, first shows such a thing.
const PARTS = {
  "select[data-picker], input[data-suggest]": "./parts/picker.js",
  "[data-day-field]": "./parts/day.js",
  "[data-picture]": "./parts/pictures.js",
  "[data-foot], input[data-pick]": "./parts/choosing.js",
  "[data-copy], [data-print-now]": "./parts/copying.js",
  ".register, .entry-form": "./ledger/entry.js",
  "[data-quick]": "./ledger/quick_line.js",
  "[data-cell]": "./budget/year.js",
  "[data-step]": "./budget/month.js",
  "[data-order]": "./budget/order.js",
  "[data-kind], tr[data-account]": "./accounts/accounts.js",
};

function loadParts() {
  for (const [shown, part] of Object.entries(PARTS)) if (one(shown)) import(part);
}

loadParts();
document.addEventListener("htmx:afterSettle", loadParts);
