// A list as CSV on the clipboard, and on paper.
import { one } from "../page.js";

document.addEventListener("click", async (event) => {
  const copy = event.target.closest("[data-copy]");
  if (!copy) return;
  const reply = await fetch(copy.dataset.copy);
  await navigator.clipboard.writeText(await reply.text());
  const words = copy.textContent;
  copy.textContent = "Copied";
  setTimeout(() => { copy.textContent = words; }, 4000);
});

if (one("[data-print-now]")) window.print();
