// Find: the arrows walk what was found, Enter goes there.
import { all, one, press } from "./page.js";

let goWhenFound = false;  // Enter came before the answer to what is typed

export function closeFound() { const found = one("#found"); if (found) found.replaceChildren(); goWhenFound = false; }

function foundFits() {
  const shown = one("#found [data-text]");
  return Boolean(shown) && shown.dataset.text === one("[data-find]").value.trim();
}
document.addEventListener("keydown", (event) => {
  if (!event.target.matches("[data-find]") || !["ArrowDown", "ArrowUp", "Enter"].includes(event.key)) return;
  event.preventDefault();
  if (event.key === "Enter" && !foundFits()) { goWhenFound = Boolean(event.target.value.trim()); return; }
  const links = all("#found a[data-found]");
  if (!links.length) return;
  const at = links.findIndex((link) => link.hasAttribute("data-here"));
  if (event.key === "Enter") { links[Math.max(at, 0)].click(); return; }
  const next = Math.max(0, Math.min(links.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)));
  links.forEach((link, i) => link.toggleAttribute("data-here", i === next));
  links[next].scrollIntoView({ block: "nearest" });
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "found" || !goWhenFound || !foundFits()) return;
  goWhenFound = false;
  press("#found a[data-found]");
});
document.addEventListener("click", (event) => { if (!event.target.closest(".find")) closeFound(); });
