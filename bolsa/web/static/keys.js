// Keys: what each does, everywhere; see shared/_keys.html.
import { isTyping, one, press } from "./page.js";
import { closeFound } from "./find.js";
import { rowHere, walk } from "./rows.js";
import { closeSlip } from "./slips.js";

let waitingForPage = false;

const KEYS = {
  j: () => walk(1),
  k: () => walk(-1),
  x: () => rowHere() && press("input[data-pick]", rowHere()),
  e: () => rowHere() && press("[data-edit]", rowHere()),
  Enter: () => (rowHere() ? press("[data-open]", rowHere()) : press("[data-key=Enter]")),
  n: () => { const line = one("[data-new]"); if (line) (line.matches("input") ? line.focus() : line.click()); return Boolean(line); },
  u: () => press("[data-undo]") || sayNothingToUndo(),
  w: () => press(".said a.txt"),
  c: () => { const choice = one("[data-other]"); if (choice) choice.focus(); return Boolean(choice); },
  t: () => { const choice = one("[data-transfer]"); if (choice) choice.focus(); return Boolean(choice) || press("[data-key=t]"); },
  K: () => rowHere() && press("[data-move=up]", rowHere()),
  J: () => rowHere() && press("[data-move=down]", rowHere()),
  d: () => { const parts = one("[data-divide]"); if (parts) { parts.open = true; one("[name=size]", parts).focus(); } return Boolean(parts); },
  o: () => press("[data-key=o]"),
  a: () => press("[data-key=a]"),
  r: () => press("[data-key=r]"),
  "/": () => { const find = one("[data-find]"); if (find) { find.focus(); find.select(); } return Boolean(find); },
  f: () => { const filter = one("[data-filter]"); if (filter) { filter.focus(); filter.select(); } return Boolean(filter); },
  "[": () => press(".ribbon a:has(+ [aria-current])"),
  "]": () => press(".ribbon [aria-current] + a"),
  "?": () => { one("#keys").showModal(); return true; },
};
for (const key of "123456789bmpsy") KEYS[key] = () => press(`[data-key="${key}"]`);

// What was done is told once, with its undo; after a reload the key says where it can be undone still.
function sayNothingToUndo() {
  const words = one("#nothing-to-undo");
  words.parentElement.append(words.content.cloneNode(true));
  words.remove();
  return true;
}

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") {
    if (closeSlip()) return;
    if (event.target.matches("[data-find]")) closeFound();
    if (isTyping(event.target)) { event.target.blur(); return; }
    press("[data-cancel]");
    return;
  }
  if (event.key === "F2" && press(".entry-form [data-more]")) { event.preventDefault(); return; }
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target) || one("dialog[open]")) return;
  if (waitingForPage) {
    waitingForPage = false;
    if (press(`[data-go="${event.key}"]`)) event.preventDefault();
    return;
  }
  if (event.key === "g") { waitingForPage = true; return; }
  if (event.key === "Enter" && event.target.closest("a, button, summary, input")) return;
  const act = KEYS[event.key];
  if (act && act() !== false) event.preventDefault();
});
