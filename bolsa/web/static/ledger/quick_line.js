// The quick line: Tab takes the completion shown.
import { one } from "../page.js";

let typedMeanwhile = "";

function takeCompletion(words) {
  const line = one("[data-quick]");
  line.value = `${words} `;
  line.focus();
  line.dispatchEvent(new Event("input", { bubbles: true }));
}
document.addEventListener("keydown", (event) => {
  if (event.key !== "Tab" || event.shiftKey || !event.target.matches("[data-quick]")) return;
  const shown = one("[data-completed]");
  if (shown && shown.dataset.completed.toLowerCase().startsWith(event.target.value.toLowerCase().slice(0, -1)) && !event.target.value.endsWith(" ")) { event.preventDefault(); takeCompletion(shown.dataset.completed); }
});
document.addEventListener("click", (event) => { const shown = event.target.closest("[data-completed]"); if (shown) takeCompletion(shown.dataset.completed); });

// The line is free for the next receipt as soon as Enter is pressed; what is typed meanwhile is kept when the answer comes.
document.addEventListener("htmx:beforeRequest", (event) => {
  const line = one("[data-quick]", event.target);
  if (line && event.target.matches("form")) line.value = "";
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const line = one("[data-quick]");
  if (line && event.detail.target.id === "work") typedMeanwhile = line.value;
});
document.addEventListener("htmx:afterSettle", () => {
  const line = one("[data-quick]");
  if (!line || !typedMeanwhile) return;
  line.value = typedMeanwhile;
  typedMeanwhile = "";
  line.focus();
  line.dispatchEvent(new Event("input", { bubbles: true }));
});
