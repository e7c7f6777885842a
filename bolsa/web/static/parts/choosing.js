// Choosing rows fills the foot bar.
import { all, one } from "../page.js";

function showFoot() {
  const foot = one("[data-foot]");
  if (!foot) return;
  const chosen = all("input[data-pick]:checked");
  foot.hidden = !chosen.length;
  const count = one("[data-count]", foot);
  if (count) count.textContent = chosen.length;
  if (chosen.length && one("[data-chosen]", foot)) document.body.dispatchEvent(new Event("picked"));
}
function showFieldsFor(choice) {
  all("[data-for]").forEach((field) => { field.hidden = !field.dataset.for.split(" ").includes(choice.value); });
}
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-pick-all]")) all("input[data-pick]").forEach((box) => { box.checked = event.target.checked; });
  if (event.target.matches("[data-pick], [data-pick-all]")) showFoot();
  if (event.target.matches("[data-what]")) showFieldsFor(event.target);
});
document.addEventListener("htmx:afterSettle", (event) => { if (!event.target.closest("[data-foot]")) showFoot(); });
window.addEventListener("pageshow", showFoot);
showFoot();
